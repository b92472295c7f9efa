// Closer and farther over the stage: by Ctrl and wheel, two fingers, the keys + and −, or the buttons; what is magnified is moved by dragging.

/** The most it magnifies. */
const MOST = 8;
/** So much closer with one press of a key or button. */
const STEP = 1.5;
/** So far the arrow keys move it, as a share of what is seen. */
const PAN = 0.1;
/** Closer by the factor e with a wheel turned so far, in px. */
const TURN = 400;
/** Px in a line of a wheel that counts lines. */
const LINE = 30;
/** So far a pointer may slip in a click, in px of the screen. */
const SLIP = 3;

/** @typedef {[number, number, number, number]} Box */

export class Lens {
  /**
   * @param {HTMLElement} plate
   * @param {{ changed: () => void, grabs: () => boolean }} how what is done once it has changed, and whether a press may take hold of the picture
   */
  constructor(plate, how) {
    this.plate = plate;
    this.how = how;
    this.power = 1;
    /** The middle of what is seen, as shares of all there is. */
    this.middle = [0.5, 0.5];
    /** Fingers on the plate, by their number. @type {Map<number, [number, number]>} */
    this.fingers = new Map();
    /** Whether the fingers on the plate were two at some time. */
    this.pinched = false;
    plate.addEventListener("wheel", (event) => this.wheel(event), { passive: false });
    plate.addEventListener("pointerdown", (event) => this.down(event));
    // Handles keep their presses to themselves; fingers are counted all the same.
    plate.addEventListener("pointerdown", (event) => this.finger(event), true);
    for (const type of ["pointermove", "pointerup", "pointercancel"]) window.addEventListener(type, (event) => event instanceof PointerEvent && this.finger(event));
    const controls = document.getElementById("lens");
    controls?.addEventListener("click", (event) => {
      const by = event.target instanceof Element ? event.target.closest("button")?.dataset.lens : undefined;
      if (by === "reset") this.reset();
      else if (by) this.step(Number(by));
    });
    controls?.addEventListener("keydown", (event) => {
      const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      if (!way) return;
      event.preventDefault();
      event.stopPropagation();
      this.shift(-way[0] * PAN, -way[1] * PAN);
    });
    this.said();
  }

  /** The part of a view box that is seen. @param {Box} all @returns {Box} */
  narrowed([x, y, w, h]) {
    const [u, v] = this.middle;
    const [width, height] = [w / this.power, h / this.power];
    return [x + u * w - width / 2, y + v * h - height / 2, width, height];
  }

  /** As it was at first, without a word to anybody. */
  restart() {
    this.power = 1;
    this.middle = [0.5, 0.5];
    this.said();
  }

  reset() {
    this.restart();
    this.how.changed();
  }

  /** Closer or farther by steps, about the middle. @param {number} by */
  step(by) {
    this.to(this.power * STEP ** by, [0.5, 0.5]);
  }

  /** Magnifies so much; a place of the plate, as shares of it, stays where it is. @param {number} power @param {number[]} at */
  to(power, at) {
    const now = Math.max(1, Math.min(MOST, power));
    this.middle = this.middle.map((m, k) => m + (at[k] - 0.5) * (1 / this.power - 1 / now));
    this.power = now;
    this.settle();
  }

  /** Moves the picture by shares of the plate. @param {number} dx @param {number} dy */
  shift(dx, dy) {
    this.middle = [this.middle[0] - dx / this.power, this.middle[1] - dy / this.power];
    this.settle();
  }

  /** Nothing beyond the edge is shown. */
  settle() {
    const room = 0.5 / this.power;
    this.middle = this.middle.map((m) => Math.max(room, Math.min(1 - room, m)));
    this.said();
    this.how.changed();
  }

  said() {
    const shown = document.getElementById("lens-power");
    if (shown) shown.textContent = `×${this.power.toFixed(1)}`;
    this.plate.classList.toggle("magnified", this.power > 1);
  }

  /** @param {{ clientX: number, clientY: number }} event */
  share({ clientX, clientY }) {
    const box = this.plate.getBoundingClientRect();
    return [(clientX - box.left) / box.width, (clientY - box.top) / box.height];
  }

  /** @param {WheelEvent} event */
  wheel(event) {
    // Without Ctrl the page scrolls; two fingers on a pad come as a wheel with Ctrl.
    if (!event.ctrlKey && !event.metaKey) return;
    event.preventDefault();
    const px = event.deltaMode === WheelEvent.DOM_DELTA_PIXEL ? event.deltaY : event.deltaY * LINE;
    this.to(this.power * Math.exp(-px / TURN), this.share(event));
  }

  /** Takes hold of the picture. @param {PointerEvent} event */
  down(event) {
    if (this.power === 1 || event.button !== 0 || event.defaultPrevented || this.fingers.size > 1 || !this.how.grabs()) return;
    if (event.target instanceof Element && event.target.closest("button, .handle, .grip")) return;
    let [x, y] = [event.clientX, event.clientY];
    let moved = 0;
    /** @param {PointerEvent} e */
    const move = (e) => {
      if (e.pointerId !== event.pointerId || this.pinched) return;
      moved += Math.hypot(e.clientX - x, e.clientY - y);
      const box = this.plate.getBoundingClientRect();
      this.shift((e.clientX - x) / box.width, (e.clientY - y) / box.height);
      [x, y] = [e.clientX, e.clientY];
    };
    const end = () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", end);
      window.removeEventListener("pointercancel", end);
      // A drag is no click.
      if (moved > SLIP) window.addEventListener("click", (e) => e.stopPropagation(), { capture: true, once: true });
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", end);
    window.addEventListener("pointercancel", end);
  }

  /** Two fingers magnify and move. @param {PointerEvent} event */
  finger(event) {
    if (event.pointerType !== "touch") return;
    const { fingers } = this;
    const before = [...fingers.values()];
    if (event.type === "pointerdown") {
      if (fingers.size === 0) this.pinched = false;
      fingers.set(event.pointerId, [event.clientX, event.clientY]);
      if (fingers.size === 2) this.pinched = true;
      return;
    }
    if (!fingers.has(event.pointerId)) return;
    if (event.type !== "pointermove") {
      fingers.delete(event.pointerId);
      return;
    }
    fingers.set(event.pointerId, [event.clientX, event.clientY]);
    const now = [...fingers.values()];
    if (now.length !== 2) return;
    const apart = (/** @type {[number, number][]} */ [a, b]) => Math.max(1, Math.hypot(a[0] - b[0], a[1] - b[1]));
    const middle = (/** @type {[number, number][]} */ [a, b]) => ({ clientX: (a[0] + b[0]) / 2, clientY: (a[1] + b[1]) / 2 });
    const [was, is] = [this.share(middle(before)), this.share(middle(now))];
    this.to((this.power * apart(now)) / apart(before), was);
    this.shift(is[0] - was[0], is[1] - was[1]);
  }
}
