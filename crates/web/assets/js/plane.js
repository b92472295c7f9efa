// The plane of the motion, filmed at a slant: from px of the picture to metres, and directions on it.

/** Names of the corners, in their order. */
export const CORNERS = ["Lower left corner", "Lower right corner", "Upper right corner", "Upper left corner"];

/**
 * A place of the picture in m to the right and down on the plane.
 * @param {number[][]} flat rows of the projective map @param {number[]} at in px
 * @returns {[number, number]}
 */
export function onPlane(flat, [x, y]) {
  const [right, down, near] = flat.map(([a, b, c]) => a * x + b * y + c);
  return [right / near, down / near];
}

/**
 * A quarter turn from +x to +y as seen on a picture: counter-clockwise, or clockwise.
 * @param {[number, number]} x @param {boolean} flipped
 * @returns {[number, number]}
 */
export const quarter = ([x, y], flipped) => (flipped ? [-y, x] : [y, -x]);

/**
 * The direction on the picture of what is square to +x on the plane, of length 1.
 * @param {number[][]} flat @param {[number, number]} origin in px @param {[number, number]} x direction of +x on the picture @param {boolean} flipped
 * @returns {[number, number]}
 */
export function upOnPlane(flat, origin, x, flipped) {
  const at = onPlane(flat, origin);
  // How the plane moves with the picture there, by a hundredth of a pixel.
  const step = 0.01;
  const change = (/** @type {number} */ dx, /** @type {number} */ dy) => {
    const to = onPlane(flat, [origin[0] + dx * step, origin[1] + dy * step]);
    return [to[0] - at[0], to[1] - at[1]];
  };
  const [[a, c], [b, d]] = [change(1, 0), change(0, 1)];
  const [u, v] = quarter([a * x[0] + b * x[1], c * x[0] + d * x[1]], flipped);
  const det = a * d - b * c;
  const [p, q] = [(d * u - b * v) / det, (a * v - c * u) / det];
  const long = Math.hypot(p, q) || 1;
  return [p / long, q / long];
}
