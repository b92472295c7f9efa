// Settings are typed exactly, stepped by arrow keys, or dragged by their names.
import { whileHeld } from "./drag.js";
import { MINUS, numberOf } from "./numbers.js";

/** Pixels of a drag for one step. */
const PULL = 5;
/** Rest after the last key before the value is sent, in ms. */
const REST = 400;

/** The field moved by so many steps. @param {HTMLInputElement} field @param {number} steps */
function stepped(field, steps) {
  const step = Number(field.dataset.stepSize);
  const [, number = "0", unit = ""] = field.value.trim().match(/^([\d.,\u2212-]+)\s*(.*)$/) ?? [];
  const places = (String(step).split(".")[1] ?? "").length;
  field.value = `${(numberOf(number) + steps * step).toFixed(places).replace("-", MINUS)}${unit === "" ? "" : `\u00A0${unit}`}`;
}

/** @type {ReturnType<typeof setTimeout> | undefined} */
let later;
const send = (/** @type {HTMLElement} */ field) => field.dispatchEvent(new Event("change", { bubbles: true }));

export function startSettings() {
  document.addEventListener("keydown", (event) => {
    const field = event.target;
    if (!(field instanceof HTMLInputElement) || !field.dataset.stepSize || field.value.trim() === "") return;
    const by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (!by) return;
    event.preventDefault();
    stepped(field, by * (event.shiftKey ? 10 : 1));
    clearTimeout(later);
    later = setTimeout(() => send(field), REST);
  });
  document.addEventListener("pointerdown", (event) => {
    const name = event.target instanceof Element ? /** @type {HTMLElement | null} */ (event.target.closest("[data-drag]")) : null;
    const field = name && /** @type {HTMLInputElement | null} */ (document.getElementById(name.dataset.drag ?? ""));
    if (!name || !field || field.value.trim() === "") return;
    event.preventDefault();
    let [at, moved] = [event.clientX, false];
    whileHeld(name, event, (e) => {
      const steps = Math.trunc((e.clientX - at) / PULL);
      if (steps === 0) return;
      at += steps * PULL;
      moved = true;
      stepped(field, steps);
    }, () => {
      if (moved) send(field);
      else field.focus();
    });
  });
}
