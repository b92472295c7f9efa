// Trails over a film: a mark a frame, told apart by shape, and where the next one is likely to lie. Places are in pixels of the picture.
import { svg } from "./scene.js";
import { film as words } from "./words.js";

/** @typedef {import("./film.js").FilmData} FilmData */
/** @typedef {import("./film.js").TrailData} TrailData */

/** Marks drawn before and after the moment on the stage. */
const DRAWN = 150;
/** Marks are drawn this far apart at least, in px of the screen. */
const APART = 8;
/** Shapes by which trails are told apart. */
const SHAPES = ["circle", "square", "diamond", "triangle", "cross"];

/** @param {string} shape @param {number} r */
function outline(shape, r) {
  switch (shape) {
    case "square":
      return svg("rect", { x: -r, y: -r, width: 2 * r, height: 2 * r });
    case "diamond":
      return svg("path", { d: `M0 ${-1.3 * r}L${1.3 * r} 0L0 ${1.3 * r}L${-1.3 * r} 0Z` });
    case "triangle":
      return svg("path", { d: `M0 ${-1.3 * r}L${1.2 * r} ${0.8 * r}H${-1.2 * r}Z` });
    case "cross":
      return svg("path", { d: `M${-r} ${-r}L${r} ${r}M${-r} ${r}L${r} ${-r}` });
    default:
      return svg("circle", { r });
  }
}

/** The marks around a frame; where they would lie on one another they are left out, so that the object stays visible. @param {TrailData} trail @param {number} frame @param {number} apart in px of the picture */
function around(trail, frame, apart) {
  let [px, py] = [-1e9, 0];
  return trail.marks.filter(([n, x, y]) => {
    if (n === frame || Math.abs(n - frame) > DRAWN || Math.hypot(x - px, y - py) < apart) return false;
    [px, py] = [x, y];
    return true;
  });
}

/** A trail as strobe marks, and its mark of the frame on the stage as a handle. @param {import("./film.js").FilmStage} stage @param {TrailData} trail @param {number} number which of the trails */
export function drawnTrail(stage, trail, number) {
  const shape = SHAPES[number % SHAPES.length];
  const group = svg("g", { class: trail.id === stage.trail ? "trail chosen" : "trail", "stroke-width": stage.px(1.8) });
  for (const [, x, y] of around(trail, stage.frame, stage.px(APART))) {
    const mark = outline(shape, stage.px(4));
    mark.setAttribute("transform", `translate(${x} ${y})`);
    group.append(mark);
  }
  const now = markAt(trail, stage.frame);
  if (!now) return group;
  const look = outline(shape, stage.px(8));
  look.setAttribute("stroke-width", String(stage.px(2)));
  const cross = svg("path", { d: `M${stage.px(-4)} 0H${stage.px(4)}M0 ${stage.px(-4)}V${stage.px(4)}`, "stroke-width": stage.px(1) });
  const options = {
    name: words.mark(trail.name),
    kind: "mark",
    at: /** @type {[number, number]} */ ([now[1], now[2]]),
    moved: () => {},
    placed: (/** @type {[number, number]} */ at) => stage.mark(trail.id, at, false),
    deleted: () => stage.unmark(trail.id),
  };
  group.append(stage.handle(options, [look, cross]));
  return group;
}

/** @param {TrailData} trail @param {number} frame */
export const markAt = (trail, frame) => trail.marks.find((m) => m[0] === frame);

/** Where a trail is likely to be at a frame: where its motion leads, where it was, or in the middle. @param {FilmData} film @param {TrailData} trail @param {number} frame @returns {[number, number]} */
export function likely(film, trail, frame) {
  const [a, b] = trail.marks.filter((m) => m[0] < frame).slice(-2);
  let at = [film.width / 2, film.height / 2];
  if (b) {
    const share = (frame - b[0]) / (b[0] - a[0]);
    at = [b[1] + share * (b[1] - a[1]), b[2] + share * (b[2] - a[2])];
  } else if (a) at = [a[1], a[2]];
  return [Math.max(0, Math.min(film.width, at[0])), Math.max(0, Math.min(film.height, at[1]))];
}
