// Frames of a film, fetched ahead in both directions so that stepping does not wait.

/** Pictures kept, and how many are fetched ahead and behind. */
const KEPT = 160;
const AHEAD = 14;
const BEHIND = 7;
/** Fetches at a time. */
const AT_ONCE = 6;

export class Frames {
  /** @param {string} base @param {number} count */
  constructor(base, count) {
    this.base = base;
    this.count = count;
    /** @type {Map<number, ImageBitmap>} */
    this.here = new Map();
    /** @type {Map<number, Promise<ImageBitmap | null>>} */
    this.coming = new Map();
    /** @type {number[]} */
    this.wanted = [];
  }

  /** @param {number} n @returns {Promise<ImageBitmap | null>} */
  fetch(n) {
    const known = this.coming.get(n);
    if (known) return known;
    const coming = (async () => {
      try {
        const answer = await fetch(`${this.base}/${n}`);
        if (!answer.ok) return null;
        const picture = await createImageBitmap(await answer.blob());
        this.here.set(n, picture);
        this.forget(n);
        return picture;
      } catch {
        return null;
      } finally {
        this.coming.delete(n);
        this.more();
      }
    })();
    this.coming.set(n, coming);
    return coming;
  }

  /** The picture of a frame; those around it are fetched after it. @param {number} n @param {number} direction */
  async get(n, direction) {
    const here = this.here.get(n);
    this.around(n, direction);
    return here ?? (await this.fetch(n));
  }

  /** @param {number} n @param {number} direction */
  around(n, direction) {
    const [ahead, behind] = direction < 0 ? [BEHIND, AHEAD] : [AHEAD, BEHIND];
    /** @type {number[]} */
    const order = [];
    for (let k = 1; k <= AHEAD; k++) {
      if (k <= ahead) order.push(n + k);
      if (k <= behind) order.push(n - k);
    }
    this.wanted = order.filter((k) => k >= 0 && k < this.count && !this.here.has(k));
    this.more();
  }

  more() {
    while (this.coming.size < AT_ONCE) {
      const next = this.wanted.shift();
      if (next === undefined) return;
      if (!this.here.has(next)) void this.fetch(next);
    }
  }

  /** Lets go of those farthest away. @param {number} n */
  forget(n) {
    while (this.here.size > KEPT) {
      let far = n;
      for (const k of this.here.keys()) if (Math.abs(k - n) > Math.abs(far - n)) far = k;
      this.here.get(far)?.close();
      this.here.delete(far);
    }
  }
}
