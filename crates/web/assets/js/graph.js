// Points of the graph by keyboard: one tab stop for all, arrows move between them, Enter sets one aside and back.
import { onParts } from "./edits.js";

const points = () => /** @type {SVGGElement[]} */ ([...document.querySelectorAll("#part-graph g.point")]);
let at = 0;

function refresh() {
  const all = points();
  at = Math.max(0, Math.min(at, all.length - 1));
  all.forEach((point, i) => point.setAttribute("tabindex", i === at ? "0" : "-1"));
}

export function startGraph() {
  refresh();
  onParts(refresh);
  document.addEventListener("keydown", (event) => {
    const point = event.target instanceof Element ? event.target.closest("g.point") : null;
    if (!point) return;
    const step = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (step !== undefined) {
      const all = points();
      at = (all.indexOf(/** @type {SVGGElement} */ (point)) + step + all.length) % all.length;
      refresh();
      all[at].focus();
    } else if (event.key === "Enter" || event.key === " ") {
      point.dispatchEvent(new MouseEvent("click", { bubbles: true }));
    } else return;
    event.preventDefault();
    event.stopPropagation();
  });
}
