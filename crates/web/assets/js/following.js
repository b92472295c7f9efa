// The program places the marks of a trail, while the page asks how far it is.
import { AS_DATA, reason } from "./answers.js";
import { base, catchUp, notice, settled, writable } from "./edits.js";
import { element } from "./footage.js";
import { film as words } from "./words.js";

/** How following stands, as the server says it. @typedef {{ done: number, total: number, running: boolean, words: string, frame: number }} Standing */

/** Pause between two questions how following stands, in ms. */
const ASK = 250;

export class Following {
  /** @param {(trail: number, frame: number) => void} ended what is to be done about the frame where it stopped */
  constructor(ended) {
    this.ended = ended;
    /** The trail that is being followed. @type {number | null} */
    this.trail = null;
    this.said = "";
    /** @type {Standing | null} */
    this.standing = null;
  }

  /** Begins at the nearest mark. @param {number} trail @param {URLSearchParams} how */
  async begin(trail, how) {
    // Pressed twice.
    if (this.trail === trail) return;
    if (this.trail !== null) return notice(words.following, false);
    this.trail = trail;
    this.say(words.begins);
    try {
      // The mark it starts from may still be on its way.
      await settled();
      const begun = await fetch(this.address(trail), { method: "POST", body: how, headers: AS_DATA }).catch(() => null);
      if (begun?.ok) await this.watch(trail);
      else this.say(begun ? await reason(begun) : words.unfollowed);
    } finally {
      this.trail = null;
    }
  }

  /** Goes on watching what already runs: the page was loaded again, or a partner began it. Asking holds nobody up who begins meanwhile. @param {number[]} trails */
  async resume(trails) {
    if (!writable()) return;
    for (const trail of trails) {
      const running = (await this.ask(trail))?.running;
      if (this.trail !== null) return;
      if (!running) continue;
      this.trail = trail;
      try {
        return await this.watch(trail);
      } finally {
        this.trail = null;
      }
    }
  }

  stop() {
    if (this.trail !== null) void fetch(this.address(this.trail), { method: "DELETE" }).catch(() => null);
  }

  /** @param {number} trail */
  address(trail) {
    return `${base}/trails/${trail}/follow`;
  }

  /** How it stands: nothing while the server is out of reach, `null` when it knows of no following. @param {number} trail @returns {Promise<Standing | null | undefined>} */
  async ask(trail) {
    const answer = await fetch(this.address(trail), { headers: AS_DATA }).catch(() => null);
    if (answer?.status === 204) return null;
    return answer?.ok ? answer.json() : undefined;
  }

  /** @param {number} trail */
  async watch(trail) {
    for (;;) {
      const standing = await this.ask(trail);
      if (standing !== undefined) this.standing = standing;
      if (standing === null) return this.say(words.stopped);
      if (standing?.running) this.say(words.progress(standing.done, standing.total));
      else if (standing) {
        await catchUp(Number.MAX_SAFE_INTEGER);
        this.say(standing.words);
        return this.ended(trail, standing.frame);
      }
      await new Promise((resolve) => setTimeout(resolve, ASK));
    }
  }

  /** @param {string} said */
  say(said) {
    this.said = said;
    this.show();
  }

  /** Shows it in a fresh fragment too. */
  show() {
    const { standing, said } = this;
    const [place, stop] = [element("follow-said"), element("follow-stop")];
    const progress = /** @type {HTMLProgressElement | null} */ (element("follow-progress"));
    if (place && place.textContent !== said) place.textContent = said;
    if (stop) stop.hidden = !standing?.running;
    if (progress) Object.assign(progress, { hidden: !standing?.running, max: Math.max(1, standing?.total ?? 1), value: standing?.done ?? 0 });
  }

  /** Another film: nothing is said of the one before. */
  forget() {
    [this.said, this.standing] = ["", null];
  }
}
