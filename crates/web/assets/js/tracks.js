// Curves against time beside the stage. They grow as the run goes; earlier runs stay faint behind them.
import { svg } from "./scene.js";
import { stage } from "./words.js";

/** @typedef {import("./scene.js").Footage} Footage */

const EDGE = { left: 58, right: 10, top: 18, bottom: 16 };
/** Ends of the axis of a long run, in s that it plays: it grows as the run goes. A run up to the first is shown whole. */
const GROWS = [15, 30, 60];
/** Width in px from which curves stand in two columns. */
const WIDE = 500;
/** Share of its largest value a curve's range must have for its axis to begin at zero. */
const NEAR_ZERO = 0.3;
/** Most points of a curve. */
const MOST = 900;

/** A round step for about `count` intervals. @param {number} range @param {number} count */
export function roundStep(range, count) {
  const raw = range / count;
  const ten = 10 ** Math.floor(Math.log10(raw));
  return [1, 2, 5, 10].map((k) => k * ten).find((s) => s >= raw * 0.999) ?? raw;
}

/** @param {number} value @param {number} step */
const label = (value, step) => value.toFixed(Math.max(0, -Math.floor(Math.log10(step) + 1e-9))).replace("-", "\u2212");

export class Tracks {
  /** @param {HTMLElement} box */
  constructor(box) {
    this.box = box;
    /** What it holds, in pixels. @type {{ width: number, height: number }} */
    this.room = { width: 0, height: 0 };
    /** @type {Footage | null} */
    this.footage = null;
    /** @type {Footage[]} */
    this.faint = [];
    /** @type {{ rect: Element, dot: Element, values: Float64Array, x: (t: number) => number, y: (v: number) => number }[]} */
    this.curves = [];
    this.frame = 0;
    /** Time up to which the curves were seen, in s. */
    this.seen = 0;
    /** End of the axis, in s. */
    this.seconds = 1;
    /** End of the longest run, in s. */
    this.whole = 1;
    new ResizeObserver(([entry]) => {
      this.room = entry.contentRect;
      this.draw();
    }).observe(box);
  }

  /** @param {Footage | null} footage @param {Footage[]} faint */
  set(footage, faint) {
    if (footage !== this.footage) this.seen = 0;
    this.footage = footage;
    // Curves over days do not go behind curves over years.
    this.faint = faint.filter((f) => f.time === footage?.time);
    this.box.hidden = !footage || footage.tracks.length === 0;
    this.draw();
  }

  draw() {
    const { footage, box } = this;
    const { width, height } = this.room;
    this.curves = [];
    if (!footage || footage.tracks.length === 0 || width < 80 || height < 40) return box.replaceChildren();
    // Two columns where rows would become too low.
    const columns = footage.tracks.length > 2 && width > WIDE ? 2 : 1;
    const each = Math.floor(height / Math.ceil(footage.tracks.length / columns));
    box.classList.toggle("two", columns === 2);
    const all = [footage, ...this.faint];
    // As long as it plays, whatever the unit of its times.
    const pace = footage.every / footage.frame;
    this.whole = Math.max(pace, ...all.map((f) => (f.frames - 1) * f.every));
    this.seconds = Math.min(this.whole, GROWS.map((end) => end * pace).find((end) => end >= this.seen) ?? this.whole);
    box.replaceChildren(...footage.tracks.map((track, k) => this.curve(track, k, { width: Math.floor(width / columns), height: each }, this.seconds, all)));
    this.show(this.frame);
  }

  /** @param {Footage["tracks"][0]} track @param {number} k @param {{ width: number, height: number }} size @param {number} seconds @param {Footage[]} all */
  curve(track, k, { width, height }, seconds, all) {
    const surface = svg("svg", { viewBox: `0 0 ${width} ${height}`, width, height, role: "img", "aria-label": stage.against(track.channel) });
    const ends = all.flatMap((f) => {
      const values = f.channels[track.channel] ?? [];
      return [values.reduce((a, b) => Math.min(a, b), Infinity), values.reduce((a, b) => Math.max(a, b), -Infinity)];
    });
    let [low, high] = [Math.min(...ends), Math.max(...ends)];
    if (high - low > NEAR_ZERO * Math.max(Math.abs(low), Math.abs(high))) [low, high] = [Math.min(low, 0), Math.max(high, 0)];
    if (!(high - low > 1e-9)) [low, high] = [low - 1, high + 1];
    const room = 0.06 * (high - low);
    [low, high] = [low === 0 ? 0 : low - room, high === 0 ? 0 : high + room];
    const [right, bottom] = [width - EDGE.right, height - EDGE.bottom];
    const x = (/** @type {number} */ t) => EDGE.left + (t / seconds) * (right - EDGE.left);
    const y = (/** @type {number} */ v) => bottom - ((v - low) / (high - low)) * (bottom - EDGE.top);
    const text = { fill: "#C3C6BF", "font-size": 11, "font-family": "IBM Plex Mono" };
    let grid = "";
    const up = roundStep(high - low, Math.max(2, height / 34));
    for (let i = Math.ceil(low / up); i * up <= high + 1e-9; i++) {
      grid += `M${EDGE.left} ${y(i * up)}H${right}`;
      const name = svg("text", { ...text, x: EDGE.left - 6, y: y(i * up) + 4, "text-anchor": "end" });
      name.textContent = label(i * up, up);
      surface.append(name);
    }
    const across = roundStep(seconds, Math.max(3, width / 90));
    for (let i = 0; i * across <= seconds + 1e-9; i++) {
      grid += `M${x(i * across)} ${EDGE.top}V${bottom}`;
      const name = svg("text", { ...text, x: x(i * across), y: height - 4, "text-anchor": "middle" });
      name.textContent = label(i * across, across);
      surface.append(name);
    }
    surface.prepend(svg("path", { d: grid, stroke: "#263845" }));
    const axis = low <= 0 && high >= 0 ? y(0) : bottom;
    surface.append(svg("path", { d: `M${EDGE.left} ${axis}H${right}M${EDGE.left} ${EDGE.top}V${bottom}`, stroke: "#7D8A90" }));
    const title = svg("text", { x: EDGE.left + 4, y: 12, fill: "#E9E4D6", "font-size": 12, "font-family": "Barlow" });
    const [base, index = ""] = track.symbol.split("_");
    title.append(Object.assign(svg("tspan", { "font-style": "italic" }), { textContent: base }), Object.assign(svg("tspan", { "font-size": 9, dy: 3 }), { textContent: index }), Object.assign(svg("tspan", { dy: index ? -3 : 0 }), { textContent: ` (${track.unit})  against ${all[0].symbol} (${all[0].time})` }));
    surface.append(title);
    for (const f of this.faint) surface.append(svg("path", { d: line(f, track.channel, x, y, seconds), fill: "none", stroke: "#6B8496", "stroke-width": 1.2, "stroke-dasharray": "2 4" }));
    const id = `grown-${k}`;
    const clip = svg("clipPath", { id });
    const rect = svg("rect", { x: 0, y: 0, width: 0, height });
    clip.append(rect);
    const footage = all[0];
    const dot = svg("circle", { r: 3, fill: "#E9E4D6" });
    // What grows has a layer of its own, or grid and earlier runs would be painted anew at every frame.
    const grows = svg("svg", { viewBox: `0 0 ${width} ${height}`, width, height, "aria-hidden": "true" });
    grows.append(clip, svg("path", { d: line(footage, track.channel, x, y, seconds), fill: "none", stroke: "#E9E4D6", "stroke-width": 1.8, "clip-path": `url(#${id})` }), dot);
    this.curves.push({ rect, dot, values: footage.channels[track.channel] ?? new Float64Array(1), x, y });
    const both = Object.assign(document.createElement("div"), { className: "track" });
    both.append(surface, grows);
    return both;
  }

  /** @param {number} frame */
  show(frame) {
    this.frame = frame;
    if (!this.footage) return;
    const t = Math.min(frame, this.footage.frames - 1) * this.footage.every;
    this.seen = Math.max(this.seen, t);
    if (t > this.seconds + 1e-9 && this.seconds < this.whole && this.curves.length > 0) return this.draw();
    for (const { rect, dot, values, x, y } of this.curves) {
      rect.setAttribute("width", String(x(t) + 0.5));
      dot.setAttribute("cx", String(x(t)));
      dot.setAttribute("cy", String(y(values[Math.min(frame, values.length - 1)] ?? 0)));
    }
  }
}

/** @param {Footage} footage @param {string} channel @param {(t: number) => number} x @param {(v: number) => number} y @param {number} seconds */
function line(footage, channel, x, y, seconds) {
  const values = (footage.channels[channel] ?? new Float64Array(0)).subarray(0, Math.floor(seconds / footage.every + 1e-9) + 1);
  const every = Math.max(1, Math.floor(values.length / MOST));
  let d = "";
  for (let f = 0; f < values.length; f += every) d += `${f === 0 ? "M" : "L"}${x(f * footage.every).toFixed(1)} ${y(values[f]).toFixed(1)}`;
  return d;
}
