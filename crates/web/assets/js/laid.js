// What is laid over a film: rulers, a rectangle, the tape, the axes. Places are in pixels of the picture.
import { send } from "./edits.js";
import { digits } from "./numbers.js";
import { CORNERS, onPlane, seenOnPicture, turnedToPlane } from "./plane.js";
import { svg } from "./scene.js";
import { film as words, stage as stageWords } from "./words.js";

/** @typedef {import("./film.js").FilmData} FilmData */

/** A line between two handles. @param {import("./film.js").FilmStage} stage @param {string} kind @param {[[number, number], [number, number]]} ends @param {string[]} names @param {(ends: [[number, number], [number, number]]) => string} words @param {(ends: [[number, number], [number, number]]) => void} placed */
function span(stage, kind, ends, names, words, placed) {
  const group = svg("g", { class: kind });
  /** @type {[[number, number], [number, number]]} */
  const now = [[...ends[0]], [...ends[1]]];
  const line = svg("path", { "stroke-width": stage.px(1.5), fill: "none" });
  const text = svg("text", { "font-size": stage.px(12), "text-anchor": "middle" });
  const redraw = () => {
    const [[ax, ay], [bx, by]] = now;
    const [dx, dy] = [bx - ax, by - ay];
    const long = Math.hypot(dx, dy) || 1;
    const [nx, ny] = [(-dy / long) * stage.px(7), (dx / long) * stage.px(7)];
    line.setAttribute("d", `M${ax} ${ay}L${bx} ${by}M${ax - nx} ${ay - ny}L${ax + nx} ${ay + ny}M${bx - nx} ${by - ny}L${bx + nx} ${by + ny}`);
    const side = nx + ny >= 0 ? 2.4 : -2.4;
    text.setAttribute("transform", `translate(${(ax + bx) / 2 + nx * side} ${(ay + by) / 2 + ny * side})`);
    text.textContent = words(now);
  };
  redraw();
  group.append(line, text);
  now.forEach((at, which) => {
    const look = svg("circle", { r: stage.px(6), "stroke-width": stage.px(1.5), class: "end" });
    group.append(
      stage.handle(
        {
          name: names[which],
          at: /** @type {[number, number]} */ ([...at]),
          moved: (to) => {
            now[which] = to;
            redraw();
          },
          placed: () => placed(now),
        },
        [look],
      ),
    );
  });
  return group;
}

/** A ruler with its length. @param {import("./film.js").FilmStage} stage @param {FilmData} film @param {FilmData["rulers"][0]} ruler @param {number} index */
export function ruler(stage, film, ruler, index) {
  const name = `ruler ${index + 1}`;
  const names = words.ruler(name, ruler.circle);
  return span(stage, "ruler", ruler.ends, names, () => ruler.text, (ends) =>
    void send({ film: { place_ruler: { film: film.key, index, ends, typed: ruler.text, circle: ruler.circle } } }),
  );
}

/** A rectangle of known size, by its four corners. @param {import("./film.js").FilmStage} stage @param {FilmData} film @param {NonNullable<FilmData["plane"]>} plane */
export function rectangle(stage, film, plane) {
  const group = svg("g", { class: "ruler plane" });
  const now = plane.corners.map((c) => /** @type {[number, number]} */ ([...c]));
  const line = svg("path", { "stroke-width": stage.px(1.5), fill: "none" });
  const redraw = () => line.setAttribute("d", `M${now.map((at) => at.join(" ")).join("L")}Z`);
  redraw();
  group.append(line);
  now.forEach((at, which) => {
    const look = svg("circle", { r: stage.px(6), "stroke-width": stage.px(1.5), class: "end" });
    const options = {
      name: CORNERS[which],
      at,
      moved: (/** @type {[number, number]} */ to) => {
        now[which] = to;
        redraw();
      },
      placed: () => void placePlane(stage, film, now, plane.typed),
    };
    group.append(stage.handle(options, [look]));
  });
  return group;
}

/** Lays the rectangle; where that is refused, it goes back to where it lay. @param {import("./film.js").FilmStage} stage @param {FilmData} film @param {[number, number][]} corners @param {string[]} typed */
export async function placePlane(stage, film, corners, typed) {
  const outcome = await send({ film: { place_plane: { film: film.key, corners, typed } } });
  if (!outcome.done) stage.read();
  return outcome;
}

/** The tape with what it reads. @param {import("./film.js").FilmStage} stage @param {FilmData} film @param {[[number, number], [number, number]]} ends */
export function tape(stage, film, ends) {
  return span(stage, "tape", ends, stageWords.tape, (now) => lengthOf(film, now), (now) => stage.place({ tape: now }));
}

/** A length as it is read. @param {FilmData} film @param {[[number, number], [number, number]]} ends */
export function lengthOf(film, ends) {
  const [a, b] = film.plane ? ends.map((at) => onPlane(film.plane?.flat ?? [], at)) : ends;
  const px = Math.hypot(b[0] - a[0], b[1] - a[1]);
  if (!film.scale) return `${digits(px, 1)}\u00A0px`;
  const places = Math.max(0, Math.min(6, Math.ceil(1 - Math.log10(film.scale))));
  return `${digits(film.plane ? px : px * film.scale, places)}\u00A0m`;
}

/** Origin, direction, and which way is positive. @param {import("./film.js").FilmStage} stage @param {FilmData} film */
export function axes(stage, film) {
  const { origin, flipped } = film.axes;
  let angle = film.axes.angle;
  let [ox, oy] = origin;
  const group = svg("g", { class: "axes" });
  const lines = svg("path", { fill: "none", "stroke-width": stage.px(1.5) });
  const [xName, yName] = [svg("text", { "font-size": stage.px(13) }), svg("text", { "font-size": stage.px(13) })];
  xName.textContent = "+x";
  yName.textContent = "+y";
  const long = stage.px(70);
  const flat = film.plane?.flat;
  /** Where an axis is seen to point that is turned so far from +x. @param {number} turn in degrees @returns {[number, number]} */
  const along = (turn) => {
    const to = ((angle + turn) * Math.PI) / 180;
    return seenOnPicture(flat, [ox, oy], [Math.cos(to), -Math.sin(to)]);
  };
  const tip = () => {
    const [ux, uy] = along(0);
    return /** @type {[number, number]} */ ([ox + long * ux, oy + long * uy]);
  };
  const redraw = () => {
    const [tx, ty] = tip();
    const [[ux, uy], [vx, vy]] = [along(0), along(flipped ? -90 : 90)];
    const head = (/** @type {number} */ x, /** @type {number} */ y, /** @type {number} */ a, /** @type {number} */ b) => {
      const s = stage.px(7);
      return `M${x - s * (a + b * 0.5)} ${y - s * (b - a * 0.5)}L${x} ${y}L${x - s * (a - b * 0.5)} ${y - s * (b + a * 0.5)}`;
    };
    const [yx, yy] = [ox + long * vx, oy + long * vy];
    lines.setAttribute("d", `M${ox} ${oy}L${tx} ${ty}${head(tx, ty, ux, uy)}M${ox} ${oy}L${yx} ${yy}${head(yx, yy, vx, vy)}`);
    xName.setAttribute("transform", `translate(${tx + ux * stage.px(8)} ${ty + uy * stage.px(8) + stage.px(4)})`);
    yName.setAttribute("transform", `translate(${yx + vx * stage.px(8)} ${yy + vy * stage.px(8) + stage.px(4)})`);
  };
  redraw();
  group.append(lines, xName, yName);
  const keep = () => void send({ film: { place_axes: { film: film.key, origin: [ox, oy], angle: `${Math.round(angle * 10) / 10}°`, flipped } } });
  /** @type {Element} */
  let end;
  const dot = (/** @type {string} */ kind) => svg("circle", { r: stage.px(kind === "origin" ? 5 : 4), "stroke-width": stage.px(1.5), class: kind });
  group.append(
    stage.handle(
      {
        name: words.origin,
        at: [ox, oy],
        moved: (at) => {
          [ox, oy] = at;
          redraw();
          const [x, y] = tip();
          end.setAttribute("transform", `translate(${x} ${y})`);
        },
        placed: keep,
      },
      [dot("origin")],
    ),
  );
  end = stage.handle(
    {
      name: words.direction,
      at: tip(),
      moved: ([x, y]) => {
        const [right, down] = turnedToPlane(flat, [ox, oy], [x - ox, y - oy]);
        angle = (Math.atan2(-down, right) * 180) / Math.PI;
        redraw();
      },
      placed: keep,
    },
    [dot("direction")],
  );
  group.append(end);
  return group;
}
