// The meters of a rig: asked once the moment stands.
import { base } from "./edits.js";

/** Rest after the last step before they are asked, in ms. */
const REST = 60;

export class Meters {
  /** @param {() => { run: number, frame: number }} at what is on the stage @param {() => void} shown called after they show something else */
  constructor(at, shown) {
    this.at = at;
    this.shown = shown;
    /** What they showed last. @type {{ run: number, frame: number, shows: Record<string, string | null> } | null} */
    this.last = null;
    /** @type {ReturnType<typeof setTimeout> | undefined} */
    this.later = undefined;
  }

  /** @param {Record<string, string | null>} shows */
  write(shows) {
    let other = false;
    for (const o of document.querySelectorAll("[data-meter]")) {
      const words = shows[o.getAttribute("data-meter") ?? ""] ?? "–";
      if (o.textContent === words) continue;
      o.textContent = words;
      other = true;
    }
    // Nothing is touched in a frame in which nothing is other.
    if (other) this.shown();
  }

  /** While it plays, or until the answer has come, they show nothing: never what belongs to another run or moment. */
  blank() {
    this.write({});
  }

  /** Asks what they show. */
  ask() {
    clearTimeout(this.later);
    if (!document.querySelector("[data-meter]")) return;
    const { run, frame } = this.at();
    if (run === 0) return this.blank();
    if (this.last?.run === run && this.last.frame === frame) this.write(this.last.shows);
    else this.blank();
    this.later = setTimeout(async () => {
      const answer = await fetch(`${base}/runs/${run}/meters/${frame}`);
      const now = this.at();
      if (!answer.ok || now.run !== run || now.frame !== frame) return;
      this.last = { run, frame, shows: await answer.json() };
      this.write(this.last.shows);
    }, REST);
  }
}
