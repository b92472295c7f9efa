// The player of a run or a film: runs, pauses, steps, and holds t = 0 and the split. Where the moments come from is the stage's affair.
import { stage } from "./words.js";

/** A clock that goes through moments. */
export class Player {
  constructor() {
    this.frame = 0;
    this.playing = false;
    this.speed = "1";
  }

  /** Times of all moments in s, ascending; empty while nothing is on the stage. @returns {{ count: number, at: (frame: number) => number }} */
  moments() {
    return { count: 0, at: () => 0 };
  }

  /** Shows a moment. @param {number} _frame */
  show(_frame) {}

  /** Called when it comes to rest. */
  rested() {}

  /** @param {number} frames */
  step(frames) {
    this.pause();
    this.show(this.frame + frames);
  }

  play() {
    const { count, at } = this.moments();
    if (count < 2) return;
    const last = count - 1;
    if (Number(this.speed) > 0 && this.frame >= last) this.show(0);
    if (Number(this.speed) < 0 && this.frame <= 0) this.show(last);
    this.playing = true;
    this.label();
    let time = at(this.frame);
    let before = performance.now();
    const tick = (/** @type {number} */ now) => {
      if (!this.playing) return;
      if (this.moments().count !== count) return this.pause();
      time += ((now - before) / 1000) * Number(this.speed);
      before = now;
      let to = this.frame;
      while (to < last && at(to + 1) <= time + 1e-9) to++;
      while (to > 0 && at(to) > time + 1e-9) to--;
      if (to !== this.frame) this.show(to);
      const over = Number(this.speed) > 0 ? time >= at(last) : time <= at(0);
      if (over) this.pause();
      else requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  }

  pause() {
    const was = this.playing;
    this.playing = false;
    this.label();
    if (was) this.rested();
  }

  label() {
    const word = document.querySelector("#run [data-play]");
    if (word) word.textContent = this.playing ? stage.pause : (word.getAttribute("data-play") || stage.run);
    const surface = document.getElementById("stage");
    if (surface) surface.dataset.playing = String(this.playing);
  }
}
