// Brings a film: reads it in the browser, makes pictures of it, and sends them in parts. A broken connection goes on
// where it stopped. Zips of stills and animated pictures are unpacked by the server.
import { AS_DATA, reason, wordOf } from "./answers.js";
import { intake as words } from "./words.js";

/** @typedef {{ time: number, canvas: HTMLCanvasElement | OffscreenCanvas }} Picture */
/** @typedef {{ kind: "video" | "stills", file: File, width: number, height: number, from: number, to: number, rate: number, times: number[], pictures: (times: number[], width: number) => AsyncGenerator<Picture> }} Source */

const WIDTHS = [320, 480, 640, 854, 960, 1280, 1920];
const QUALITY = 0.88;
/** Bytes sent at a time. */
const PART = 2_000_000;
/** Pause before a broken connection is tried again, in ms. */
const PAUSE = 1500;

/** A reason that the person is to read. */
class Refused extends Error {}

/** @param {string} id */
const element = (id) => /** @type {HTMLElement} */ (document.getElementById(id));
/** @param {string} text */
const number = (text) => Number(text.trim().replace(",", "."));
const wait = (/** @type {number} */ ms) => new Promise((resolve) => setTimeout(resolve, ms));

/** Reads a film with exact times of its frames. @param {File} file @returns {Promise<Source>} */
async function readVideo(file) {
  if (!("VideoDecoder" in window)) return readBySeeking(file);
  const { ALL_FORMATS, BlobSource, CanvasSink, EncodedPacketSink, Input } = await import(/** @type {string} */ (new URL("../vendor/mediabunny.min.mjs", import.meta.url).href));
  const input = new Input({ source: new BlobSource(file), formats: ALL_FORMATS });
  let track;
  try {
    track = await input.getPrimaryVideoTrack();
  } catch {
    throw new Refused(words.noFilm);
  }
  if (!track) throw new Refused(words.noTrack);
  if (!(await track.canDecode())) {
    throw new Refused(words.undecodable((await track.getCodec()) ?? "unknown"));
  }
  // Packets come in the order of decoding; frames are shown in the order of their times.
  /** @type {number[]} */
  const times = [];
  try {
    const packets = new EncodedPacketSink(track);
    for await (const packet of packets.packets(undefined, undefined, { metadataOnly: true })) times.push(packet.timestamp);
  } catch {
    throw new Refused(words.cutOff);
  }
  times.sort((a, b) => a - b);
  const shown = times.filter((t) => t >= 0);
  if (shown.length < 2) throw new Refused(words.tooShort);
  const [width, height] = [await track.getDisplayWidth(), await track.getDisplayHeight()];
  const span = shown[shown.length - 1] - shown[0];
  return {
    kind: "video",
    file,
    width,
    height,
    from: shown[0],
    to: shown[shown.length - 1],
    rate: (shown.length - 1) / span,
    times: shown,
    async *pictures(wanted, to) {
      // The rotation flag is heeded: the canvas has the size the film is shown in.
      const sink = new CanvasSink(track, { width: to, poolSize: 4 });
      let k = 0;
      for await (const shot of sink.canvasesAtTimestamps(wanted)) {
        if (shot) yield { time: wanted[k], canvas: shot.canvas };
        k += 1;
      }
    },
  };
}

/** Where the browser has no decoder to itself: a video element, moved from moment to moment. @param {File} file @returns {Promise<Source>} */
async function readBySeeking(file) {
  const video = document.createElement("video");
  video.muted = true;
  video.preload = "auto";
  video.src = URL.createObjectURL(file);
  await new Promise((resolve, reject) => {
    video.onloadeddata = resolve;
    video.onerror = () => reject(new Refused(words.unplayable));
  });
  const rate = 30;
  const count = Math.floor(video.duration * rate);
  if (!Number.isFinite(count) || count < 2) throw new Refused(words.tooShort);
  return {
    kind: "video",
    file,
    width: video.videoWidth,
    height: video.videoHeight,
    from: 0,
    to: video.duration,
    rate,
    times: Array.from({ length: count }, (_, i) => i / rate),
    async *pictures(wanted, to) {
      const canvas = document.createElement("canvas");
      canvas.width = to;
      canvas.height = Math.round((to * video.videoHeight) / video.videoWidth);
      for (const time of wanted) {
        const there = new Promise((resolve) => video.addEventListener("seeked", resolve, { once: true }));
        // The middle of a frame is surely in it.
        video.currentTime = time + 0.5 / rate;
        await there;
        canvas.getContext("2d")?.drawImage(video, 0, 0, canvas.width, canvas.height);
        yield { time, canvas };
      }
    },
  };
}

/** @param {HTMLCanvasElement | OffscreenCanvas} canvas @returns {Promise<Blob>} */
function jpeg(canvas) {
  if (canvas instanceof OffscreenCanvas) return canvas.convertToBlob({ type: "image/jpeg", quality: QUALITY });
  return new Promise((resolve, reject) => canvas.toBlob((blob) => (blob ? resolve(blob) : reject(new Refused(words.noPicture))), "image/jpeg", QUALITY));
}

export class Intake {
  /** @param {string} base where films are kept: a logbook's or the teacher's @param {(key: string) => void} done */
  constructor(base, done) {
    this.base = base;
    this.done = done;
    /** @type {Source | null} */
    this.source = null;
    this.paused = false;
    this.cancelled = false;
    this.working = false;
    this.dialog = /** @type {HTMLDialogElement} */ (element("film-dialog"));
    this.form = /** @type {HTMLFormElement} */ (element("intake"));
    /** What the server takes. */
    this.most = { frames: Number(this.form.dataset.mostFrames), bytes: Number(this.form.dataset.mostBytes) };
    element("intake-file").addEventListener("change", (event) => {
      const file = /** @type {HTMLInputElement} */ (event.target).files?.[0];
      if (file) void this.open(file);
    });
    const drop = element("intake-drop");
    drop.addEventListener("dragover", (event) => event.preventDefault());
    drop.addEventListener("drop", (event) => {
      event.preventDefault();
      const file = event.dataTransfer?.files[0];
      if (file) void this.open(file);
    });
    this.form.addEventListener("submit", (event) => {
      event.preventDefault();
      void this.bring();
    });
    this.form.addEventListener("input", () => this.count());
    element("intake-pause").addEventListener("click", () => this.pause(!this.paused));
    element("intake-cancel").addEventListener("click", () => this.cancel());
    this.dialog.addEventListener("cancel", () => this.cancel());
  }

  /** @param {string} name */
  field(name) {
    return /** @type {HTMLInputElement | HTMLSelectElement} */ (this.form.elements.namedItem(name));
  }

  /** @param {string} words */
  say(words) {
    const line = element("intake-said");
    line.hidden = words === "";
    line.textContent = words;
  }

  /** Looks into a file. @param {File} file */
  async open(file) {
    this.say("");
    this.source = null;
    this.ready(false);
    try {
      this.source = await this.read(file);
    } catch (error) {
      element("intake-about").hidden = true;
      this.say(error instanceof Refused ? error.message : words.noFilm);
      return;
    }
    const { source } = this;
    element("intake-about").hidden = false;
    this.form.dataset.kind = source.kind;
    this.field("title").value = file.name.replace(/\.[^.]*$/, "").slice(0, 80);
    const width = /** @type {HTMLSelectElement} */ (this.field("width"));
    const sizes = WIDTHS.filter((w) => w < source.width);
    if (source.width <= 1920) sizes.push(source.width);
    width.replaceChildren(...sizes.map((w) => new Option(`${w}`, String(w))));
    // Wide enough to see a tenth of a pixel, small enough for the school's network.
    width.value = String(sizes.filter((w) => w <= 960).pop() ?? sizes[0]);
    this.field("every").value = "1";
    this.field("filmed").value = "";
    this.field("from").value = source.from.toFixed(3);
    this.field("to").value = source.to.toFixed(3);
    element("intake-facts").textContent =
      source.kind === "video" ? `${source.width} × ${source.height}, ${source.times.length} frames, ${(source.to - source.from).toFixed(2)} s, ${source.rate.toFixed(2)} frames/s` : `${(file.size / 1e6).toFixed(1)} MB`;
    this.ready(true);
    this.count();
  }

  /** @param {File} file @returns {Promise<Source>} */
  async read(file) {
    if (file.size === 0) throw new Refused(words.empty);
    if (file.size > 4e9) throw new Refused(words.huge);
    const head = new Uint8Array(await file.slice(0, 12).arrayBuffer());
    const starts = (/** @type {string} */ text, at = 0) => [...text].every((c, i) => head[at + i] === c.charCodeAt(0));
    const stills = starts("PK") || starts("GIF8") || starts("PNG", 1) || (starts("RIFF") && starts("WEBP", 8));
    if (!stills) return readVideo(file);
    if (file.size > this.most.bytes) throw new Refused(words.large(this.most.bytes / 1e6));
    return { kind: "stills", file, width: 1280, height: 0, from: 0, to: 0, rate: 25, times: [], async *pictures() {} };
  }

  /** Times of the frames that are wanted, in s of the file. */
  wanted() {
    const { source } = this;
    if (!source) return [];
    const [from, to] = [number(this.field("from").value), number(this.field("to").value)];
    const every = Math.max(1, Math.round(number(this.field("every").value)) || 1);
    // The ends are shown to a thousandth.
    const inside = source.times.filter((t) => t >= from - 6e-4 && t <= to + 6e-4);
    return inside.filter((_, i) => i % every === 0);
  }

  /** Says how many frames that makes. */
  count() {
    const { source } = this;
    if (!source || source.kind === "stills") return this.ready(source !== null);
    const n = this.wanted().length;
    const fits = n >= 2 && n <= this.most.frames;
    element("intake-count").textContent = words.kept(n, this.most.frames);
    this.ready(fits);
  }

  /** @param {boolean} yes */
  ready(yes) {
    /** @type {HTMLButtonElement} */ (element("intake-start")).disabled = !yes || this.working;
  }

  /** @param {boolean} on */
  work(on) {
    this.working = on;
    element("intake-work").hidden = !on;
    element("intake-pause").hidden = !on || this.source?.kind === "stills";
    this.ready(!on);
    this.pause(false);
  }

  /** @param {boolean} on */
  pause(on) {
    this.paused = on;
    element("intake-pause").textContent = on ? words.goOn : words.pause;
  }

  cancel() {
    this.cancelled = true;
    if (!this.working) this.dialog.close();
  }

  /** @param {number} done @param {number} of @param {string} words */
  progress(done, of, words) {
    const bar = /** @type {HTMLProgressElement} */ (element("intake-progress"));
    bar.max = of;
    bar.value = done;
    element("intake-progress-words").textContent = words;
  }

  async bring() {
    const { source } = this;
    if (!source || this.working) return;
    this.cancelled = false;
    this.say("");
    this.work(true);
    try {
      const key = source.kind === "stills" ? await this.bringStills(source.file) : await this.bringVideo(source);
      this.dialog.close();
      this.done(key);
    } catch (error) {
      this.say(error instanceof Refused ? error.message : words.broken);
    } finally {
      this.work(false);
    }
  }

  /** Sends until it is answered; the page says so meanwhile. @param {string} path @param {RequestInit} options */
  async send(path, options) {
    for (;;) {
      if (this.cancelled) throw new Refused(words.cancelled);
      try {
        const answer = await fetch(`${this.base}/${path}`, { ...options, headers: { ...AS_DATA, ...options.headers } });
        if (answer.ok) return answer;
        if (answer.status < 500) throw new Refused(await reason(answer));
      } catch (error) {
        if (error instanceof Refused) throw error;
      }
      element("intake-progress-words").textContent = words.trying;
      await wait(PAUSE);
    }
  }

  /** @param {Source} source */
  async bringVideo(source) {
    const times = this.wanted();
    const filmed = number(this.field("filmed").value || "0");
    // A high-speed film plays slower than it was filmed.
    const slow = filmed > 0 ? source.rate / filmed : 1;
    const width = Number(this.field("width").value);
    /** @type {number | null} */
    let film = null;
    let key = "";
    /** @type {{ number: number, blob: Blob }[]} */
    let part = [];
    let bytes = 0;
    let total = 0;
    const begun = performance.now();
    const flush = async () => {
      if (part.length === 0) return;
      /** @type {BlobPart[]} */
      const pieces = [];
      for (const { number: n, blob } of part) {
        const head = new DataView(new ArrayBuffer(8));
        head.setUint32(0, n, true);
        head.setUint32(4, blob.size, true);
        pieces.push(head.buffer, blob);
      }
      await this.send(`films/${film}/frames`, { method: "PUT", body: new Blob(pieces) });
      part = [];
      bytes = 0;
    };
    try {
      let n = 0;
      for await (const picture of source.pictures(times, width)) {
        while (this.paused && !this.cancelled) await wait(100);
        if (this.cancelled) throw new Refused(words.cancelled);
        if (film === null) {
          const { width: w, height: h } = picture.canvas;
          const body = JSON.stringify({ title: this.field("title").value, width: w, height: h, times: times.map((t) => (t - times[0]) * slow) });
          const answer = await this.send("films", { method: "POST", body, headers: { "Content-Type": "application/json" } });
          /** @type {string} */
          let word;
          ({ film, key, word } = await answer.json());
          this.say(word);
        }
        const blob = await jpeg(picture.canvas);
        part.push({ number: n, blob });
        bytes += blob.size;
        total += blob.size;
        if (total > this.most.bytes) throw new Refused(words.tooMuch);
        n += 1;
        this.progress(n, times.length, words.progress(n, times.length));
        if (bytes >= PART) await flush();
      }
      await flush();
      if (n < times.length) throw new Refused(words.partly(n, times.length));
      await this.send(`films/${film}/finish`, { method: "POST" });
      this.form.dataset.seconds = ((performance.now() - begun) / 1000).toFixed(2);
      return key;
    } catch (error) {
      if (film !== null) await fetch(`${this.base}/films/${film}`, { method: "DELETE" }).catch(() => null);
      throw error;
    }
  }

  /** @param {File} file @returns {Promise<string>} */
  bringStills(file) {
    const query = new URLSearchParams({ title: this.field("title").value, rate: String(number(this.field("rate").value) || 25) });
    return new Promise((resolve, reject) => {
      const request = new XMLHttpRequest();
      request.open("POST", `${this.base}/films-of-stills?${query}`);
      request.setRequestHeader("accept", AS_DATA.accept);
      request.upload.onprogress = (event) => this.progress(event.loaded, event.total || 1, `${(event.loaded / 1e6).toFixed(1)} of ${(event.total / 1e6).toFixed(1)} MB`);
      request.onload = () => {
        if (request.status === 200) return resolve(JSON.parse(request.responseText).key);
        let outcome = null;
        try {
          outcome = JSON.parse(request.responseText);
        } catch {
          // Not ours: a proxy in between may have answered.
        }
        reject(new Refused(wordOf(outcome, request.status)));
      };
      request.onerror = () => reject(new Refused(words.connection));
      const watch = setInterval(() => {
        if (this.cancelled) request.abort();
        if (request.readyState === XMLHttpRequest.DONE || this.cancelled) clearInterval(watch);
      }, 200);
      request.onabort = () => reject(new Refused(words.cancelled));
      request.send(file);
    });
  }
}
