// Keys of the bench. They rest while somebody types.
import { log } from "./record.js";
import { send, writable } from "./edits.js";
import { STEPS, goTo } from "./steps.js";

/** @param {Element | null} element */
const typing = (element) =>
  element instanceof HTMLTextAreaElement ||
  element instanceof HTMLSelectElement ||
  (element instanceof HTMLInputElement && !["checkbox", "radio"].includes(element.type));

/** @typedef {import("./stage.js").Stage | import("./film.js").FilmStage} AnyStage */

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
  const onButton = focus instanceof HTMLButtonElement || focus instanceof HTMLAnchorElement;
  const step = event.shiftKey ? 10 : 1;
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
  if (/^[1-6]$/.test(event.key)) return () => goTo(STEPS[Number(event.key) - 1]);
  if (!writable()) return null;
  switch (event.key.toLowerCase()) {
    case "0":
      return () => stage.zeroHere();
    case "m":
      return "markHere" in stage ? () => stage.markHere() : null;
    case "s":
      return () => stage.split("start");
    case "e":
      return () => stage.split("end");
    case "l":
      return () => {
        const reading = stage.reading("split");
        if (reading) void log(reading);
      };
    case "z":
      return () => void send({ edit: event.shiftKey ? "redo" : "undo" });
    case "y":
      return event.ctrlKey || event.metaKey ? () => void send({ edit: "redo" }) : null;
  }
  return null;
}
