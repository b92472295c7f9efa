// The beat rail: the time of a run, with t = 0, the split and the moment on the stage. One drag scrubs.
import { digits } from "./numbers.js";
import { svg } from "./scene.js";

const HEIGHT = 58;
const EDGE = 16;
/** Frames of a page. */
const PAGE = 50;

export class Rail {
  /** @param {SVGSVGElement} surface @param {(frame: number) => void} go */
  constructor(surface, go) {
    this.surface = surface;
    this.go = go;
    this.frames = 1;
    this.every = 0.01;
    this.unit = "s";
    this.places = 2;
    /** What happened on the way: frame and word. @type {[number, string][]} */
    this.happened = [];
    this.zero = 0;
    this.at = 0;
    this.ticks = svg("g", { stroke: "#7d8a90" });
    this.labels = svg("g", { fill: "#c3c6bf", "font-size": 12, "font-family": "IBM Plex Mono", "text-anchor": "middle" });
    this.band = svg("rect", { y: 27, height: 5, fill: "#C2402A", width: 0 });
    this.flag = svg("g", {});
    this.flag.append(svg("path", { d: "M0 4V38", stroke: "#E9E4D6", "stroke-width": 2 }));
    const name = svg("text", { x: 9, y: 13, fill: "#E9E4D6", "font-size": 12, "font-family": "Barlow" });
    name.textContent = "t = 0";
    this.flag.append(name);
    this.marks = svg("g", { stroke: "#F0836F", "stroke-width": 2 });
    this.events = svg("g", { fill: "#E9E4D6", "font-size": 12, "font-family": "Barlow" });
    this.needle = svg("g", {});
    this.needle.append(svg("path", { d: "M0 6V38", stroke: "#E9E4D6" }), svg("path", { d: "M-6 2H6V11L0 17L-6 11Z", fill: "#E9E4D6" }));
    surface.append(this.ticks, this.band, this.marks, this.labels, this.events, this.flag, this.needle);
    // Measured when it changes, not at every frame, which would cost a layout each.
    this.width = 0;
    new ResizeObserver(() => {
      this.width = surface.getBoundingClientRect().width;
      this.draw();
    }).observe(surface);
    surface.addEventListener("pointerdown", (event) => {
      surface.setPointerCapture(event.pointerId);
      this.scrub(event);
    });
    surface.addEventListener("pointermove", (event) => {
      if (surface.hasPointerCapture(event.pointerId)) this.scrub(event);
    });
    surface.addEventListener("keydown", (event) => {
      const to = { Home: 0, End: this.frames - 1, PageUp: this.at + PAGE, PageDown: this.at - PAGE }[event.key];
      if (to === undefined) return;
      event.preventDefault();
      go(Math.max(0, Math.min(this.frames - 1, to)));
    });
  }

  /** @param {number} frame */
  x(frame) {
    return EDGE + ((this.width - 2 * EDGE) * frame) / Math.max(1, this.frames - 1);
  }

  /** @param {PointerEvent} event */
  scrub(event) {
    const share = (event.clientX - this.surface.getBoundingClientRect().left - EDGE) / (this.width - 2 * EDGE);
    this.go(Math.round(share * (this.frames - 1)));
  }

  /** @param {number} frames @param {number} every time between two frames @param {{ unit?: string, places?: number, happened?: [number, string][] }} [more] unit and decimals of times, and what happened on the way */
  set(frames, every, { unit = "s", places = 2, happened = [] } = {}) {
    Object.assign(this, { frames, every, unit, places, happened });
    this.surface.setAttribute("aria-valuemax", String(frames - 1));
    this.draw();
  }

  /** Where t = 0 and the split stand. @param {number} zero @param {number | undefined} start @param {number | undefined} end */
  mark(zero, start, end) {
    this.zero = zero;
    this.start = start;
    this.end = end;
    this.draw();
  }

  draw() {
    const { width } = this;
    if (width === 0) return;
    this.surface.setAttribute("viewBox", `0 0 ${width} ${HEIGHT}`);
    this.ticks.replaceChildren();
    this.labels.replaceChildren();
    // As many ticks as can be told apart: whole units of time, tens and tenths of them and their halves, or single frames.
    const seconds = (this.frames - 1) * this.every;
    const room = (width - 2 * EDGE) / Math.max(seconds, this.every);
    const decade = 10 ** Math.floor(Math.log10(Math.max(seconds, this.every)) - 3);
    const steps = [1, 5, 10, 50, 100, 500, 1000, 5000, 10000].map((k) => k * decade);
    const small = [this.every, ...steps.filter((s) => s > this.every)].find((s) => s * room >= 4) ?? seconds;
    const large = steps.find((s) => s * room >= 52 && s >= small) ?? seconds;
    const first = -this.zero * this.every;
    const line = (/** @type {number} */ t, /** @type {number} */ h) => {
      const x = this.x(t / this.every + this.zero);
      this.ticks.append(svg("path", { d: `M${x} ${38 - h}V38` }));
      return x;
    };
    for (let i = Math.ceil(first / small - 1e-9); i * small <= first + seconds + 1e-9; i++) line(i * small, 6);
    for (let i = Math.ceil(first / large - 1e-9); i * large <= first + seconds + 1e-9; i++) {
      const label = svg("text", { x: line(i * large, 14), y: 52 });
      label.textContent = String(Number((i * large).toPrecision(6))).replace("-", "\u2212");
      this.labels.append(label);
    }
    this.events.replaceChildren();
    // Words in two lines, each where there is room; the flag takes the first of the upper line.
    const ends = [this.x(this.zero) + 46, 0];
    for (const [frame, word] of this.happened) {
      const x = this.x(frame);
      const mark = svg("path", { d: `M${x} 6V38`, stroke: "#E9E4D6", "stroke-dasharray": "2 2" });
      mark.append(Object.assign(svg("title", {}), { textContent: word }));
      this.events.append(mark);
      const long = 6.2 * word.length;
      const left = Math.min(x + 4, width - long - 2);
      const line = ends.findIndex((end) => end < left);
      if (line < 0) continue;
      ends[line] = left + long + 6;
      const text = svg("text", { x: left, y: line === 0 ? 13 : 25 });
      text.textContent = word;
      this.events.append(text);
    }
    this.flag.setAttribute("transform", `translate(${this.x(this.zero)} 0)`);
    this.flag.setAttribute("visibility", this.frames > 1 ? "visible" : "hidden");
    const { start, end } = this;
    this.marks.replaceChildren();
    for (const moment of [start, end]) if (moment !== undefined) this.marks.append(svg("path", { d: `M${this.x(moment)} 20V38` }));
    const both = start !== undefined && end !== undefined;
    this.band.setAttribute("x", String(both ? this.x(Math.min(start, end)) : 0));
    this.band.setAttribute("width", String(both ? Math.abs(this.x(end) - this.x(start)) : 0));
    this.show(this.at);
  }

  /** Moves the needle; while a run plays nothing is said, or a reader of the screen would never come to rest. @param {number} frame @param {boolean} [playing] */
  show(frame, playing = false) {
    this.at = frame;
    this.needle.setAttribute("transform", `translate(${this.x(frame)} 0)`);
    if (playing) return;
    this.surface.setAttribute("aria-valuenow", String(frame));
    const time = digits((frame - this.zero) * this.every, this.places);
    this.surface.setAttribute("aria-valuetext", `frame ${frame}, ${time} ${this.unit}`);
  }
}
