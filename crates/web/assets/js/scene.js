// Draws a scene from data: a few shapes in metres, each coordinate a number or bound to a channel. Knows no rig.

const SVG = "http://www.w3.org/2000/svg";
/** Most rings of the strobe. */
const MOST_RINGS = 80;
/** Turns of a coil spring. */
const TURNS = 14;

/** @typedef {number | string | { channel: string, times: number, plus: number }} Coordinate */
/** @typedef {{ left: number, right: number, bottom: number, top: number }} Bounds */
/** @typedef {{ kind: string, paint?: string, from?: Coordinate[] | number, to?: Coordinate[], centre?: Coordinate[], radius?: number, turn?: Coordinate | null, size?: number[], width?: number, zero?: number[], along?: number[], length?: number, division?: number, place?: number[], text?: string, points?: number[][], sways?: { channel: string, along: number[], weights: number[] }[], area?: Bounds, most?: number, count?: Coordinate, loose?: boolean }} Shape */
/** @typedef {{ bounds: Bounds, shapes: Shape[], loupe: Coordinate[] | null, strobe: number[], riders: { label: string, along: Coordinate[] }[], focus: [number, number] | null, held_still: boolean }} SceneData */
/** @typedef {{ step: number, values: number[] }} Packed */
/** @typedef {{ run: number, every: number, frame: number, time: string, symbol: string, places: number, length: string, frames: number, division: number, marks: [number, string][], grips: import("./grips.js").Grip[], scene: SceneData, channels: Record<string, Float64Array>, tracks: { channel: string, symbol: string, unit: string }[] }} Footage */

/** @param {string} name @param {Record<string, string | number>} attributes */
export function svg(name, attributes) {
  const element = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, String(value));
  return element;
}

/** A channel that came as whole steps and second differences. @param {Packed} packed */
export function unpack({ step, values }) {
  const out = new Float64Array(values.length);
  let [value, rise] = [0, 0];
  values.forEach((v, i) => {
    if (i === 0) value = v;
    else {
      rise = i === 1 ? v : rise + v;
      value += rise;
    }
    out[i] = value * step;
  });
  return out;
}

/** Fetches a recording. @param {string} url @returns {Promise<Footage | null>} */
export async function fetchFootage(url) {
  const answer = await fetch(url);
  if (!answer.ok) return null;
  const raw = await answer.json();
  return { ...raw, channels: Object.fromEntries(Object.entries(raw.channels).map(([name, packed]) => [name, unpack(/** @type {Packed} */ (packed))])) };
}

/** @type {Record<string, Record<string, string | number>>} */
const STROKES = {
  support: { stroke: "#E9E4D6", "stroke-width": 3 },
  thread: { stroke: "#E9E4D6", "stroke-width": 1.4 },
  body: { stroke: "#E9E4D6", "stroke-width": 4 },
  other: { stroke: "#E9E4D6", "stroke-width": 2 },
  aid: { stroke: "#F0836F", "stroke-width": 1.6 },
  guide: { stroke: "#6B8496", "stroke-width": 1 },
};
/** @type {Record<string, Record<string, string | number>>} */
const FILLS = {
  support: { fill: "#E9E4D6" },
  thread: { fill: "none", stroke: "#6B8496", "stroke-width": 1.4 },
  body: { fill: "#E9E4D6" },
  other: { fill: "#14212B", stroke: "#E9E4D6", "stroke-width": 2 },
  aid: { fill: "none", stroke: "#F0836F", "stroke-width": 1.6 },
  guide: { fill: "none", stroke: "#6B8496", "stroke-width": 1 },
};
const SHARP = { "vector-effect": "non-scaling-stroke" };

/** The value of a coordinate at a frame. @param {Footage} footage @param {Coordinate} c @returns {(frame: number) => number} */
function reader(footage, c) {
  if (typeof c === "number") return () => c;
  if (typeof c === "string") {
    const values = footage.channels[c];
    return (f) => values[Math.min(f, values.length - 1)];
  }
  const values = footage.channels[c.channel];
  return (f) => values[Math.min(f, values.length - 1)] * c.times + c.plus;
}

/** A number from 0 to 1 for two whole ones. @param {number} a @param {number} b */
function hash(a, b) {
  const mixed = Math.imul(Math.imul(a + 1, 0x9e3779b1) ^ Math.imul(b + 7, 0x85ebca6b), 0xc2b2ae35);
  return ((mixed ^ (mixed >>> 15)) >>> 0) / 2 ** 32;
}

/** The next number from here up that has no divisor in common with another. @param {number} from @param {number} with_ */
function coprime(from, with_) {
  const divisor = (/** @type {number} */ a, /** @type {number} */ b) => {
    while (b > 0) [a, b] = [b, a % b];
    return a;
  };
  let k = Math.max(1, from);
  while (divisor(k, with_) !== 1) k++;
  return k;
}

/** The scene as a group in metres, y up. `move(frame)` brings its moving shapes to a frame. */
export class SceneGroup {
  /** @param {Footage} footage */
  constructor(footage) {
    this.footage = footage;
    this.group = svg("g", {});
    this.rings = svg("g", { fill: "none", stroke: "#6B8496", "stroke-width": 1, opacity: 0.75 });
    /** @type {((frame: number) => void)[]} */
    this.movers = [];
    /** Centres of the bodies, for the view and for paths. @type {((frame: number) => [number, number])[]} */
    this.centres = [];
    /** What is drawn anew when the scale changes. @type {((px: number, view: Bounds) => void)[]} */
    this.scaledParts = [];
    for (const shape of footage.scene.shapes) this.group.append(this.draw(shape));
    this.group.prepend(this.rings);
    this.ringFrames = this.strobe();
    this.shown = 0;
    const look = footage.scene.loupe?.map((c) => reader(footage, c));
    /** Where the loupe looks. @type {((frame: number) => [number, number]) | null} */
    this.loupe = look ? (f) => [look[0](f), look[1](f)] : null;
  }

  /** @param {Coordinate[] | number | undefined} place @returns {(frame: number) => [number, number]} */
  at(place) {
    const [x, y] = (Array.isArray(place) ? place : [0, 0]).map((c) => reader(this.footage, c));
    return (f) => [x(f), y(f)];
  }

  /** @param {Shape} shape */
  draw(shape) {
    const paint = shape.paint ?? "thread";
    switch (shape.kind) {
      case "line": {
        const line = svg("line", { ...STROKES[paint], ...SHARP, "stroke-linecap": "round" });
        const [from, to] = [this.at(shape.from), this.at(shape.to)];
        this.movers.push((f) => {
          const [[a, b], [c, d]] = [from(f), to(f)];
          line.setAttribute("x1", String(a));
          line.setAttribute("y1", String(-b));
          line.setAttribute("x2", String(c));
          line.setAttribute("y2", String(-d));
        });
        return line;
      }
      case "disc":
        return this.disc(shape, paint);
      case "box": {
        const [w, h] = shape.size ?? [0.1, 0.1];
        const box = svg("g", {});
        box.append(svg("rect", { ...FILLS[paint], ...SHARP, x: -w / 2, y: -h / 2, width: w, height: h }), svg("path", { d: `M0 ${-h / 2}V${h / 2}`, stroke: paint === "other" ? "#E9E4D6" : "#14212B", "stroke-width": 1, ...SHARP }));
        this.placed(box, shape, paint);
        return box;
      }
      case "coil": {
        const path = svg("path", { ...STROKES.thread, ...SHARP, fill: "none", "stroke-linejoin": "round" });
        const [from, to] = [this.at(shape.from), this.at(shape.to)];
        const half = (shape.width ?? 0.03) / 2;
        this.movers.push((f) => {
          const [[x, top], [, low]] = [from(f), to(f)];
          const pitch = (top - low) / (TURNS + 2);
          let d = `M${x} ${-top}V${-(top - pitch)}`;
          for (let k = 0; k < 2 * TURNS; k++) d += `L${x + (k % 2 === 0 ? half : -half)} ${-(top - pitch * (1.25 + k / 2))}`;
          path.setAttribute("d", `${d}L${x} ${-(low + pitch)}V${-low}`);
        });
        return path;
      }
      case "scale": {
        const group = svg("g", { class: "scale" });
        this.scaledParts.push((px, view) => drawScale(group, shape, px, view));
        return group;
      }
      case "curve":
        return this.curve(shape, paint);
      case "heap":
        return this.heap(shape, paint);
      default: {
        const [x, y] = shape.place ?? [0, 0];
        const word = svg("text", { x, y: -y, fill: "#B5B9B4", "font-family": "Barlow Condensed" });
        word.textContent = shape.text ?? "";
        this.scaledParts.push((px) => word.setAttribute("font-size", String(13 * px)));
        return word;
      }
    }
  }

  /** Small discs in rows, or as they were thrown. @param {Shape} shape @param {string} paint */
  heap({ area = { left: 0, right: 1, bottom: 0, top: 1 }, most = 0, count = 0, loose = false }, paint) {
    const group = svg("g", { class: `heap ${loose ? "loose" : "rows"}` });
    const [w, h] = [area.right - area.left, area.top - area.bottom];
    const columns = Math.max(1, Math.ceil(Math.sqrt((most * w) / h)));
    const cell = Math.min(w / columns, h / Math.max(1, Math.ceil(most / columns)));
    const squares = Math.max(1, columns * Math.max(1, Math.floor(h / cell + 1e-6)));
    const stride = coprime(Math.round(0.618 * squares), squares);
    const discs = Array.from({ length: most }, () => svg("circle", { ...FILLS[paint], ...SHARP, r: (loose ? 0.34 : 0.42) * cell, "stroke-width": 1 }));
    group.append(...discs);
    const now = reader(this.footage, count);
    this.movers.push((f) => {
      const n = Math.round(now(f));
      group.setAttribute("data-count", String(n));
      discs.forEach((disc, i) => {
        disc.setAttribute("visibility", i < n ? "inherit" : "hidden");
        if (i >= n) return;
        // Chance for the eye only; it is the same whenever the frame is shown.
        const [a, b] = loose ? [hash(i, f), hash(i + most, f)].map((v) => 0.3 * (v - 0.5)) : [0, 0];
        // Thrown ones lie all over the place: each on a square of its own.
        const at = loose ? (i * stride + f * 37) % squares : i;
        disc.setAttribute("cx", String(area.left + (at % columns + 0.5 + a) * cell));
        disc.setAttribute("cy", String(-(area.top - (Math.floor(at / columns) + 0.5 + b) * cell)));
      });
    });
    return group;
  }

  /** A line through many places, which channels may move. @param {Shape} shape @param {string} paint */
  curve({ points = [], sways = [] }, paint) {
    const line = svg("polyline", { ...STROKES[paint], ...SHARP, fill: "none", "stroke-linejoin": "round", "stroke-linecap": "round" });
    const moving = sways.map((s) => ({ value: reader(this.footage, s.channel), along: s.along, weights: s.weights }));
    const put = (/** @type {number} */ f) => {
      const by = moving.map(({ value, along, weights }) => ({ v: value(f), along, weights }));
      const at = points.map(([x, y], i) => by.reduce(([u, w], { v, along, weights }) => [u + v * along[0] * (weights[i] ?? 0), w + v * along[1] * (weights[i] ?? 0)], [x, y]));
      line.setAttribute("points", at.map(([x, y]) => `${x},${-y}`).join(" "));
    };
    if (moving.length > 0) this.movers.push(put);
    else put(0);
    return line;
  }

  /** @param {Shape} shape @param {string} paint */
  disc(shape, paint) {
    const group = svg("g", {});
    const radius = shape.radius ?? 0.01;
    group.append(svg("circle", { ...FILLS[paint], ...SHARP, r: radius }));
    if (paint === "thread" || paint === "support" || paint === "guide") {
      const centre = this.at(shape.centre);
      this.movers.push((f) => group.setAttribute("transform", `translate(${centre(f)[0]} ${-centre(f)[1]})`));
      return group;
    }
    if (shape.turn !== null && shape.turn !== undefined) group.append(svg("path", { d: `M0 0V${-radius}`, stroke: paint === "body" ? "#14212B" : "#E9E4D6", "stroke-width": 2, ...SHARP }));
    // A dot of a pixel or two marks the centre, so that a tape can be laid to it.
    else if (paint === "body") group.append(svg("circle", { r: radius * 0.09, fill: "#14212B" }));
    this.placed(group, shape, paint);
    return group;
  }

  /** A body at its place, turned as it is. @param {Element} element @param {Shape} shape @param {string} paint */
  placed(element, shape, paint) {
    const centre = this.at(shape.centre);
    const turn = reader(this.footage, shape.turn ?? 0);
    this.movers.push((f) => {
      const [x, y] = centre(f);
      element.setAttribute("transform", `translate(${x} ${-y}) rotate(${(-turn(f) * 180) / Math.PI})`);
    });
    const moves = (shape.centre ?? []).some((c) => typeof c !== "number");
    // The first body comes first, in whichever order they are drawn.
    if (moves && paint === "body") this.centres.unshift(centre);
    if (moves && paint === "other") this.centres.push(centre);
  }

  /** @param {number} frame */
  move(frame) {
    for (const mover of this.movers) mover(frame);
    let k = this.shown;
    while (k < this.ringFrames.length && this.ringFrames[k].frame <= frame) this.ringFrames[k++].ring.setAttribute("visibility", "visible");
    while (k > 0 && this.ringFrames[k - 1].frame > frame) this.ringFrames[--k].ring.setAttribute("visibility", "hidden");
    this.shown = k;
  }

  /** How far somebody who rides along has moved since the start. @param {string} rider @param {number} frame @returns {[number, number]} */
  ridden(rider, frame) {
    const along = this.footage.scene.riders.find((r) => r.label === rider)?.along;
    if (!along) return [0, 0];
    const at = this.at(along);
    const [[x, y], [u, v]] = [at(frame), at(0)];
    return [x - u, y - v];
  }

  /** The area that the ray from the focus to the body sweeps between two frames, in squares of the unit of length; the sector's places.
   * @param {number} from @param {number} to */
  swept(from, to) {
    const [focus, centre] = [this.footage.scene.focus, this.centres[0]];
    if (!focus || !centre) return null;
    const places = [];
    for (let f = Math.min(from, to); f <= Math.max(from, to); f++) places.push(centre(f));
    let area = 0;
    for (let i = 1; i < places.length; i++) {
      const [[a, b], [c, d]] = [places[i - 1], places[i]];
      area += 0.5 * ((a - focus[0]) * (d - focus[1]) - (b - focus[1]) * (c - focus[0]));
    }
    return { area: Math.abs(area), places: [focus, ...places] };
  }

  /** Faint rings where the bodies have been, up to the moment on the stage. */
  strobe() {
    const [step, reach] = this.footage.scene.strobe;
    const last = Math.min(reach, this.footage.frames - 1);
    const every = step * Math.max(1, Math.ceil(last / step / MOST_RINGS));
    /** @type {{ frame: number, ring: Element }[]} */
    const all = [];
    for (const shape of reach > 0 ? this.footage.scene.shapes : []) {
      if (shape.paint !== "body" && shape.paint !== "other") continue;
      if (!shape.centre?.some((c) => typeof c !== "number")) continue;
      const r = shape.kind === "disc" ? (shape.radius ?? 0.01) : 0.2 * Math.min(...(shape.size ?? [0.1]));
      const centre = this.at(shape.centre);
      for (let f = 0; f <= last; f += every) {
        const [x, y] = centre(f);
        const ring = svg("circle", { cx: x, cy: -y, r, visibility: "hidden", ...SHARP });
        this.rings.append(ring);
        all.push({ frame: f, ring });
      }
    }
    return all.sort((a, b) => a.frame - b.frame);
  }

  /** The paths of the bodies as lines. */
  paths() {
    const every = Math.max(1, Math.floor(this.footage.frames / 400));
    return this.centres.map((centre) => {
      let points = "";
      for (let f = 0; f < this.footage.frames; f += every) points += `${centre(f)[0]},${-centre(f)[1]} `;
      return svg("polyline", { fill: "none", stroke: "#6B8496", "stroke-width": 1.4, "stroke-dasharray": "2 4", ...SHARP, points });
    });
  }

  /** Metres a pixel spans have changed. @param {number} px @param {Bounds} view */
  scaled(px, view) {
    for (const part of this.scaledParts) part(px, view);
  }
}

/** Divisions that can be told apart, with numbers. @param {Element} group @param {Shape} shape @param {number} px @param {Bounds} view */
function drawScale(group, shape, px, view) {
  const [zx, zy] = shape.zero ?? [0, 0];
  const [ax, ay] = shape.along ?? [1, 0];
  const { length = 1, division = 0.1 } = shape;
  const begins = typeof shape.from === "number" ? shape.from : 0;
  const fits = (/** @type {number} */ room) => [1, 5, 10, 50, 100, 500, 1000, 5000].map((k) => k * division).find((s) => s / px >= room) ?? length;
  const [small, large] = [fits(4), fits(44)];
  // Only what can be seen is drawn.
  const range = [(view.left - zx) * ax + (view.bottom - zy) * ay, (view.right - zx) * ax + (view.top - zy) * ay].sort((a, b) => a - b);
  const [from, to] = [Math.max(begins, range[0]), Math.min(length, range[1])];
  const place = (/** @type {number} */ s, /** @type {number} */ out) => [zx + ax * s - Math.abs(ay) * -out, -(zy + ay * s) + Math.abs(ax) * out];
  let d = "";
  group.replaceChildren();
  for (let i = Math.ceil(from / small - 1e-9); i * small <= to + 1e-9; i++) {
    const major = Math.abs((i * small) / large - Math.round((i * small) / large)) < 1e-6;
    const [x, y] = place(i * small, 0);
    const [u, v] = place(i * small, (major ? 9 : 5) * px);
    d += `M${x} ${y}L${u} ${v}`;
  }
  group.append(svg("path", { d, stroke: "#B5B9B4", "stroke-width": 1, ...SHARP }));
  for (let i = Math.ceil(from / large - 1e-9); i * large <= to + 1e-9; i++) {
    const [x, y] = place(i * large, (ay === 0 ? 21 : 13) * px);
    const label = svg("text", { x, y: ay === 0 ? y : y + 4 * px, "font-size": 11 * px, fill: "#B5B9B4", "font-family": "IBM Plex Mono", "text-anchor": ay === 0 ? "middle" : "start" });
    label.textContent = scaleNumber(i * large, large, division);
    group.append(label);
  }
}

/** A number of a scale: millimetre scales count in centimetres. @param {number} s @param {number} step @param {number} division */
export function scaleNumber(s, step, division) {
  const number = division <= 0.001 ? String(Math.round(s * 1000) / 10) : String(Math.round(s * 1e4) / 1e4);
  return number.replace("-", "\u2212");
}
