// The box with the line's figures on a graph: it is dragged out of the way, goes to the next corner by a click or Enter, and by arrows a little. Where
// it stands is kept for whoever looks, while the page is open in this tab.
import { whileHeld } from "./drag.js";
import { shown } from "./edits.js";
import { onParts } from "./parts.js";
import { record } from "./words.js";

/** So far an arrow key moves it, in units of the drawing. */
const STEP = 12;
/** Room between it and the edge of the frame. */
const EDGE = 8;
/** So far a pointer may slip in a click, in px of the screen. */
const SLIP = 3;

const card = () => /** @type {SVGGElement | null} */ (document.querySelector("#part-graph .drawing svg[data-frame] .card"));
const key = () => `card ${document.body.dataset.logbook} ${shown("part-graph", "graph")}`;

/** Where it was put, as shares of the room it has; none while it stands where it was drawn. @returns {[number, number] | null} */
function kept() {
  try {
    const [x, y] = JSON.parse(sessionStorage.getItem(key()) ?? "[]");
    return Number.isFinite(x) && Number.isFinite(y) ? [x, y] : null;
  } catch {
    return null;
  }
}

/** The room of its upper left corner, and where that is drawn. @param {SVGGElement} box */
function roomOf(box) {
  const [left, top, width, height] = (box.ownerSVGElement?.dataset.frame ?? "").split(" ").map(Number);
  const own = box.getBBox();
  return { x: left + EDGE, y: top + EDGE, width: Math.max(1, width - own.width - 2 * EDGE), height: Math.max(1, height - own.height - 2 * EDGE), own };
}

/** Where it stands, as shares of the room it has. @param {SVGGElement} box @returns {[number, number]} */
function standing(box) {
  const room = roomOf(box);
  return kept() ?? [(room.own.x - room.x) / room.width, (room.own.y - room.y) / room.height];
}

/** Puts it somewhere, within the frame of the graph. @param {SVGGElement} box @param {[number, number]} at */
function place(box, at) {
  const [x, y] = at.map((v) => Math.max(0, Math.min(1, v)));
  const room = roomOf(box);
  box.setAttribute("transform", `translate(${room.x + x * room.width - room.own.x} ${room.y + y * room.height - room.own.y})`);
  try {
    sessionStorage.setItem(key(), JSON.stringify([x, y]));
  } catch {
    // A browser that keeps nothing draws it where it was drawn.
  }
}

/** To the next corner, clockwise. @param {SVGGElement} box */
function nextCorner(box) {
  const [west, north] = standing(box).map((share) => share < 0.5);
  place(box, north ? (west ? [1, 0] : [1, 1]) : west ? [0, 0] : [0, 1]);
}

/** A fresh drawing gets it where it was put. */
function refresh() {
  const box = card();
  if (!box || box.getClientRects().length === 0) return;
  box.setAttribute("tabindex", "0");
  // Its figures are read as they stand; it is no button, whose name would have to be all of them.
  box.setAttribute("role", "group");
  box.setAttribute("aria-label", record.figures);
  const at = kept();
  if (at) place(box, at);
}

/** @param {PointerEvent} event */
function pressed(event) {
  const box = event.target instanceof Element ? /** @type {SVGGElement | null} */ (event.target.closest("#part-graph .card")) : null;
  const turned = box?.ownerSVGElement?.getScreenCTM()?.inverse();
  if (!box || !turned || event.button !== 0) return;
  event.preventDefault();
  event.stopPropagation();
  box.focus();
  const [from, at, room] = [[event.clientX, event.clientY], standing(box), roomOf(box)];
  let moved = false;
  whileHeld(box, event, (e) => {
    const [dx, dy] = [e.clientX - from[0], e.clientY - from[1]];
    moved ||= Math.hypot(dx, dy) > SLIP;
    if (moved) place(box, [at[0] + (dx * turned.a) / room.width, at[1] + (dy * turned.d) / room.height]);
  }, (_, kept) => {
    if (kept && !moved) nextCorner(box);
  });
}

export function startCard() {
  document.addEventListener("pointerdown", pressed, true);
  document.addEventListener("keydown", (event) => {
    const box = event.target instanceof Element ? /** @type {SVGGElement | null} */ (event.target.closest("#part-graph .card")) : null;
    if (!box) return;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    const [at, room] = [standing(box), roomOf(box)];
    if (way) place(box, [at[0] + (STEP * way[0]) / room.width, at[1] + (STEP * way[1]) / room.height]);
    else if (event.key === "Enter" || event.key === " ") nextCorner(box);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }, true);
  document.addEventListener("step", () => requestAnimationFrame(refresh));
  onParts(refresh, "part-graph");
  refresh();
}
