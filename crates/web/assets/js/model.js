// The step model: what of it is drawn and which page of its ledger, and its path and forces over the stage.
import { lookAt } from "./edits.js";
import { onParts } from "./parts.js";
import { svg } from "./scene.js";

/** @typedef {{ curves: { number: number, newest: boolean, at: [number, number][] }[], t: number[], forces: { name: string, along: [number, number][] }[], largest: number }} Overlay */

const VERDIGRIS = "#6FC3B5";
const CHALK = "#E9E4D6";
/** Length of the largest force: in px, and as a share of the height of the stage. */
const LONGEST = 64;
const SHARE = 0.2;

/** Buttons of the part. */
export function startModel() {
  document.addEventListener("click", (event) => {
    const target = event.target instanceof Element ? event.target : null;
    const trace = target?.closest("[data-trace]");
    if (trace) void lookAt({ trace: trace.getAttribute("data-trace") }, ["model"]);
    const model = target?.closest("[data-ledger]");
    if (model) void lookAt({ model: Number(model.getAttribute("data-ledger")), step: 0 }, ["model"]);
    const step = target?.closest("[data-ledger-from]");
    if (step) void lookAt({ step: Number(step.getAttribute("data-ledger-from")) }, ["model"]);
  });
}

/** What lies over a stage: the paths of the models, and the forces of the newest one at the moment that is shown. */
export class ModelLayer {
  /** @param {SVGElement} surface @param {() => { time: number, px: (n: number) => number }} now */
  constructor(surface, now) {
    this.now = now;
    this.surface = /** @type {SVGSVGElement} */ (surface);
    this.group = svg("g", { class: "model-layer", "pointer-events": "none" });
    this.key = "";
    /** @type {Overlay | null} */
    this.overlay = null;
    surface.append(this.group);
    onParts(() => this.read());
    // Another step of the spine shows it or not.
    const desk = document.querySelector(".desk");
    if (desk) new MutationObserver(() => this.draw()).observe(desk, { attributes: true, attributeFilter: ["data-step"] });
    this.read();
  }

  read() {
    const text = document.getElementById("part-model")?.dataset.overlay ?? "";
    if (text === this.key) return;
    this.key = text;
    this.overlay = text === "" ? null : JSON.parse(text);
    this.draw();
  }

  /** Only where the model is worked on, so that it covers no measurement. */
  wanted() {
    return this.overlay !== null && document.querySelector(".desk")?.getAttribute("data-step") === "model";
  }

  draw() {
    const { overlay } = this;
    if (!overlay || !this.wanted()) {
      this.group.replaceChildren();
      return;
    }
    const { time, px } = this.now();
    const paths = overlay.curves.flatMap((curve) => {
      const d = `M${curve.at.map((at) => at.join(" ")).join("L")}`;
      const line = (/** @type {string} */ stroke, /** @type {number} */ width, /** @type {number} */ opacity) =>
        svg("path", { d, fill: "none", stroke, "stroke-width": px(width), "stroke-linejoin": "round", "stroke-opacity": opacity, "data-model": curve.number });
      return curve.newest ? [line(VERDIGRIS, 4, 1), line("#14212B", 1.6, 1)] : [line(VERDIGRIS, 1.2, 0.55)];
    });
    this.group.replaceChildren(...paths, ...this.forces(overlay, time, px));
  }

  /** @param {Overlay} overlay @param {number} time @param {(n: number) => number} px */
  forces(overlay, time, px) {
    const newest = overlay.curves.find((curve) => curve.newest);
    const last = overlay.t.length - 1;
    if (!newest || last < 0 || time < overlay.t[0] - 1e-9 || time > overlay.t[last] + 1e-9) return [];
    const after = overlay.t.findIndex((t) => t >= time - 1e-9);
    const i = Math.max(0, after);
    const [x, y] = newest.at[i];
    const seen = this.surface.viewBox.baseVal;
    const longest = Math.min(px(LONGEST), SHARE * seen.height);
    const dot = svg("circle", { cx: x, cy: y, r: px(4), fill: VERDIGRIS, stroke: "#14212B", "stroke-width": px(1.2) });
    const drawn = overlay.forces.flatMap((force, place) => {
      const scale = overlay.largest > 0 ? longest / overlay.largest : 0;
      const [dx, dy] = [force.along[i][0] * scale, force.along[i][1] * scale];
      const long = Math.hypot(dx, dy);
      if (long < px(2)) return [];
      const head = Math.min(px(9), 0.6 * long);
      const [ux, uy] = [dx / long, dy / long];
      // Arrows along one line stand side by side.
      const aside = px(7) * (place - (overlay.forces.length - 1) / 2);
      const [ax, ay] = [x - uy * aside, y + ux * aside];
      const [bx, by] = [ax + dx, ay + dy];
      const d = `M${ax} ${ay}L${bx} ${by}M${bx - head * (ux - 0.45 * uy)} ${by - head * (uy + 0.45 * ux)}L${bx} ${by}L${bx - head * (ux + 0.45 * uy)} ${by - head * (uy - 0.45 * ux)}`;
      // A name stays in the picture where its arrow points out of it.
      const line = Math.min(Math.max(by + px(4), seen.y + px(12)), seen.y + seen.height - px(4));
      const text = svg("text", { x: bx + px(7), y: line, "font-size": px(12), fill: CHALK, stroke: "#14212B", "stroke-width": px(3), "paint-order": "stroke", "font-family": "Barlow" });
      text.textContent = force.name;
      return [svg("path", { d, fill: "none", stroke: "#14212B", "stroke-width": px(4.5) }), svg("path", { d, fill: "none", stroke: CHALK, "stroke-width": px(2), "data-force": force.name }), text];
    });
    return [dot, ...drawn];
  }
}
