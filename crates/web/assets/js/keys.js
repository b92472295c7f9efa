// Keys of the bench. They rest while somebody types.
import { send, writable } from "./edits.js";
import { toggleMargin } from "./margin.js";
import { goTo, steps } from "./steps.js";

/** @param {Element | null} element */
const typing = (element) =>
  element instanceof HTMLTextAreaElement ||
  element instanceof HTMLSelectElement ||
  (element instanceof HTMLInputElement && !["checkbox", "radio"].includes(element.type));

/** @typedef {import("./footage.js").FootageStage & { markHere?: () => void, plan?: import("./plan.js").Plan }} AnyStage */

/** Where it is kept whether single letters and digits are commands. */
const SINGLE_KEYS = "zeitmass single keys";

/** The box in the list of keys. */
function startChoice() {
  const box = document.getElementById("single-keys");
  if (!(box instanceof HTMLInputElement)) return;
  box.checked = localStorage.getItem(SINGLE_KEYS) !== "off";
  box.addEventListener("change", () => localStorage.setItem(SINGLE_KEYS, box.checked ? "on" : "off"));
}

/** @param {AnyStage} stage */
export function startKeys(stage) {
  startChoice();
  document.addEventListener("keydown", (event) => {
    const focus = document.activeElement;
    if (event.defaultPrevented || document.querySelector("dialog[open]")) return;
    if (typing(focus)) return;
    if ((event.ctrlKey || event.metaKey) && !["z", "y"].includes(event.key.toLowerCase())) return;
    if (event.altKey) return;
    const act = action(event, stage, focus);
    if (!act) return;
    event.preventDefault();
    act();
  });
}

/** @param {KeyboardEvent} event @param {AnyStage} stage @param {Element | null} focus */
function action(event, stage, focus) {
  // Space presses, opens or ticks what has the focus; it and the arrows move what can be scrolled, and choose among answers.
  const onButton = focus?.matches("button, a:not(.spine a), summary, input") ?? false;
  const elsewhere = focus !== document.body && focus?.closest(".stage-box") === null;
  const scrolls = elsewhere && (focus?.matches('[tabindex="0"], input[type="radio"]') ?? false);
  const step = event.shiftKey ? 10 : 1;
  if (scrolls && (event.key === " " || event.key.startsWith("Arrow"))) return null;
  switch (event.key) {
    case "ArrowLeft":
      return () => stage.step(-step);
    case "ArrowRight":
      return () => stage.step(step);
    case " ":
      return onButton ? null : () => stage.toggle();
  }
  // Whoever speaks to the computer may have single letters off.
  if (localStorage.getItem(SINGLE_KEYS) === "off" && !event.ctrlKey && !event.metaKey) return null;
  if (event.key === "?") return () => /** @type {HTMLDialogElement} */ (document.getElementById("help-dialog")).showModal();
  if ("+=-\u2212".includes(event.key)) return () => stage.lens.step("+=".includes(event.key) ? 1 : -1);
  const chosen = /^[1-9]$/.test(event.key) ? steps()[Number(event.key) - 1] : undefined;
  if (chosen) return () => goTo(chosen);
  if (event.key.toLowerCase() === "q") return toggleMargin;
  if (!writable()) return null;
  switch (event.key.toLowerCase()) {
    case "0":
      return () => stage.zeroHere();
    case "m":
      return stage.markHere ? () => stage.markHere?.() : null;
    case "n":
      return stage.plan ? () => void stage.plan?.trial() : null;
    case "t":
      return () => /** @type {HTMLElement | null} */ (document.querySelector("[data-log-trial]:not([disabled])"))?.click();
    case "s":
      return () => stage.split("start");
    case "e":
      return () => stage.split("end");
    case "l":
      return () => stage.enterReading();
    case "z":
      return () => void send(event.shiftKey ? "redo" : "undo");
    case "y":
      return event.ctrlKey || event.metaKey ? () => void send("redo") : null;
  }
  return null;
}
