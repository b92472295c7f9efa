// Keys of the bench. They rest while somebody types.
import { send, writable } from "./edits.js";
import { toggleMargin } from "./margin.js";
import { goTo, steps } from "./steps.js";

/** @param {Element | null} element */
const typing = (element) =>
  element instanceof HTMLTextAreaElement ||
  element instanceof HTMLSelectElement ||
  (element instanceof HTMLInputElement && !["checkbox", "radio"].includes(element.type));

/** @typedef {import("./footage.js").FootageStage & { markHere?: () => void, trial?: () => Promise<void> }} AnyStage */

/** @param {AnyStage} stage */
export function startKeys(stage) {
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
  // Space presses, opens or ticks what has the focus.
  const onButton = focus?.matches("button, a, summary, input") ?? false;
  const step = event.shiftKey ? 10 : 1;
  // Arrows choose among answers.
  if (event.key.startsWith("Arrow") && focus?.matches('input[type="radio"]')) return null;
  switch (event.key) {
    case "ArrowLeft":
      return () => stage.step(-step);
    case "ArrowRight":
      return () => stage.step(step);
    case " ":
      return onButton ? null : () => stage.toggle();
    case "?":
      return () => /** @type {HTMLDialogElement} */ (document.getElementById("help-dialog")).showModal();
  }
  const chosen = /^[1-7]$/.test(event.key) ? steps()[Number(event.key) - 1] : undefined;
  if (chosen) return () => goTo(chosen);
  if (event.key.toLowerCase() === "q") return toggleMargin;
  if (!writable()) return null;
  switch (event.key.toLowerCase()) {
    case "0":
      return () => stage.zeroHere();
    case "m":
      return stage.markHere ? () => stage.markHere?.() : null;
    case "n":
      return stage.trial ? () => void stage.trial?.() : null;
    case "t":
      return () => /** @type {HTMLElement | null} */ (document.querySelector("[data-log-trial]:not([disabled])"))?.click();
    case "s":
      return () => stage.split("start");
    case "e":
      return () => stage.split("end");
    case "l":
      return () => stage.logReading("split");
    case "z":
      return () => void send(event.shiftKey ? "redo" : "undo");
    case "y":
      return event.ctrlKey || event.metaKey ? () => void send("redo") : null;
  }
  return null;
}
