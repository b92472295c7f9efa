// The outline of the write-up: blocks are moved by dragging their handle. Arrows beside them do the same by keys.
import { send } from "./edits.js";

/** The block that is dragged, and the one it would stand before. @type {{ block: HTMLElement, before: HTMLElement | null, pointer: number } | null} */
let drag = null;

const blocks = () => /** @type {HTMLElement[]} */ ([...document.querySelectorAll("#part-texts .write-outline li[data-block]")]);

/** @param {HTMLElement | null} block */
const key = (block) => (block ? JSON.parse(block.dataset.block ?? "null") : null);

/** The block below a height on the screen; none below the last one. @param {number} y */
function below(y) {
  return blocks().find((block) => {
    const { top, height } = block.getBoundingClientRect();
    return y < top + height / 2;
  }) ?? null;
}

function end() {
  for (const block of blocks()) block.classList.remove("dragged", "target");
  drag = null;
}

export function startOutline() {
  document.addEventListener("pointerdown", (event) => {
    const grip = event.target instanceof Element ? event.target.closest("[data-grip]") : null;
    const block = /** @type {HTMLElement | null} */ (grip?.closest("li[data-block]") ?? null);
    if (!block || event.button !== 0) return;
    event.preventDefault();
    drag = { block, before: block, pointer: event.pointerId };
    block.classList.add("dragged");
  });
  document.addEventListener("pointermove", (event) => {
    if (!drag || event.pointerId !== drag.pointer) return;
    drag.before = below(event.clientY);
    for (const block of blocks()) block.classList.toggle("target", block === drag.before && block !== drag.block);
  });
  document.addEventListener("pointerup", (event) => {
    if (!drag || event.pointerId !== drag.pointer) return;
    const { block, before } = drag;
    end();
    const next = block.nextElementSibling;
    if (before !== block && before !== next) void send({ write_up: { move: { block: key(block), before: key(before) } } });
  });
  document.addEventListener("pointercancel", end);
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && drag) end();
  });
}
