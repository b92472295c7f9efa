// The stage: plays a run, and holds the tools that measure on it. What the tools show is kept in the logbook.
import { onParts, send, writable } from "./edits.js";
import { FilmStage } from "./film.js";
import { askMoment, mass } from "./moment.js";
import { Rail } from "./rail.js";
import { log } from "./record.js";
import { SceneGroup, svg } from "./scene.js";
import { Tape } from "./tape.js";

/** @typedef {import("./scene.js").Footage} Footage */

const MINUS = "\u2212";
/** Spacing of the strobe rings, in frames, and how far they reach. */
const STROBE = { step: 10, reach: 130 };

/** Pixels kept free above the scene for the caption. */
const ROOM = 34;

/** @param {number} value @param {number} places */
export const digits = (value, places) => value.toFixed(places).replace("-", MINUS);

/** @param {string} id */
const element = (id) => /** @type {HTMLElement} */ (document.getElementById(id));

export class Stage {
  constructor() {
    /** @type {Footage | null} */
    this.footage = null;
    /** @type {SceneGroup | null} */
    this.scene = null;
    this.frame = 0;
    this.playing = false;
    this.speed = "1";
    this.tenths = "";
    this.mass = "";
    this.loading = 0;
    /** @type {number | undefined} */
    this.start = undefined;
    /** @type {number | undefined} */
    this.end = undefined;
    this.zero = 0;
    this.surface = /** @type {SVGSVGElement} */ (/** @type {unknown} */ (element("stage")));
    this.rail = new Rail(/** @type {SVGSVGElement} */ (/** @type {unknown} */ (element("rail"))), (frame) => this.show(frame));
    this.tape = new Tape(this.surface, /** @type {SVGSVGElement} */ (/** @type {unknown} */ (element("loupe"))), () => this.place());
    new ResizeObserver(() => this.fit()).observe(element("plate"));
    document.addEventListener("click", (event) => this.clicked(event));
    document.addEventListener("change", (event) => this.changed(event));
    document.addEventListener("toggle", () => this.moment(), true);
    onParts(() => this.read());
    this.read();
  }

  get state() {
    return element("part-stage").dataset;
  }

  /** Takes over what the logbook says: the run and where the tools stand. */
  read() {
    const { run = "0", zero = "0", start = "", end = "", tape = "" } = this.state;
    this.zero = Number(zero);
    this.start = start === "" ? undefined : Number(start);
    this.end = end === "" ? undefined : Number(end);
    if (!this.tape.busy) this.tape.set(tape === "" ? null : tape.split(",").map(Number));
    // Fresh fragments bring these fields in their first state.
    for (const [id, value] of [["speed", this.speed], ["tape-tenths", this.tenths], ["moment-mass", this.mass]]) {
      const list = /** @type {HTMLSelectElement | HTMLInputElement | null} */ (document.getElementById(id));
      if (list && list !== document.activeElement) list.value = value;
    }
    element("stage-empty").hidden = run !== "0";
    element("stage-caption").textContent = this.state.caption ?? "";
    if (run !== "0" && (this.footage?.run !== Number(run) || this.stale)) void this.load(Number(run));
    else if (run === "0") this.clear();
    this.tools();
    this.moment();
  }

  clear() {
    this.footage = null;
    this.scene = null;
    this.surface.querySelector("#scene")?.remove();
    this.pause();
  }

  /** @param {number} run */
  async load(run) {
    if (this.loading === run) return;
    this.loading = run;
    this.stale = false;
    const answer = await fetch(`/logbooks/${document.body.dataset.logbook}/runs/${run}`);
    this.loading = 0;
    if (!answer.ok) return;
    this.footage = /** @type {Footage} */ (await answer.json());
    this.scene = new SceneGroup(this.footage);
    this.surface.querySelector("#scene")?.remove();
    const world = svg("g", { id: "scene" });
    world.append(this.grid(), this.scene.strobe(0, Math.min(STROBE.reach, this.footage.frames - 1), STROBE.step), this.scene.group);
    this.surface.prepend(world);
    this.fit();
    this.rail.set(this.footage.frames, this.footage.every);
    this.show(0);
    this.tools();
    this.surface.dataset.run = String(run);
    if (this.wanted === run) this.play();
    this.wanted = 0;
  }

  /** Lines every 0.1 m. */
  grid() {
    const { left, right, bottom, top } = /** @type {Footage} */ (this.footage).scene.bounds;
    const group = svg("g", { stroke: "#263845", "stroke-width": 1 });
    const [w, h] = [right - left, top - bottom];
    const step = 0.1;
    for (let x = Math.floor((left - 2 * w) / step); x <= (right + 2 * w) / step; x++) {
      group.append(svg("path", { d: `M${x * step} ${-top - h}V${-bottom + h}`, "vector-effect": "non-scaling-stroke" }));
    }
    for (let y = Math.floor((-top - h) / step); y <= (-bottom + h) / step; y++) {
      group.append(svg("path", { d: `M${left - 2 * w} ${y * step}H${right + 2 * w}`, "vector-effect": "non-scaling-stroke" }));
    }
    return group;
  }

  /** Brings the whole scene into view. */
  fit() {
    const box = element("plate").getBoundingClientRect();
    if (!this.footage || box.width === 0 || box.height === 0) return;
    const { left, right, bottom, top } = this.footage.scene.bounds;
    const scale = Math.min(box.width / (right - left), (box.height - ROOM) / (top - bottom));
    const [w, h] = [box.width / scale, box.height / scale];
    const [x, y] = [(left + right) / 2 - w / 2, -top - ROOM / scale];
    this.surface.setAttribute("viewBox", `${x} ${y} ${w} ${h}`);
    this.tape.scaled(scale, this.footage.scene.bounds);
  }

  /** @param {number} frame */
  show(frame) {
    if (!this.footage || !this.scene) return;
    this.frame = Math.max(0, Math.min(this.footage.frames - 1, Math.round(frame)));
    this.scene.move(this.frame);
    this.rail.show(this.frame, this.playing);
    const time = (this.frame - this.zero) * this.footage.every;
    element("clock").textContent = `${digits(time, 2)}\u00A0s`;
    this.surface.dataset.frame = String(this.frame);
    if (!this.playing) this.moment();
  }

  /** Asks the moment on the stage, if somebody looks at it. */
  moment() {
    if (this.footage) askMoment({ frame: this.frame });
  }

  /** @param {number} frames */
  step(frames) {
    this.pause();
    this.show(this.frame + frames);
  }

  toggle() {
    if (this.playing) this.pause();
    else if (writable() && (this.state.run === "0" || this.state.fresh === "true")) void this.run();
    else this.play();
  }

  /** Runs the rig with the settings as they stand. */
  async run() {
    const next = Number(this.state.run) + 1;
    this.wanted = next;
    // A run number can come again after undo, with other settings.
    this.stale = true;
    await send({ edit: "run" });
  }

  play() {
    if (!this.footage) return;
    if (this.frame >= this.footage.frames - 1) this.show(0);
    this.playing = true;
    this.label();
    let last = performance.now();
    let exact = this.frame;
    const { frames, every } = this.footage;
    const tick = (/** @type {number} */ now) => {
      if (!this.playing || !this.footage) return;
      exact += (((now - last) / 1000) * Number(this.speed)) / every;
      last = now;
      this.show(Math.floor(exact));
      if (exact >= frames - 1) this.pause();
      else requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  }

  pause() {
    this.playing = false;
    this.rail.show(this.frame);
    this.label();
    this.moment();
  }

  label() {
    const word = document.querySelector("#run [data-play]");
    if (word) word.textContent = this.playing ? "Pause" : "Run";
    this.surface.dataset.playing = String(this.playing);
  }

  /** Keeps in the logbook where the tools stand. */
  place() {
    this.tools();
    if (!writable() || !this.footage) return;
    void send({ edit: "place_tools", zero: this.zero, start: this.start ?? "", end: this.end ?? "", tape: this.tape.text() });
  }

  zeroHere() {
    this.zero = this.frame;
    this.show(this.frame);
    this.place();
  }

  /** @param {"start" | "end"} which */
  split(which) {
    if (!this.footage) return;
    this[which] = this.frame;
    this.place();
  }

  /** Shows what the instruments read. */
  tools() {
    const every = this.footage?.every ?? 0.01;
    this.rail.mark(this.zero, this.start, this.end);
    const split = this.start !== undefined && this.end !== undefined ? Math.abs(this.end - this.start) * every : null;
    element("split-value").textContent = split === null ? "–" : `${digits(split, 2)}\u00A0s`;
    element("zero-value").textContent = `frame ${this.zero}`;
    const { tenths } = this;
    const length = this.tape.length();
    let shown = "–";
    if (length !== null) {
      const steps = length / 0.001;
      shown = tenths === "" ? digits(Math.round(steps) / 1000, 3) : digits((Math.floor(steps + 1e-6) + Number(tenths) / 10) / 1000, 4);
      shown += "\u00A0m";
    }
    element("tape-value").textContent = shown;
    for (const input of document.querySelectorAll("[data-tape-end]")) {
      if (input !== document.activeElement) /** @type {HTMLInputElement} */ (input).value = this.tape.coordinate(Number(input.getAttribute("data-tape-end")));
    }
  }

  /** What an instrument reads, as the fields of an edit. @param {string} instrument @returns {Record<string, string | number> | null} */
  reading(instrument) {
    if (!this.footage) return null;
    const { run } = this.footage;
    if (instrument === "split") {
      if (this.start === undefined || this.end === undefined) return null;
      return { instrument, run, start: this.start, end: this.end };
    }
    const tape = this.tape.text();
    if (tape === "") return null;
    return { instrument, run, frame: this.frame, tape, tenths: this.tenths };
  }

  /** @param {MouseEvent} event */
  clicked(event) {
    const target = event.target instanceof Element ? event.target.closest("button") : null;
    if (!target) return;
    if (target.id === "run") this.toggle();
    if (target.dataset.frames) this.step(Number(target.dataset.frames));
    if (target.id === "split-start") this.split("start");
    if (target.id === "split-end") this.split("end");
    if (target.id === "zero-here") this.zeroHere();
    if (target.id === "tape-lay" && this.footage) {
      this.tape.lay(this.footage.scene.bounds);
      this.place();
    }
    const instrument = target.dataset.log;
    if (instrument === "setting") void log({ instrument, name: target.dataset.name ?? "" });
    else if (instrument === "moment") void log({ instrument, frame: this.frame, what: target.dataset.what ?? "", mass: mass() });
    else if (instrument) {
      const reading = this.reading(instrument);
      if (reading) void log(reading);
    }
  }

  /** @param {Event} event */
  changed(event) {
    const target = event.target;
    if (target instanceof HTMLSelectElement && target.id === "speed") this.speed = target.value;
    if (target instanceof HTMLSelectElement && target.id === "tape-tenths") {
      this.tenths = target.value;
      this.tools();
    }
    if (target instanceof HTMLInputElement && target.id === "moment-mass") {
      this.mass = target.value;
      this.moment();
    }
    if (target instanceof HTMLInputElement && target.dataset.tapeEnd !== undefined) {
      const value = Number(target.value.replace(",", ".").replace(MINUS, "-"));
      if (Number.isFinite(value) && target.value.trim() !== "") {
        this.tape.type(Number(target.dataset.tapeEnd), value);
        this.place();
      } else this.tools();
    }
  }
}

export const startStage = () => (document.body.dataset.filmed === "true" ? new FilmStage() : new Stage());
