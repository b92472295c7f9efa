// Draws a scene from data: a few shapes in metres, each coordinate a number or the name of a channel. Knows no rig.

const SVG = "http://www.w3.org/2000/svg";

/** @typedef {number | string} Coordinate */
/** @typedef {{ kind: "line", from: Coordinate[], to: Coordinate[], paint: string } | { kind: "disc", centre: Coordinate[], radius: number, paint: string }} Shape */
/** @typedef {{ bounds: { left: number, right: number, bottom: number, top: number }, shapes: Shape[] }} SceneData */
/** @typedef {{ run: number, every: number, frames: number, scene: SceneData, channels: Record<string, number[]> }} Footage */

/** @param {string} name @param {Record<string, string | number>} attributes */
export function svg(name, attributes) {
  const element = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, String(value));
  return element;
}

/** @type {Record<string, { line: Record<string, string | number>, disc: Record<string, string | number> }>} */
const PAINTS = {
  support: { line: { stroke: "#E9E4D6", "stroke-width": 3 }, disc: { fill: "#E9E4D6" } },
  thread: { line: { stroke: "#E9E4D6", "stroke-width": 1.4 }, disc: { fill: "none", stroke: "#E9E4D6" } },
  body: { line: { stroke: "#E9E4D6", "stroke-width": 4 }, disc: { fill: "#E9E4D6" } },
};

/** The scene as a group in metres, y up. `move(frame)` brings its moving shapes to a frame. */
export class SceneGroup {
  /** @param {Footage} footage */
  constructor(footage) {
    this.footage = footage;
    this.group = svg("g", {});
    /** @type {{ element: Element, attribute: string, values: number[], sign: number }[]} */
    this.bound = [];
    for (const shape of footage.scene.shapes) this.group.append(this.draw(shape));
  }

  /** @param {Shape} shape */
  draw(shape) {
    const paint = PAINTS[shape.paint] ?? PAINTS.thread;
    if (shape.kind === "line") {
      const element = svg("line", { ...paint.line, "vector-effect": "non-scaling-stroke", "stroke-linecap": "round" });
      this.bind(element, ["x1", "y1"], shape.from);
      this.bind(element, ["x2", "y2"], shape.to);
      return element;
    }
    const group = svg("g", {});
    const disc = svg("circle", { ...paint.disc, r: shape.radius });
    this.bind(disc, ["cx", "cy"], shape.centre);
    // A dot of a pixel or two marks the centre, so that a tape can be laid to it.
    const dot = svg("circle", { r: shape.radius * 0.09, fill: "#14212B" });
    this.bind(dot, ["cx", "cy"], shape.centre);
    group.append(disc, dot);
    return group;
  }

  /** @param {Element} element @param {string[]} attributes @param {Coordinate[]} point */
  bind(element, attributes, point) {
    attributes.forEach((attribute, i) => {
      const coordinate = point[i];
      const sign = i === 1 ? -1 : 1;
      if (typeof coordinate === "number") element.setAttribute(attribute, String(sign * coordinate));
      else this.bound.push({ element, attribute, values: this.footage.channels[coordinate], sign });
    });
  }

  /** @param {number} frame */
  move(frame) {
    for (const { element, attribute, values, sign } of this.bound) element.setAttribute(attribute, String(sign * values[frame]));
  }

  /** Faint rings where the bodies were, every `step` frames between two frames. @param {number} from @param {number} to @param {number} step */
  strobe(from, to, step) {
    const group = svg("g", { fill: "none", stroke: "#5A7080", "stroke-width": 1, opacity: 0.7 });
    for (const shape of this.footage.scene.shapes) {
      if (shape.kind !== "disc") continue;
      const at = (/** @type {Coordinate} */ c, /** @type {number} */ f) => (typeof c === "number" ? c : this.footage.channels[c][f]);
      for (let f = from; f <= to; f += step) {
        group.append(svg("circle", { cx: at(shape.centre[0], f), cy: -at(shape.centre[1], f), r: shape.radius, "vector-effect": "non-scaling-stroke" }));
      }
    }
    return group;
  }
}
