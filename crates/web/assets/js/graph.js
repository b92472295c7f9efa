// The graph: points by keyboard (one tab stop for all), and what a drag over the graph does.
import { whileHeld } from "./drag.js";
import { lookAt, send, shown, writable } from "./edits.js";
import { onParts } from "./parts.js";

/** What a drag does: nothing, set a box aside, make a stretch, zoom, move. */
let tool = "points";
let at = 0;

const points = () => /** @type {SVGGElement[]} */ ([...document.querySelectorAll("#part-graph g.point")]);
const drawing = () => /** @type {SVGSVGElement | null} */ (document.querySelector("#part-graph .drawing svg[data-frame]"));
const graph = () => shown("part-graph", "graph");

function refresh() {
  const all = points();
  at = Math.max(0, Math.min(at, all.length - 1));
  all.forEach((point, i) => point.setAttribute("tabindex", i === at ? "0" : "-1"));
  for (const button of document.querySelectorAll("[data-tool]")) button.setAttribute("aria-pressed", String(button.getAttribute("data-tool") === tool));
  const svg = drawing();
  if (svg) svg.dataset.hand = tool;
}

/** @typedef {{ min: number, max: number, log: boolean }} Axis */
/** @typedef {{ left: number, top: number, width: number, height: number, x: Axis, y: Axis }} Frame */

/** @param {SVGSVGElement} svg @returns {Frame} */
function frameOf(svg) {
  const [left, top, width, height] = (svg.dataset.frame ?? "").split(" ").map(Number);
  /** @param {string} text */
  const axis = (text) => {
    const [min, max, kind] = text.split(" ");
    return { min: Number(min), max: Number(max), log: kind === "log" };
  };
  return { left, top, width, height, x: axis(svg.dataset.across ?? ""), y: axis(svg.dataset.up ?? "") };
}

/** The value at a share of an axis. @param {Axis} axis @param {number} share */
const valueAt = (axis, share) => (axis.log ? axis.min * (axis.max / axis.min) ** share : axis.min + share * (axis.max - axis.min));

/** A place of the pointer as shares of the frame. @param {SVGSVGElement} svg @param {MouseEvent} event @returns {[number, number]} */
function sharesOf(svg, event) {
  const place = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM()?.inverse());
  const f = frameOf(svg);
  return [(place.x - f.left) / f.width, 1 - (place.y - f.top) / f.height];
}

/** @param {[number, number]} a @param {[number, number]} b @param {Frame} f */
const rangeOf = (a, b, f) => {
  /** @param {number} v */
  const clamp = (v) => Math.min(1, Math.max(0, v));
  /** @param {0 | 1} i @param {Axis} axis */
  const ends = (i, axis) => [Math.min(a[i], b[i]), Math.max(a[i], b[i])].map((s) => valueAt(axis, clamp(s)));
  return [ends(0, f.x), ends(1, f.y)];
};

/** Shows a part of the graph. @param {number[][]} range */
const zoom = (range) => send({ graph: { zoom: { graph: graph(), range } } });

/** @param {SVGSVGElement} svg @param {[number, number]} a @param {[number, number]} b */
function finish(svg, a, b) {
  const f = frameOf(svg);
  if (tool === "pan") {
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const range = [[valueAt(f.x, -dx), valueAt(f.x, 1 - dx)], [valueAt(f.y, -dy), valueAt(f.y, 1 - dy)]];
    void zoom(range);
    return;
  }
  // A click is no drag.
  if (Math.abs(a[0] - b[0]) < 0.01 && Math.abs(a[1] - b[1]) < 0.01) return;
  const range = rangeOf(a, b, f);
  if (tool === "stretch") {
    // No finer than a hand can drag.
    const decimals = Math.max(0, Math.ceil(-Math.log10(Math.abs(valueAt(f.x, 1) - valueAt(f.x, 0)) / 300)));
    const [from, to] = range[0].map((v) => v.toFixed(Math.min(decimals, 100)));
    void send({ graph: { add_stretch: { graph: graph(), from, to } } });
  }
  if (tool === "zoom") void zoom(range);
  if (tool === "box") {
    const inside = points().filter((p) => {
      const [x, y] = (p.dataset.at ?? "").split(" ").map(Number);
      const [sx, sy] = [(x - f.left) / f.width, 1 - (y - f.top) / f.height];
      return sx >= Math.min(a[0], b[0]) && sx <= Math.max(a[0], b[0]) && sy >= Math.min(a[1], b[1]) && sy <= Math.max(a[1], b[1]);
    });
    const back = inside.length > 0 && inside.every((p) => p.getAttribute("aria-pressed") === "true");
    void send({ record: { set_box_aside: { graph: graph(), range, aside: !back } } });
  }
}

/** @param {PointerEvent} event */
function drag(event) {
  const svg = drawing();
  if (!svg || tool === "points" || !writable() || !(event.target instanceof Node) || !svg.contains(event.target)) return;
  event.preventDefault();
  const f = frameOf(svg);
  const start = sharesOf(svg, event);
  const band = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  band.setAttribute("class", "rubber");
  if (tool !== "pan") svg.append(band);
  whileHeld(svg, event, (e) => {
    const now = sharesOf(svg, e);
    const [a, b] = tool === "stretch" ? [[start[0], 0], [now[0], 1]] : [start, now];
    band.setAttribute("x", String(f.left + Math.min(a[0], b[0]) * f.width));
    band.setAttribute("y", String(f.top + (1 - Math.max(a[1], b[1])) * f.height));
    band.setAttribute("width", String(Math.abs(a[0] - b[0]) * f.width));
    band.setAttribute("height", String(Math.abs(a[1] - b[1]) * f.height));
    svg.dataset.rubber = "on";
  }, (e, kept) => {
    band.remove();
    delete svg.dataset.rubber;
    if (kept) finish(svg, start, sharesOf(svg, e));
  });
}

/** Rest after the last turn of the wheel before the graph is drawn anew, in ms. */
const REST = 160;
/** Closer by the factor e with a wheel turned so far, in px. */
const TURN = 400;
/** The part of the frame that is wanted next, as shares of it; none once it was asked for. @type {[[number, number], [number, number]] | null} */
let wanted = null;
let later = 0;

/** Closer or farther by a factor: a place, as shares of the frame, stays where it is. @param {number} factor @param {number[]} [place] @param {number} [rest] */
function closer(factor, place = [0.5, 0.5], rest = 0) {
  if (!drawing() || !writable()) return;
  const ends = wanted ?? [[0, 1], [0, 1]];
  // Where the place is among what is wanted already.
  wanted = /** @type {[[number, number], [number, number]]} */ (ends.map(([from, to], k) => [0, 1].map((end) => {
    const here = from + place[k] * (to - from);
    return here + ((end === 0 ? from : to) - here) * factor;
  })));
  clearTimeout(later);
  later = window.setTimeout(() => {
    const svg = drawing();
    if (!svg || !wanted) return;
    const [f, [across, up]] = [frameOf(svg), wanted];
    wanted = null;
    void zoom([across.map((s) => valueAt(f.x, s)), up.map((s) => valueAt(f.y, s))]);
  }, rest);
}

/** Ctrl and the wheel, or two fingers on a pad, come closer where the pointer is. @param {WheelEvent} event */
function wheel(event) {
  const svg = drawing();
  if (!svg || !(event.ctrlKey || event.metaKey) || !(event.target instanceof Node) || !svg.contains(event.target)) return;
  event.preventDefault();
  const at = sharesOf(svg, event);
  closer(Math.exp(event.deltaY / TURN), at, REST);
}

export function startGraph() {
  refresh();
  onParts(refresh, "part-graph");
  document.addEventListener("pointerdown", drag);
  document.addEventListener("wheel", wheel, { passive: false });
  document.addEventListener(
    "click",
    (event) => {
      const target = event.target instanceof Element ? event.target : null;
      const chosen = target?.closest("[data-tool]");
      if (chosen) {
        tool = chosen.getAttribute("data-tool") ?? "points";
        refresh();
      }
      const step = target?.closest("[data-zoom]");
      if (step) closer(Number(step.getAttribute("data-zoom")));
      const other = target?.closest("[data-look-graph]");
      if (other) void lookAt({ graph: Number(other.getAttribute("data-look-graph")) }, ["graph", "strip"]);
      // With another tool in hand a click on a point means the tool.
      if (tool !== "points" && target?.closest("g.point")) event.stopPropagation();
    },
    true,
  );
  document.addEventListener("keydown", (event) => {
    const point = event.target instanceof Element ? event.target.closest("g.point") : null;
    if (!point) return;
    const step = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (step !== undefined) {
      const all = points();
      at = (all.indexOf(/** @type {SVGGElement} */ (point)) + step + all.length) % all.length;
      refresh();
      all[at].focus();
    } else if ("+=-".includes(event.key)) {
      // As seen from the point: it stays where it is.
      const svg = /** @type {SVGSVGElement} */ (drawing());
      const f = frameOf(svg);
      const [x, y] = (/** @type {SVGGElement} */ (point).dataset.at ?? "").split(" ").map(Number);
      closer(event.key === "-" ? 1 / 0.6 : 0.6, [(x - f.left) / f.width, 1 - (y - f.top) / f.height], REST);
    } else if (event.key === "Enter" || event.key === " ") {
      void send(JSON.parse(/** @type {SVGGElement} */ (point).dataset.edit ?? "null"));
    } else return;
    event.preventDefault();
    event.stopPropagation();
  });
}
