// Handles on the picture: moved by pointer, one finger or arrow keys.
import { whileHeld } from "./drag.js";
import { svg } from "./scene.js";
import { film as words } from "./words.js";

/** @typedef {{ name: string, at: [number, number], moved: (at: [number, number]) => void, placed: (at: [number, number]) => void, kind?: string, deleted?: () => void, clicks?: () => boolean, clicked?: (event: PointerEvent) => void }} HandleOptions */

/** Rest after the last key press before the place is kept, in ms. */
const REST = 500;
/** So far a pointer may slip in a click, where clicks count, in px of the screen. */
const SLIP = 3;
const tenth = (/** @type {number} */ v) => Math.round(v * 10) / 10;

export class Handle {
  /** @param {SVGSVGElement} surface @param {HandleOptions} options */
  constructor(surface, options) {
    this.surface = surface;
    this.options = options;
    this.at = options.at;
    this.busy = false;
    this.group = svg("g", { class: `handle ${options.kind ?? ""}`, tabindex: 0, role: "slider", "aria-label": options.name, "aria-valuemin": 0, "aria-valuemax": surface.viewBox.baseVal.width });
    this.said();
    this.group.addEventListener("pointerdown", (event) => {
      if (!(event instanceof PointerEvent)) return;
      event.preventDefault();
      event.stopPropagation();
      /** @type {SVGElement} */ (this.group).focus();
      const [from, x, y] = [this.at, event.clientX, event.clientY];
      this.busy = true;
      let dragged = false;
      whileHeld(this.group, event, (e) => {
        if (!dragged && options.clicks?.() && Math.hypot(e.clientX - x, e.clientY - y) < SLIP) return;
        dragged = true;
        this.move(place(surface, e));
      }, (e, kept) => {
        this.busy = false;
        if (!kept) this.move(from);
        else if (dragged) options.placed(this.at);
        else options.clicked?.(e);
      });
    });
    this.group.addEventListener("keydown", (event) => {
      if (!(event instanceof KeyboardEvent)) return;
      if ((event.key === "Delete" || event.key === "Backspace") && this.options.deleted) {
        event.preventDefault();
        event.stopPropagation();
        this.options.deleted();
        return;
      }
      const step = event.shiftKey ? 1 : 0.1;
      const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
      if (!by) return;
      event.preventDefault();
      event.stopPropagation();
      this.move([tenth(this.at[0] + by[0]), tenth(this.at[1] + by[1])]);
      this.busy = true;
      clearTimeout(this.later);
      this.later = setTimeout(() => {
        this.busy = false;
        this.options.placed(this.at);
      }, REST);
    });
  }

  /** Says where it is. */
  said() {
    const [x, y] = this.at;
    this.group.setAttribute("aria-valuenow", String(x));
    this.group.setAttribute("aria-valuetext", words.at(x, y));
  }

  /** @param {[number, number]} at */
  move(at) {
    this.at = at;
    this.said();
    this.options.moved(at);
  }
}

/** Where a pointer is on the picture, in px. @param {SVGSVGElement} surface @param {PointerEvent} event @returns {[number, number]} */
export function place(surface, event) {
  const matrix = surface.getScreenCTM();
  if (!matrix) return [0, 0];
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
  return [tenth(at.x), tenth(at.y)];
}
