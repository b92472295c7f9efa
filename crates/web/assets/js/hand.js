// Pulling the body along its rail by pointer, finger or keys, recorded as it is.
import { notice } from "./edits.js";
import { stage as words } from "./words.js";

/** How fast a held arrow key pulls, in m/s. */
const KEY_SPEED = 1.2;
/** Longest pull, in s. */
const LONGEST = 60;
const ENDS = [-10, 10];

export class Hand {
  /** @param {import("./stage.js").RigStage} stage */
  constructor(stage) {
    this.stage = stage;
    this.active = false;
    /** @type {[number, number][] | null} */
    this.places = null;
    this.pull = 0;
    const { surface } = stage;
    document.addEventListener("click", (event) => {
      if (event.target instanceof Element && event.target.closest("#pull")) this.set(!this.active);
    });
    surface.addEventListener("pointerdown", (event) => {
      if (!this.active) return;
      event.preventDefault();
      surface.setPointerCapture(event.pointerId);
      this.begin(this.x(event));
    });
    surface.addEventListener("pointermove", (event) => {
      if (this.places && surface.hasPointerCapture(event.pointerId)) this.to(this.x(event));
    });
    // A finger that slides off the screen has let go too.
    for (const end of ["pointerup", "pointercancel"]) surface.addEventListener(end, () => this.end());
    document.addEventListener("keydown", (event) => this.key(event), true);
    document.addEventListener("keyup", (event) => {
      if (this.active && ["ArrowLeft", "ArrowRight"].includes(event.key)) this.pull = 0;
    });
  }

  /** @param {boolean} on */
  set(on) {
    this.active = on;
    this.places = null;
    this.pull = 0;
    document.getElementById("pull")?.setAttribute("aria-pressed", String(on));
    this.stage.surface.classList.toggle("pulling", on);
    this.stage.pause();
    if (on) notice(words.pull, true);
  }

  /** @param {PointerEvent} event */
  x(event) {
    const matrix = this.stage.surface.getScreenCTM();
    return matrix ? new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse()).x : 0;
  }

  /** @param {number} x */
  begin(x) {
    this.began = performance.now();
    this.places = [];
    this.at = x;
    this.to(x);
    let before = this.began;
    const tick = (/** @type {number} */ now) => {
      if (!this.places) return;
      if (this.pull !== 0) this.to((this.at ?? 0) + (this.pull * KEY_SPEED * (now - before)) / 1000);
      before = now;
      if (now - (this.began ?? now) > LONGEST * 1000) this.end();
      else requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  }

  /** @param {number} x */
  to(x) {
    if (!this.places) return;
    const t = Math.round(performance.now() - (this.began ?? 0)) / 1000;
    this.at = Math.max(ENDS[0], Math.min(ENDS[1], x));
    const last = this.places.at(-1);
    if (last && t <= last[0]) return;
    this.places.push([last ? t : 0, Math.round(this.at * 1000) / 1000]);
    this.stage.carry(this.at);
  }

  end() {
    // How long it was held at the end belongs to the motion.
    this.to(this.at ?? 0);
    const { places } = this;
    if (!places) return;
    this.set(false);
    void this.stage.run({ run: { pull: { motion: places } } });
  }

  /** @param {KeyboardEvent} event */
  key(event) {
    if (!this.active) return;
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (way) {
      if (!this.places) this.begin(this.stage.scene?.centres[0]?.(0)[0] ?? 0);
      this.pull = way;
    } else if (event.key === "Enter" && this.places) this.end();
    else if (event.key === "Escape") this.set(false);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
}
