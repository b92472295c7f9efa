// Sketching a curve on empty axes: by pointer or finger, or by placing points with the keyboard.
import { whileHeld } from "./drag.js";
import { onParts } from "./parts.js";
import { digits } from "./numbers.js";
import { svg } from "./scene.js";
import { stage as words } from "./words.js";

/** Columns of a curve drawn freely. */
const COLUMNS = 120;
/** Pixels a pointer may move in a click that places a single point. */
const STILL = 4;

/** @typedef {[number, number]} Point */

/** Keeps a sketch: by its channel, its points. @callback Save @param {string} channel @param {Point[]} points @returns {void} */

class Sketch {
  /** @param {HTMLElement} box @param {Save} save */
  constructor(box, save) {
    this.save = save;
    this.box = box;
    this.channel = box.dataset.sketch ?? "";
    /** @type {Point} */
    this.pen = [0, 0];
    this.surface = /** @type {SVGSVGElement} */ (box.querySelector("svg.forecast"));
    this.left = this.top = this.low = 0;
    this.right = this.bottom = this.high = this.duration = 1;
    /** @type {Point[]} */
    this.points = [];
    this.read();
    box.addEventListener("pointerdown", (event) => this.pressed(event));
    box.addEventListener("keydown", (event) => this.key(event));
    box.addEventListener("focus", () => this.showPen());
  }

  /** Takes over what the logbook holds. */
  read() {
    this.surface = /** @type {SVGSVGElement} */ (this.box.querySelector("svg.forecast"));
    const { plot = "0,1,0,1", low = "0", high = "1", duration = "1" } = this.surface.dataset;
    [this.left, this.right, this.top, this.bottom] = plot.split(",").map(Number);
    [this.low, this.high, this.duration] = [Number(low), Number(high), Number(duration)];
    this.points = JSON.parse(this.box.dataset.points ?? "[]");
  }

  get open() {
    return this.box.dataset.open === "true";
  }

  /** @param {PointerEvent} event @returns {Point} */
  place(event) {
    const matrix = this.surface.getScreenCTM();
    const at = matrix ? new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse()) : { x: 0, y: 0 };
    const share = (/** @type {number} */ v) => Math.max(0, Math.min(1, v));
    const t = share((at.x - this.left) / (this.right - this.left)) * this.duration;
    return [t, this.low + share((this.bottom - at.y) / (this.bottom - this.top)) * (this.high - this.low)];
  }

  /** @param {PointerEvent} event */
  pressed(event) {
    if (!this.open) return;
    event.preventDefault();
    this.box.focus();
    const start = { x: event.clientX, y: event.clientY };
    let last = this.place(event);
    let drawn = false;
    whileHeld(this.box, event, (e) => {
      if (!drawn && Math.hypot(e.clientX - start.x, e.clientY - start.y) < STILL) return;
      drawn = true;
      const to = this.place(e);
      this.stroke(last, to);
      last = to;
      this.draw();
    }, () => {
      if (!drawn) this.add(last);
      this.pen = last;
      this.draw();
      this.keep();
    });
  }

  /** One value a time: what is drawn anew replaces what was there. @param {Point} a @param {Point} b */
  stroke(a, b) {
    const [from, to] = a[0] <= b[0] ? [a, b] : [b, a];
    const step = this.duration / COLUMNS;
    const [first, last] = [Math.ceil(from[0] / step - 0.5), Math.floor(to[0] / step + 0.5)];
    const at = (/** @type {number} */ t) => (to[0] - from[0] < 1e-9 ? b[1] : from[1] + ((to[1] - from[1]) * Math.max(0, Math.min(1, (t - from[0]) / (to[0] - from[0])))));
    this.points = this.points.filter(([t]) => t < first * step - 0.4 * step || t > last * step + 0.4 * step);
    for (let k = Math.max(0, first); k <= Math.min(COLUMNS, last); k++) this.points.push([k * step, at(k * step)]);
    this.points.sort((p, q) => p[0] - q[0]);
  }

  /** @param {Point} point */
  add(point) {
    const near = this.duration / COLUMNS / 2;
    this.points = [...this.points.filter(([t]) => Math.abs(t - point[0]) > near), point].sort((p, q) => p[0] - q[0]);
  }

  /** @param {KeyboardEvent} event */
  key(event) {
    if (!this.open) return;
    const [dt, dv] = [this.duration / (event.shiftKey ? 200 : 40), (this.high - this.low) / (event.shiftKey ? 200 : 40)];
    const by = { ArrowLeft: [-dt, 0], ArrowRight: [dt, 0], ArrowUp: [0, dv], ArrowDown: [0, -dv] }[event.key];
    if (by) {
      const held = (/** @type {number} */ v, /** @type {number} */ a, /** @type {number} */ b) => Math.max(a, Math.min(b, v));
      this.pen = [held(this.pen[0] + by[0], 0, this.duration), held(this.pen[1] + by[1], this.low, this.high)];
    } else if (event.key === "Enter" || event.key === " ") {
      this.add([...this.pen]);
      this.keep();
    } else if (event.key === "Delete" || event.key === "Backspace") {
      const far = (/** @type {Point} */ p) => Math.abs(p[0] - this.pen[0]);
      const nearest = [...this.points].sort((p, q) => far(p) - far(q))[0];
      this.points = this.points.filter((p) => p !== nearest);
      this.keep();
    } else return;
    event.preventDefault();
    event.stopPropagation();
    this.draw();
    this.showPen();
  }

  /** @param {Point} point */
  px([t, v]) {
    return [this.left + (t / this.duration) * (this.right - this.left), this.bottom - ((v - this.low) / (this.high - this.low)) * (this.bottom - this.top)];
  }

  draw() {
    const path = this.surface.querySelector(".sketch");
    path?.setAttribute("d", this.points.map((p, i) => `${i === 0 ? "M" : "L"}${this.px(p).map((c) => c.toFixed(1)).join(" ")}`).join(""));
    this.surface.querySelectorAll(".pen").forEach((e) => e.remove());
    // Points placed one by one are seen as such.
    if (this.points.length <= 40) for (const p of this.points) this.surface.append(svg("circle", { class: "pen", cx: this.px(p)[0], cy: this.px(p)[1], r: 3.5, fill: "#B98A1D" }));
  }

  showPen() {
    this.surface.querySelectorAll(".cross").forEach((e) => e.remove());
    const [x, y] = this.px(this.pen);
    this.surface.append(svg("path", { class: "cross pen", d: `M${x - 8} ${y}H${x + 8}M${x} ${y - 8}V${y + 8}`, stroke: "#C2402A", "stroke-width": 1.6 }));
    const line = this.box.parentElement?.querySelector("[data-pen]");
    if (line) line.textContent = words.pen(digits(this.pen[0], 2), digits(this.pen[1], 2));
  }

  /** Keeps the sketch; a single point is none yet. */
  keep() {
    const points = this.points.map(([t, v]) => [+t.toFixed(4), +v.toFixed(5)]);
    this.box.dataset.points = JSON.stringify(points);
    if (points.length !== 1) this.save(this.channel, /** @type {Point[]} */ (points));
  }
}

/** @type {WeakMap<Element, Sketch>} */
const sketches = new WeakMap();

/** @param {Save} save */
function adopt(save) {
  for (const box of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-sketch]"))) {
    const known = sketches.get(box);
    if (known) {
      known.read();
      known.draw();
    } else {
      const made = new Sketch(box, save);
      sketches.set(box, made);
      made.draw();
    }
  }
}

/** @param {Save} save */
export function startSketches(save) {
  adopt(save);
  onParts(() => adopt(save));
}
