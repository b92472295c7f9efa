// Arrows over a run, one by one on request. They are told apart by their heads and a letter at the tip; those of one unit share a
// scale, which is stated.
import { svg, unpack } from "./scene.js";
import { roundStep } from "./tracks.js";

/** @typedef {{ name: string, letter: string, kind: string, unit: string, longest: number, x: Float64Array, y: Float64Array, foot_x: Float64Array, foot_y: Float64Array }} Arrow */

/** Length of the longest arrow of a unit: in px, and as a share of the plate. */
const LONGEST = 120;
const SHARE = 0.33;
/** Pixels between an acceleration and what points the same way. */
const ASIDE = 9;
/** Shortest length of the longest arrow that is made to fit, in px, and what is kept free at the edges for its head and letter. */
const SHORTEST = 36;
const EDGE = 22;
const CHALK = "#E9E4D6";

export class Arrows {
  constructor() {
    this.group = svg("g", { class: "arrows" });
    this.legend = svg("g", { class: "arrow-scale" });
    /** Names of the arrows asked for. @type {Set<string>} */
    this.wanted = new Set();
    /** @type {Map<string, Arrow>} */
    this.loaded = new Map();
    this.run = 0;
    this.frame = 0;
    this.px = 0.01;
    this.view = { left: 0, right: 1, bottom: 0, top: 1 };
    /** How much longer than they come a person wants them. */
    this.longer = 1;
    /** Px for one unit at which all arrows stay in the picture, by unit; worked out anew when the picture or the arrows are others. @type {Map<string, number> | null} */
    this.fitting = null;
    /** Where the stated scale stands below the upper edge, in px; none until it is measured. @type {number | null} */
    this.below = null;
    /** Whether the scale stands at the lower left, since the loupe is at the upper right. */
    this.low = false;
  }

  /** Another run is on the stage. @param {number} run */
  async set(run) {
    this.run = run;
    this.loaded.clear();
    this.fitting = null;
    this.draw();
    await Promise.all([...this.wanted].map((name) => this.load(name)));
  }

  /** Shows an arrow, or no longer. @param {string} name */
  async toggle(name) {
    if (this.wanted.delete(name)) {
      this.loaded.delete(name);
      this.fitting = null;
      this.draw();
    } else {
      this.wanted.add(name);
      await this.load(name);
    }
  }

  /** @param {string} name */
  async load(name) {
    const { run } = this;
    if (run === 0) return;
    const answer = await fetch(`/logbooks/${document.body.dataset.logbook}/runs/${run}/arrows/${encodeURIComponent(name)}`);
    if (!answer.ok || this.run !== run || !this.wanted.has(name)) return;
    const raw = await answer.json();
    this.loaded.set(name, { ...raw, x: unpack(raw.x), y: unpack(raw.y), foot_x: unpack(raw.foot_x), foot_y: unpack(raw.foot_y) });
    this.fitting = null;
    this.draw();
  }

  /** @param {number} px @param {import("./scene.js").Bounds} view */
  scaled(px, view) {
    this.px = px;
    this.view = view;
    this.fitting = null;
    this.below = null;
    this.draw();
  }

  /** All arrows longer or shorter. @param {number} times */
  stretch(times) {
    this.longer = Math.min(8, Math.max(0.125, this.longer * times));
    this.draw();
  }

  /** Px for one unit at which no arrow of that unit leaves the picture in any frame. */
  fits() {
    if (this.fitting) return this.fitting;
    /** @type {Map<string, number>} */
    const most = new Map();
    const edge = EDGE * this.px;
    const { left, right, bottom, top } = this.view;
    for (const { unit, x, y, foot_x, foot_y } of this.loaded.values()) {
      for (let f = 0; f < x.length; f++) {
        // A body that is outside itself takes its arrow along.
        const [fx, fy] = [foot_x[f], foot_y[f]];
        if (fx < left || fx > right || fy < bottom || fy > top) continue;
        const across = (x[f] > 0 ? right - edge - fx : fx - left - edge) / Math.abs(x[f]);
        const up = (y[f] > 0 ? top - edge - fy : fy - bottom - edge) / Math.abs(y[f]);
        const room = Math.max(0, Math.min(across, up)) / this.px;
        if (Number.isFinite(room)) most.set(unit, Math.min(most.get(unit) ?? Infinity, room));
      }
    }
    this.fitting = most;
    return most;
  }

  /** Px for one unit, by unit: a round number of units is stated. */
  scales() {
    /** @type {Map<string, { bar: number, px: number }>} */
    const scales = new Map();
    const { left, right, bottom, top } = this.view;
    const room = Math.min(LONGEST, (SHARE * Math.min(right - left, top - bottom)) / this.px);
    for (const unit of new Set([...this.loaded.values()].map((a) => a.unit))) {
      const longest = Math.max(...[...this.loaded.values()].filter((a) => a.unit === unit).map((a) => a.longest));
      const bar = roundStep(Math.max(longest, 1e-9), 2);
      const usual = room / Math.max(longest, bar);
      const inside = Math.max(this.fits().get(unit) ?? usual, SHORTEST / Math.max(longest, bar));
      scales.set(unit, { bar, px: Math.min(usual, inside) * this.longer });
    }
    return scales;
  }

  /** @param {number} [frame] */
  draw(frame = this.frame) {
    this.frame = frame;
    if (this.loaded.size === 0 && !this.group.hasChildNodes()) return;
    // A caption of two lines needs its room; looked at only when something is drawn below it, since that lays the page out.
    const caption = this.below === null ? document.getElementById("stage-caption") : null;
    this.below ??= Math.max(42, caption ? caption.offsetTop + caption.offsetHeight + 12 : 0);
    const scales = this.scales();
    this.group.replaceChildren(...[...this.loaded.values()].map((arrow) => this.arrow(arrow, frame, scales.get(arrow.unit)?.px ?? 1)));
    this.legend.replaceChildren();
    let row = 0;
    for (const [unit, { bar, px }] of scales) {
      const down = 20 * row++;
      const [x, y] = this.low ? [this.view.left + 14 * this.px, -this.view.bottom - (48 + down) * this.px] : [this.view.right - (14 + bar * px) * this.px, -this.view.top + (this.below + down) * this.px];
      const beside = this.low ? { x: x + (bar * px + 8) * this.px, "text-anchor": "start" } : { x: x - 8 * this.px, "text-anchor": "end" };
      const text = svg("text", { ...beside, y: y + 4 * this.px, "font-size": 12 * this.px, fill: CHALK, "font-family": "IBM Plex Mono" });
      text.textContent = `arrows ${bar}\u00A0${unit}`;
      this.legend.append(svg("path", { d: `M${x} ${y - 4 * this.px}v${8 * this.px}m0 ${-4 * this.px}h${bar * px * this.px}m0 ${-4 * this.px}v${8 * this.px}`, stroke: CHALK, fill: "none", "stroke-width": 1.2 * this.px }), text);
    }
  }

  /** @param {Arrow} arrow @param {number} frame @param {number} scale */
  arrow(arrow, frame, scale) {
    const f = Math.min(frame, arrow.x.length - 1);
    const [dx, dy] = [arrow.x[f] * scale, -arrow.y[f] * scale];
    const long = Math.hypot(dx, dy);
    // An acceleration goes beside the force that makes it, not under it.
    const aside = arrow.kind === "acceleration" && long >= 1 ? ASIDE / long : 0;
    const [left, up] = [-dy * aside, dx * aside];
    const group = svg("g", { transform: `translate(${arrow.foot_x[f]} ${-arrow.foot_y[f]}) scale(${this.px}) translate(${left} ${up})`, "data-shown": arrow.name, "data-length": long.toFixed(1) });
    if (long < 1) return group;
    const component = arrow.kind.endsWith("component");
    const filled = arrow.kind.startsWith("force") || arrow.kind === "net";
    const turned = svg("g", { transform: `rotate(${(Math.atan2(dy, dx) * 180) / Math.PI})`, stroke: CHALK, "stroke-width": component ? 1.2 : 2.2, fill: "none" });
    const head = Math.min(11, 0.6 * long);
    const tip = (/** @type {number} */ at) => `M${at - head} ${-0.45 * head}L${at} 0L${at - head} ${0.45 * head}`;
    turned.append(svg("path", { d: `M0 0H${filled ? long - head : long}`, ...(component ? { "stroke-dasharray": "5 4" } : {}) }));
    turned.append(svg("path", filled ? { d: `${tip(long)}Z`, fill: CHALK } : { d: tip(long) }));
    if (arrow.kind === "acceleration") turned.append(svg("path", { d: tip(long - 0.7 * head) }));
    if (arrow.kind === "force") turned.append(svg("path", { d: "M0 -5V5" }));
    if (arrow.kind === "net") turned.append(svg("path", { d: "M0 -8V8M4 -8V8" }));
    const letter = svg("text", { x: dx + (dx / long) * 10 - 4, y: dy + (dy / long) * 10 + 5, fill: CHALK, "font-size": 14, "font-style": "italic", "font-family": "Barlow" });
    const [base, index = ""] = arrow.letter.split("_");
    letter.append(Object.assign(svg("tspan", {}), { textContent: base }), Object.assign(svg("tspan", { "font-size": 10, dy: 4 }), { textContent: index }));
    group.append(turned, letter);
    return group;
  }
}
