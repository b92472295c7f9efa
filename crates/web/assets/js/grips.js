// Handles on a rig's stage: what a hand moves there is a setting. Typed values stay exact; a drag goes in the steps of the setting, and
// arrow keys do the same.
import { base, send } from "./edits.js";
import { MINUS, numberOf } from "./numbers.js";
import { svg } from "./scene.js";

/** How a setting follows a handle. @typedef {{ setting: string, label: string, unit: string, pretty: string, step: number, ends: [number, number], value: number, kind: string, by?: number[] | number, about?: number[], from?: number[], points?: number[][], ways?: number[], index?: number, option?: string, nodes?: string, across?: [number, number] }} Pull */
/** @typedef {{ name: string, at: [number, number], from: [number, number] | null, pulls: Pull[] }} Grip */
/** What the stage does for its handles. @typedef {{ surface: SVGSVGElement, tried: (typed: Record<string, string>) => void, done: () => void }} Bench */

/** Rest after the last key before the values are sent, and between two looks at what a drag would set, in ms. */
const REST = 400;
const LOOK = 90;

/** The field of a setting beside the stage. @param {string} setting */
const fieldOf = (setting) => /** @type {HTMLInputElement | null} */ (document.getElementById(`setting-${setting}`));

/** A value in the steps of its setting, inside its ends. @param {Pull} pull @param {number} value */
function snapped({ step, ends }, value) {
  const inside = Math.max(ends[0], Math.min(ends[1], value));
  return Math.round(inside / step) * step;
}

/** As it is typed. @param {Pull} pull @param {number} value */
function typedAs({ step, unit }, value) {
  const places = Math.max(0, Math.round(-Math.log10(step) + 0.49));
  return `${value.toFixed(places)}${unit === "" ? "" : ` ${unit}`}`;
}

/** The angle from one direction to another, to the left. @param {number[]} about @param {number[]} from @param {number[]} to */
function turned(about, from, to) {
  const [a, b] = [from, to].map(([x, y]) => Math.atan2(y - about[1], x - about[0]));
  return Math.atan2(Math.sin(b - a), Math.cos(b - a));
}

/** The way along a curve to the place on it next to a point. @param {number[][]} points @param {number[]} ways @param {number[]} at */
export function wayTo(points, ways, [x, y]) {
  let best = { off: Infinity, way: 0 };
  for (let i = 0; i + 1 < points.length; i++) {
    const [[ax, ay], [bx, by]] = [points[i], points[i + 1]];
    const long = (bx - ax) ** 2 + (by - ay) ** 2;
    const share = long === 0 ? 0 : Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / long));
    const off = Math.hypot(ax + share * (bx - ax) - x, ay + share * (by - ay) - y);
    if (off < best.off) best = { off, way: ways[i] + share * (ways[i + 1] - ways[i]) };
  }
  return best.way;
}

/** What a setting is with the handle somewhere else, as typed. @param {Pull} pull @param {number[]} from @param {number[]} to */
function pulled(pull, from, to) {
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const by = typeof pull.by === "number" ? pull.by : 0;
  switch (pull.kind) {
    case "along": {
      const [bx, bY] = Array.isArray(pull.by) ? pull.by : [0, 0];
      return typedAs(pull, snapped(pull, pull.value + dx * bx + dy * bY));
    }
    case "turn":
      return typedAs(pull, snapped(pull, pull.value + by * turned(pull.about ?? [0, 0], from, to)));
    case "reach": {
      const [x, y] = pull.from ?? [0, 0];
      return typedAs(pull, snapped(pull, pull.value + by * (Math.hypot(to[0] - x, to[1] - y) - Math.hypot(from[0] - x, from[1] - y))));
    }
    case "way":
      return typedAs(pull, snapped(pull, wayTo(pull.points ?? [], pull.ways ?? [], to)));
    case "node": {
      const nodes = (pull.nodes ?? "").split(";").map((n) => n.trim());
      // From where the node is to the last digit; the handle stands there as nearly as the stage shows it.
      const [u, v, ...rest] = (nodes[pull.index ?? 0] ?? "").split(/\s+/);
      const [x, y] = [snapped(pull, numberOf(u) + dx), snapped({ ...pull, ends: pull.across ?? pull.ends }, numberOf(v) + dy)];
      const places = Math.max(0, Math.round(-Math.log10(pull.step) + 0.49));
      nodes[pull.index ?? 0] = [x.toFixed(places), y.toFixed(places), ...rest].join(" ");
      return nodes.join("; ");
    }
    default:
      return pull.option ?? "";
  }
}

/** How far a handle moves along a pull when it is moved by a step in a direction, and by how much the value then changes.
 * @param {Pull} pull @param {number[]} at @param {number[]} way */
function along(pull, at, [dx, dy]) {
  const by = typeof pull.by === "number" ? pull.by : 0;
  if (pull.kind === "along") {
    const [bx, bY] = Array.isArray(pull.by) ? pull.by : [0, 0];
    const size = Math.hypot(bx, bY);
    return size === 0 ? 0 : (dx * bx + dy * bY) / size;
  }
  const [x, y] = pull.kind === "turn" ? (pull.about ?? [0, 0]) : (pull.from ?? [0, 0]);
  const [rx, ry] = [at[0] - x, at[1] - y];
  const r = Math.hypot(rx, ry) || 1;
  if (pull.kind === "turn") return (Math.sign(by) * (-dx * ry + dy * rx)) / r;
  if (pull.kind === "reach") return (Math.sign(by) * (dx * rx + dy * ry)) / r;
  return pull.kind === "way" ? (dx !== 0 ? dx : dy) : 0;
}

export class Grips {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.group = svg("g", { class: "grips" });
    /** @type {{ grip: Grip, element: SVGElement, at: [number, number] }[]} */
    this.all = [];
    this.px = 0.01;
    this.busy = false;
    this.looked = 0;
  }

  /** Whether they can be seen. @param {boolean} on */
  seen(on) {
    this.group.setAttribute("visibility", on ? "visible" : "hidden");
    for (const { element } of this.all) element.setAttribute("tabindex", on ? "0" : "-1");
  }

  /** Handles of what is on the stage now. One that is being moved stays in the hand. @param {Grip[]} grips */
  set(grips) {
    if (this.busy) return;
    const focused = this.all.findIndex(({ element }) => element === document.activeElement);
    const name = this.all[focused]?.grip.name;
    this.all = grips.map((grip) => this.handle(grip));
    this.group.replaceChildren(...this.all.map(({ element }) => element));
    this.draw();
    // The keys go on where they were.
    if (name !== undefined) this.all.find(({ grip }) => grip.name === name)?.element.focus();
  }

  /** @param {Grip} grip */
  handle(grip) {
    const element = /** @type {SVGElement} */ (svg("g", { class: "handle grip", tabindex: 0, role: "button", "aria-label": grip.name, "data-grip": grip.pulls.map((p) => p.setting).join(" ") }));
    const one = { grip, element, at: /** @type {[number, number]} */ ([...grip.at]) };
    // Where two lie close together, the nearer one is meant.
    let held = one;
    element.addEventListener("pointerdown", (event) => {
      event.preventDefault();
      event.stopPropagation();
      const at = this.place(event);
      const off = (/** @type {{ at: [number, number] }} */ g) => (at ? Math.hypot(g.at[0] - at[0], g.at[1] - at[1]) : 0);
      held = this.all.reduce((best, g) => (off(g) < off(best) ? g : best), one);
      held.element.focus();
      element.setPointerCapture(event.pointerId);
      this.busy = true;
      this.moved = false;
    });
    element.addEventListener("pointermove", (event) => {
      if (!element.hasPointerCapture(event.pointerId)) return;
      const at = this.place(event);
      if (!at) return;
      this.moved = true;
      held.at = at;
      this.draw();
      this.look(this.typed(held));
    });
    const let_go = () => {
      this.busy = false;
      if (this.moved) this.send(this.typed(held));
      this.moved = false;
    };
    element.addEventListener("pointerup", let_go);
    element.addEventListener("pointercancel", () => {
      this.busy = false;
      this.moved = false;
      held.at = [...held.grip.at];
      this.draw();
      this.bench.done();
    });
    element.addEventListener("click", (event) => event.stopPropagation());
    element.addEventListener("keydown", (event) => {
      const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
      if (!way) return;
      event.preventDefault();
      event.stopPropagation();
      this.key(one, way, event.shiftKey ? 10 : 1);
    });
    return one;
  }

  /** Where a pointer is on the stage, y up. @param {PointerEvent} event @returns {[number, number] | null} */
  place(event) {
    const matrix = this.bench.surface.getScreenCTM();
    if (!matrix) return null;
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
    return [at.x, -at.y];
  }

  /** The settings with the handle where it is. @param {{ grip: Grip, at: [number, number] }} one @returns {Record<string, string>} */
  typed({ grip, at }) {
    return Object.fromEntries(grip.pulls.map((pull) => [pull.setting, pulled(pull, grip.at, at)]));
  }

  /** A key moves the setting by a step that follows that direction most. @param {{ grip: Grip, at: [number, number] }} one @param {number[]} way @param {number} steps */
  key(one, way, steps) {
    const { grip } = one;
    const node = grip.pulls.find((p) => p.kind === "node");
    /** @type {Record<string, string>} */
    let typed = this.keyed ?? {};
    if (node) {
      one.at = [one.at[0] + way[0] * steps * node.step, one.at[1] + way[1] * steps * node.step];
      typed = this.typed(one);
    } else {
      const moving = grip.pulls.map((pull) => ({ pull, by: along(pull, one.at, way) })).sort((a, b) => Math.abs(b.by) - Math.abs(a.by))[0];
      if (!moving || Math.abs(moving.by) < 1e-9) return;
      moving.pull.value = snapped(moving.pull, moving.pull.value + Math.sign(moving.by) * steps * moving.pull.step);
      typed = { ...typed, [moving.pull.setting]: typedAs(moving.pull, moving.pull.value) };
      for (const pull of grip.pulls) if (pull.kind === "chosen") typed[pull.setting] = pull.option ?? "";
    }
    this.keyed = typed;
    this.busy = true;
    this.look(typed);
    clearTimeout(this.later);
    this.later = setTimeout(() => {
      this.busy = false;
      this.keyed = undefined;
      this.send(typed);
    }, REST);
  }

  /** Shows what would be set, in the fields and on the stage. @param {Record<string, string>} typed */
  look(typed) {
    for (const [setting, value] of Object.entries(typed)) {
      const field = fieldOf(setting);
      if (field instanceof HTMLInputElement) field.value = this.pretty(setting, value);
      else if (field) /** @type {HTMLSelectElement} */ (/** @type {unknown} */ (field)).value = value;
    }
    const now = performance.now();
    clearTimeout(this.soon);
    const show = () => {
      this.looked = performance.now();
      this.bench.tried(typed);
    };
    if (now - this.looked >= LOOK) show();
    else this.soon = setTimeout(() => this.busy && show(), LOOK);
  }

  /** A typed value as the field shows it. @param {string} setting @param {string} value */
  pretty(setting, value) {
    const pull = this.all.flatMap(({ grip }) => grip.pulls).find((p) => p.setting === setting);
    if (!pull || pull.kind === "node" || pull.unit === "") return value;
    const number = value.slice(0, -pull.unit.length - 1).replace("-", MINUS);
    return `${number}${pull.pretty === "°" ? "" : "\u00A0"}${pull.pretty}`;
  }

  /** @param {Record<string, string>} typed */
  send(typed) {
    clearTimeout(this.soon);
    // Whatever came of it, the stage shows what is set then: where nothing changed, no part of the page does.
    // The nodes of a path as they were when it was taken hold of: a partner may be at another node.
    const paths = this.all.flatMap(({ grip }) => grip.pulls).filter((p) => p.kind === "node" && p.setting in typed);
    const seen = Object.fromEntries(paths.map((p) => [p.setting, p.nodes ?? ""]));
    void send({ run: { set_settings: { typed, seen } } }).then(() => this.bench.done());
  }

  /** Units of length a pixel spans have changed. @param {number} px */
  scaled(px) {
    this.px = px;
    this.draw();
  }

  draw() {
    const { px } = this;
    for (const { grip, element, at } of this.all) {
      element.replaceChildren();
      if (grip.from) element.append(svg("path", { d: `M${grip.from[0]} ${-grip.from[1]}L${at[0]} ${-at[1]}`, stroke: "#E9E4D6", "stroke-width": 1.2 * px, "stroke-dasharray": `${4 * px} ${3 * px}` }));
      element.append(svg("circle", { cx: at[0], cy: -at[1], r: 22 * px, fill: "transparent" }), svg("circle", { class: "knob", cx: at[0], cy: -at[1], r: 6.5 * px, fill: "#14212B", stroke: "#F0836F", "stroke-width": 1.8 * px }));
    }
  }
}

/** Where what a drag would set is asked for. @param {Record<string, string>} typed */
export const triedAt = (typed) => `${base}/setup?set=${encodeURIComponent(JSON.stringify(typed))}`;
