// The plane of the motion, filmed at a slant: from px of the picture to metres, and directions on either.
import { film } from "./words.js";

/** Names of the corners, in their order. */
export const CORNERS = film.corners;

/** @typedef {[number, number]} Pair to the right and down */

/**
 * A place of the picture in m to the right and down on the plane.
 * @param {number[][]} flat rows of the projective map @param {Pair} at in px
 * @returns {Pair}
 */
export function onPlane(flat, [x, y]) {
  const [right, down, near] = flat.map(([a, b, c]) => a * x + b * y + c);
  return [right / near, down / near];
}

/** How the plane moves with the picture, by a hundredth of a pixel: the changes by x and by y. @param {number[][]} flat @param {Pair} at */
function slope(flat, at) {
  const step = 0.01;
  const here = onPlane(flat, at);
  return [[step, 0], [0, step]].map(([dx, dy]) => {
    const to = onPlane(flat, [at[0] + dx, at[1] + dy]);
    return [(to[0] - here[0]) / step, (to[1] - here[1]) / step];
  });
}

/**
 * A direction of the picture as one of the plane; without a plane it is the same.
 * @param {number[][] | undefined} flat @param {Pair} at @param {Pair} direction
 * @returns {Pair}
 */
export function turnedToPlane(flat, at, [x, y]) {
  if (!flat) return [x, y];
  const [[a, c], [b, d]] = slope(flat, at);
  return [a * x + b * y, c * x + d * y];
}

/**
 * A direction of the plane as it is seen on the picture, of length 1.
 * @param {number[][] | undefined} flat @param {Pair} at @param {Pair} direction
 * @returns {Pair}
 */
export function seenOnPicture(flat, at, [x, y]) {
  if (!flat) return [x, y];
  const [[a, c], [b, d]] = slope(flat, at);
  const det = a * d - b * c;
  const [p, q] = [(d * x - b * y) / det, (a * y - c * x) / det];
  const long = Math.hypot(p, q) || 1;
  return [p / long, q / long];
}
