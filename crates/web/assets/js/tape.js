// The tape: two ends moved by pointer, one finger or arrow keys; a loupe shows the reading end against millimetres.
import { whileHeld } from "./drag.js";
import { scaleNumber, svg } from "./scene.js";
import { stage as words } from "./words.js";

/** Divisions across what the loupe shows. */
const LOUPE = 24;

export class Tape {
  /** @param {SVGSVGElement} surface @param {SVGSVGElement} loupe @param {() => void} placed */
  constructor(surface, loupe, placed) {
    this.surface = surface;
    this.loupe = loupe;
    this.placed = placed;
    this.scale = 1;
    /** Smallest division, in metres. */
    this.division = 0.001;
    this.unit = "m";
    /** x and y of the zero end and of the reading end, in metres, y up. @type {number[] | null} */
    this.ends = null;
    this.busy = false;
    this.group = svg("g", { visibility: "hidden" });
    this.band = svg("g", {});
    this.group.append(this.band);
    this.handles = [0, 1].map((which) => this.handle(which));
    surface.append(this.group);
    loupe.setAttribute("viewBox", "0 0 150 150");
  }

  /** Another rig has another tape. @param {number} division @param {string} unit */
  divided(division, unit) {
    this.division = division;
    this.unit = unit;
    this.draw();
  }

  /** The ends are kept to a tenth of a division. @param {number} value */
  grain(value) {
    const grain = Math.round(10 / this.division);
    return Math.round(value * grain) / grain;
  }

  /** @param {number} which */
  handle(which) {
    const name = words.tape[which] ?? "";
    const group = svg("g", { class: "handle", tabindex: 0, role: "slider", "aria-label": name, "aria-valuemin": 0, "aria-valuemax": 0, "aria-valuenow": 0, "data-end": which });
    this.group.append(group);
    group.addEventListener("pointerdown", (event) => {
      if (!(event instanceof PointerEvent)) return;
      event.preventDefault();
      /** @type {SVGElement} */ (group).focus();
      this.busy = true;
      const from = this.ends && [this.ends[2 * which], this.ends[2 * which + 1]];
      whileHeld(group, event, (e) => {
        const matrix = this.surface.getScreenCTM();
        if (!matrix) return;
        const at = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix.inverse());
        this.move(which, at.x, -at.y);
      }, (_, kept) => {
        this.busy = false;
        if (kept) this.placed();
        else if (from) this.move(which, from[0], from[1]);
      });
    });
    group.addEventListener("keydown", (event) => {
      if (!(event instanceof KeyboardEvent) || !this.ends) return;
      const step = event.shiftKey ? 10 * this.division : this.division;
      const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[event.key];
      if (!by) return;
      event.preventDefault();
      event.stopPropagation();
      this.move(which, this.ends[2 * which] + by[0], this.ends[2 * which + 1] + by[1]);
      // One place in the logbook for a burst of key presses.
      clearTimeout(this.later);
      this.busy = true;
      this.later = setTimeout(() => {
        this.busy = false;
        this.placed();
      }, 500);
    });
    return group;
  }

  /** @param {number} which @param {number} x @param {number} y */
  move(which, x, y) {
    if (!this.ends) return;
    this.ends[2 * which] = this.grain(x);
    this.ends[2 * which + 1] = this.grain(y);
    this.draw();
  }

  /** @param {number[] | null} ends */
  set(ends) {
    this.ends = ends;
    this.draw();
  }

  /** Lays the tape beside the scene, along its longer side. @param {import("./scene.js").Bounds} bounds */
  lay({ left, right, bottom, top }) {
    const hangs = top < 0.2 * (top - bottom);
    const at = (/** @type {number} */ share) => left + share * (right - left);
    const up = (/** @type {number} */ share) => bottom + share * (top - bottom);
    const upright = top - bottom > 0.8 * (right - left) || hangs;
    const ends = hangs ? [at(0.72), 0, at(0.72), 0.7 * bottom] : upright ? [at(0.72), up(0.85), at(0.72), up(0.25)] : [at(0.25), up(0.72), at(0.7), up(0.72)];
    this.ends = ends.map((v) => this.grain(v));
    this.draw();
  }

  /** @param {number} index @param {number} value */
  type(index, value) {
    this.ends ??= [0, 0, 0, -0.5];
    this.ends[index] = this.grain(value);
    this.draw();
  }

  length() {
    return this.ends ? Math.hypot(this.ends[2] - this.ends[0], this.ends[3] - this.ends[1]) : null;
  }

  text() {
    return this.ends ? this.ends.join(",") : "";
  }

  /** @param {number} index */
  coordinate(index) {
    return this.ends ? this.ends[index].toFixed(4).replace("-", "\u2212") : "";
  }

  /** Pixels in a metre have changed. @param {number} scale @param {{ bottom: number }} bounds */
  scaled(scale, bounds) {
    this.scale = scale;
    this.bounds = bounds;
    this.draw();
  }

  draw() {
    this.group.setAttribute("visibility", this.ends ? "visible" : "hidden");
    this.loupe.toggleAttribute("hidden", !this.ends);
    if (!this.ends) return;
    const [ax, ay, bx, by] = this.ends;
    const length = this.length() ?? 0;
    const px = 1 / this.scale;
    const turn = (Math.atan2(-(by - ay), bx - ax) * 180) / Math.PI;
    this.band.setAttribute("transform", `translate(${ax} ${-ay}) rotate(${turn})`);
    this.band.replaceChildren(
      svg("rect", { x: -0.5, y: -9 * px, width: length + 1, height: 34 * px, fill: "transparent", "pointer-events": "none" }),
      svg("path", { d: `M0 0H${length}`, stroke: "#E9E4D6", "stroke-width": 2 * px }),
    );
    // Only divisions that can be told apart are drawn; the loupe shows them all.
    const step = [1, 5, 10, 50, 100, 500, 1000, 5000].map((k) => k * this.division).find((s) => s * this.scale >= 4) ?? 1;
    const large = [10, 50, 100, 500, 1000, 5000, 10000].map((k) => k * this.division).find((s) => s * this.scale >= 34) ?? 5;
    let path = "";
    for (let i = 0; i * step <= length + 1e-9 && i < 4000; i++) {
      const major = Math.abs((i * step) / large - Math.round((i * step) / large)) < 1e-6;
      path += `M${i * step} 0v${(major ? 9 : 5) * px}`;
    }
    this.band.append(svg("path", { d: path, stroke: "#E9E4D6", "stroke-width": px }));
    for (let i = 0; i * large <= length + 1e-9 && i < 100; i++) {
      const label = svg("text", { x: 0, y: 0, "font-size": 11 * px, fill: "#E9E4D6", "font-family": "IBM Plex Mono", transform: `translate(${i * large} ${20 * px}) rotate(${-turn})`, "text-anchor": turn > 45 || turn < -45 ? (turn > 0 ? "end" : "start") : "middle" });
      label.textContent = (i * large).toFixed(large < 0.1 ? 2 : large < 1 ? 1 : 0);
      this.band.append(label);
    }
    this.handles.forEach((handle, which) => {
      handle.setAttribute("transform", `translate(${this.ends?.[2 * which]} ${-(this.ends?.[2 * which + 1] ?? 0)}) rotate(${turn})`);
      // In thousandths, from nothing to right across the picture.
      const { width, height } = this.surface.viewBox.baseVal;
      handle.setAttribute("aria-valuemax", String(Math.round(Math.max(length, Math.hypot(width, height)) * 1000)));
      handle.setAttribute("aria-valuenow", String(Math.round(length * 1000)));
      handle.setAttribute("aria-valuetext", `x ${this.coordinate(2 * which)} ${this.unit}, y ${this.coordinate(2 * which + 1)} ${this.unit}, tape ${length.toFixed(3)} ${this.unit}`);
      const out = which === 0 ? -1 : 1;
      handle.replaceChildren(
        svg("circle", { r: 22 * px, fill: "transparent" }),
        svg("rect", { x: (which === 0 ? -9 : 0) * px, y: -10 * px, width: 9 * px, height: 20 * px, fill: "#C2402A" }),
        svg("path", { d: `M0 ${-14 * px}V${14 * px}`, stroke: "#F0836F", "stroke-width": px, "data-out": out }),
      );
    });
    this.magnify(bx, by, turn, length);
  }

  /** The reading end in the loupe, turned so that the tape lies level and tenths can be estimated. @param {number} x @param {number} y @param {number} turn @param {number} length */
  magnify(x, y, turn, length) {
    this.enlarge([x, y], turn, length, [0, Infinity], this.division, (s, step) => s.toFixed(Math.max(0, Math.round(-Math.log10(step)))));
  }

  /** The loupe at a pointer that plays along a scale. @param {[number, number]} at @param {import("./scene.js").Shape} scale */
  lookAt([x, y], { zero = [0, 0], along = [1, 0], length = 1, division = 0.001 }) {
    this.loupe.removeAttribute("hidden");
    const turn = (Math.atan2(-along[1], along[0]) * 180) / Math.PI;
    this.enlarge([x, y], turn, (x - zero[0]) * along[0] + (y - zero[1]) * along[1], [0, length], division, (s, step) => scaleNumber(s, step, division));
  }

  /** What lies around a place, with the divisions of tape or scale. @param {[number, number]} place @param {number} turn @param {number} at @param {[number, number]} ends @param {number} division @param {(s: number, step: number) => string} number */
  enlarge([x, y], turn, at, ends, division, number) {
    const wide = LOUPE * division;
    const k = 150 / wide;
    const world = svg("use", { href: "#scene", transform: `translate(75 75) rotate(${-turn}) scale(${k}) translate(${-x} ${y})`, opacity: 0.4 });
    let path = "";
    const labels = [];
    const [first, last] = [Math.max(ends[0], at - wide / 2), Math.min(ends[1], at + wide / 2)];
    for (let i = Math.ceil(first / division - 1e-9); i * division <= last + 1e-12; i++) {
      const place = 75 + (i * division - at) * k;
      const tall = i % 10 === 0 ? 30 : i % 5 === 0 ? 22 : 14;
      path += `M${place} 110v${-tall}`;
      if (i % 10 === 0) {
        const label = svg("text", { x: place, y: 126, "font-size": 12, fill: "#E9E4D6", "font-family": "IBM Plex Mono", "text-anchor": "middle" });
        label.textContent = number(i * division, 10 * division);
        labels.push(label);
      }
    }
    this.loupe.replaceChildren(world, svg("path", { d: `M0 110H150`, stroke: "#E9E4D6" }), svg("path", { d: path, stroke: "#E9E4D6" }), ...labels, svg("path", { d: "M75 8V110", stroke: "#F0836F" }));
  }
}
