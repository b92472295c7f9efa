// The stage of a rig: shows runs, their curves, arrows and meters. Places are in metres of the scene.
import { Arrows } from "./arrows.js";
import { base, send, settled, writable } from "./edits.js";
import { isOnItsWay } from "./fields.js";
import { FootageStage, write } from "./footage.js";
import { Grips, triedAt } from "./grips.js";
import { Hand } from "./hand.js";
import { Meters } from "./meters.js";
import { MINUS, digits, numberOf } from "./numbers.js";
import { onParts } from "./parts.js";
import { ModelLayer } from "./model.js";
import { Plan, fittingColumn } from "./plan.js";
import { SceneGroup, fetchFootage, svg } from "./scene.js";
import { Tape } from "./tape.js";
import { Tracks, roundStep } from "./tracks.js";
import { stage as words } from "./words.js";

/** @typedef {import("./scene.js").Footage} Footage */
/** @typedef {import("./scene.js").Bounds} Bounds */

/** Pixels kept free above the scene for the caption, and below it for the clock. */
const ROOM = 34;
const BELOW = 26;
/** Earlier runs that are drawn faintly, at most. */
const MOST_FAINT = 6;
/** Pixels between two lines of the grid, at least. */
const GRID = 42;
/** Pixels from a path that a click may be off. */
const NEAR = 12;

/** @param {string} id */
const element = (id) => /** @type {HTMLElement} */ (document.getElementById(id));

/** A length of the scene for people. @param {number} step @param {string} unit */
function lengthWords(step, unit) {
  if (unit !== "m") return `${Number(step.toPrecision(3))}\u00A0${unit}`;
  const size = Math.abs(step);
  return size < 0.01 && size > 0 ? `${Number((step * 1000).toPrecision(3))}\u00A0mm` : size < 1 ? `${Math.round(step * 1000) / 10}\u00A0cm` : `${Math.round(step * 1000) / 1000}\u00A0m`;
}

export class RigStage extends FootageStage {
  constructor() {
    super();
    /** A square of the grid, in the unit of the stage. */
    this.grid = 0;
    this.plan = new Plan(this);
    this.meters = new Meters(() => ({ run: this.footage?.run ?? 0, frame: this.frame }), () => this.showReading());
    /** @type {Footage | null} */
    this.footage = null;
    /** @type {SceneGroup | null} */
    this.scene = null;
    /** Earlier runs by number. @type {Map<number, Footage>} */
    this.earlier = new Map();
    /** @type {Bounds | null} */
    this.view = null;
    /** Curves wanted beside the stage; the sheet's own while nobody chose. @type {Set<string> | null} */
    this.curves = null;
    /** The plate, in pixels. @type {{ width: number, height: number }} */
    this.room = { width: 0, height: 0 };
    /** What is on the stage: run and settings, so that it is not fetched twice. */
    this.shownKey = "";
    this.world = svg("g", { id: "scene" });
    this.gridLines = svg("g", { stroke: "#263845" });
    this.surface.append(this.gridLines, this.world);
    this.loupe = /** @type {SVGSVGElement} */ (/** @type {unknown} */ (element("loupe")));
    this.tape = new Tape(this.surface, this.loupe, () => this.tapePlaced());
    this.arrows = new Arrows();
    /** From where the scene is seen: the label of a rider, or nothing. */
    this.rider = "";
    this.sector = svg("polygon", { fill: "#E9E4D6", opacity: 0.16, visibility: "hidden" });
    this.grips = new Grips({ surface: this.surface, tried: (typed) => void this.tried(typed), done: () => this.read() });
    this.surface.append(this.arrows.group, this.arrows.legend, this.grips.group);
    this.model = new ModelLayer(this.surface, () => ({ time: this.frame * (this.footage?.frame ?? 0.01), px: (n) => n * (this.px ?? 0.01) }));
    const tracks = document.getElementById("tracks");
    this.tracks = tracks ? new Tracks(tracks) : null;
    this.hand = new Hand(this);
    // Measured when it changes: to ask for it lays the page out, in the middle of what a new run changes.
    new ResizeObserver(([plate]) => {
      this.room = plate.contentRect;
      this.fit();
    }).observe(element("plate"));
    this.surface.addEventListener("click", (event) => this.picked(event));
    onParts(() => this.read(), "part-stage");
    this.read();
  }

  get state() {
    return element("part-stage").dataset;
  }

  moments() {
    const { footage } = this;
    return { count: footage?.frames ?? 0, at: (/** @type {number} */ f) => f * (footage?.frame ?? 0.01) };
  }

  /** Takes over what the logbook says: the run and where the tools stand. */
  read() {
    const { run = "0", deal = "", tools = "{}", faint = "", fresh = "true", pulled = "false", caption = "" } = this.state;
    this.takeTools(JSON.parse(tools));
    if (!this.tape.busy && this.placing === 0) this.tape.set(this.tools.tape?.flat() ?? null);
    this.restore();
    for (const button of document.querySelectorAll("[data-arrow]")) button.setAttribute("aria-pressed", String(this.arrows.wanted.has(button.getAttribute("data-arrow") ?? "")));
    for (const button of document.querySelectorAll("[data-curve]")) button.setAttribute("aria-pressed", String(this.drawn(button)));
    const preview = run === "0" || (fresh === "true" && pulled !== "true");
    element("stage-empty").hidden = run !== "0";
    element("stage-caption").textContent = preview ? (run === "0" ? "" : words.unrun) : caption;
    // With the settings it was run with, a run is the same; what is set now is shown before it runs.
    const set = [...document.querySelectorAll("[data-setting]")].map((e) => /** @type {HTMLInputElement} */ (e).value).join("|");
    const key = preview ? `set ${deal} ${set}` : `run ${run} ${caption} ${this.state.frames}`;
    if (key !== this.shownKey) {
      this.shownKey = key;
      void this.load(this.address(preview ? "/setup" : `/runs/${run}`), key);
    }
    void this.loadFaint(faint === "" ? [] : faint.split(",").map(Number));
    this.showTools();
    this.meters.ask();
    this.moment();
  }

  /** Where a recording is fetched, with the curves wanted. @param {string} path */
  address(path) {
    return base + path + (this.curves ? `?curves=${encodeURIComponent([...this.curves].join(","))}` : "");
  }

  /** Whether a channel is drawn as a curve. @param {Element} button */
  drawn(button) {
    const name = button.getAttribute("data-curve") ?? "";
    return this.curves ? this.curves.has(name) : button.getAttribute("data-own") === "true";
  }

  /** Draws a channel as a curve, or no longer. @param {HTMLElement} button */
  async curve(button) {
    this.curves ??= new Set([...document.querySelectorAll("[data-curve]")].filter((b) => this.drawn(b)).map((b) => b.getAttribute("data-curve") ?? ""));
    const name = button.dataset.curve ?? "";
    if (!this.curves.delete(name)) this.curves.add(name);
    button.setAttribute("aria-pressed", String(this.curves.has(name)));
    this.earlier = new Map();
    this.goingOn = this.frame;
    this.shownKey = "";
    this.read();
  }

  /** @param {string} url @param {string} key */
  async load(url, key) {
    const footage = await fetchFootage(url);
    // Another one may have been asked for meanwhile.
    if (!footage || this.shownKey !== key) return;
    const goesOn = this.goingOn;
    this.goingOn = undefined;
    this.footage = footage;
    this.scene = new SceneGroup(footage);
    this.playing = false;
    this.label();
    this.layWorld();
    const { bounds } = footage.scene;
    this.view = goesOn !== undefined && this.view ? this.view : { ...bounds };
    for (const faint of this.earlier.values()) this.widenTo(faint);
    this.rail.set(footage.frames, footage.every, { unit: footage.time, places: footage.places, happened: footage.marks });
    this.tape.divided(footage.division, footage.length);
    this.grips.set(footage.grips);
    this.tracks?.set(footage, this.faintTracks());
    this.arrows.low = this.scene.loupe !== null;
    void this.arrows.set(footage.run);
    this.fit();
    this.show(goesOn ?? 0);
    this.showTools();
    this.surface.dataset.run = String(footage.run);
    // What was only set may come first; the run that is wanted follows.
    if (this.wanted && footage.run > 0) {
      this.wanted = false;
      this.play();
    }
  }

  /** Shows the apparatus as a handle would set it, before it is. @param {Record<string, string>} typed */
  async tried(typed) {
    const footage = await fetchFootage(triedAt(typed));
    if (!footage || !this.grips.busy) return;
    this.footage = footage;
    this.scene = new SceneGroup(footage);
    this.layWorld();
    this.fit();
    this.show(0);
    // Whatever comes of it, what is set is fetched when it is let go.
    this.shownKey = "";
  }

  /** Earlier runs that are shown faintly. @param {number[]} numbers */
  async loadFaint(numbers) {
    const wanted = numbers.slice(-MOST_FAINT);
    const same = wanted.length === this.earlier.size && wanted.every((n) => this.earlier.has(n));
    if (same) return;
    const all = await Promise.all(wanted.map(async (n) => /** @type {[number, Footage | null]} */ ([n, this.earlier.get(n) ?? (await fetchFootage(this.address(`/runs/${n}`)))])));
    this.earlier = new Map(/** @type {[number, Footage][]} */ (all.filter(([, f]) => f !== null)));
    for (const faint of this.earlier.values()) this.widenTo(faint);
    this.layWorld();
    this.tracks?.set(this.footage, this.faintTracks());
    this.fit();
  }

  faintTracks() {
    return [...this.earlier.values()].filter((f) => f.run !== this.footage?.run);
  }

  /** The scene with the paths of earlier runs behind it. */
  layWorld() {
    if (!this.scene) return;
    const paths = this.footage && this.footage.scene.strobe[1] > 130 ? this.faintTracks().flatMap((f) => new SceneGroup(f).paths()) : [];
    this.world.replaceChildren(...paths, this.sector, this.scene.group);
    this.scene.move(this.frame);
  }

  /** Makes room for the whole way of a run that is shown faintly. @param {Footage} footage */
  widenTo(footage) {
    const scene = new SceneGroup(footage);
    for (let f = 0; f < footage.frames; f += 10) for (const centre of scene.centres) this.see(...centre(f));
  }

  /** Widens the view when a body leaves it. @param {number} x @param {number} y */
  see(x, y) {
    const { view } = this;
    if (!view || (x >= view.left && x <= view.right && y >= view.bottom && y <= view.top)) return false;
    const room = 0.12 * Math.max(view.right - view.left, view.top - view.bottom);
    view.left = Math.min(view.left, x - (x < view.left ? room : 0));
    view.right = Math.max(view.right, x + (x > view.right ? room : 0));
    view.bottom = Math.min(view.bottom, y - (y < view.bottom ? room : 0));
    view.top = Math.max(view.top, y + (y > view.top ? room : 0));
    return true;
  }

  /** Whether a press may take hold of the picture: where a hand pulls, it pulls. */
  grabs() {
    return !this.surface.classList.contains("pulling");
  }

  /** Brings the view into the plate. */
  fit() {
    const { view, scene } = this;
    // What is higher than wide gets the whole height, with its curves beside it.
    if (scene) {
      const { bounds } = scene.footage.scene;
      element("plate").parentElement?.classList.toggle("tall", bounds.top - bounds.bottom > bounds.right - bounds.left);
    }
    const box = this.room;
    if (!view || !scene || box.width === 0 || box.height === 0) return;
    const { left, right, bottom, top } = view;
    const room = Math.max(20, box.height - ROOM - BELOW);
    const whole = Math.min(box.width / (right - left), room / (top - bottom));
    const all = [box.width / whole, box.height / whole];
    const corner = [(left + right) / 2 - all[0] / 2, -top - (ROOM + (room - (top - bottom) * whole) / 2) / whole];
    const [x, y, w, h] = this.lens.narrowed([corner[0], corner[1], all[0], all[1]]);
    const scale = whole * this.lens.power;
    this.surface.setAttribute("viewBox", `${x} ${y} ${w} ${h}`);
    this.px = 1 / scale;
    /** @type {Bounds} */
    const seen = { left: x, right: x + w, bottom: -(y + h), top: -y };
    scene.scaled(this.px, seen);
    this.arrows.scaled(this.px, seen);
    this.grips.scaled(this.px);
    this.model?.draw();
    this.tape.scaled(scale, view);
    const step = roundStep(w, w * scale / GRID);
    let d = "";
    for (let i = Math.ceil(x / step); i * step <= x + w; i++) d += `M${i * step} ${y}v${h}`;
    for (let i = Math.ceil(y / step); i * step <= y + h; i++) d += `M${x} ${i * step}h${w}`;
    this.gridLines.replaceChildren(svg("path", { d, "stroke-width": this.px }));
    this.grid = step;
    if (!this.playing) write("stage-words", this.words());
    element("stage-scale").textContent = `grid ${lengthWords(step, scene.footage.length)}`;
  }

  /** @param {number} frame */
  show(frame) {
    if (!this.footage || !this.scene) return;
    this.frame = Math.max(0, Math.min(this.footage.frames - 1, Math.round(frame)));
    this.scene.move(this.frame);
    // Whoever rides along stays where he is, and the rest moves the other way.
    const [x, y] = this.scene.ridden(this.rider, this.frame);
    // Rings where a body has been belong to the ground.
    this.scene.rings.setAttribute("display", this.rider === "" ? "inline" : "none");
    for (const part of [this.world, this.arrows.group]) part.setAttribute("transform", `translate(${-x} ${y})`);
    let wider = false;
    for (const centre of this.scene.centres) {
      const [u, v] = centre(this.frame);
      wider = this.see(u - x, v - y) || wider;
    }
    if (wider) this.fit();
    this.rail.show(this.frame, this.playing);
    this.tracks?.show(this.frame);
    this.arrows.draw(this.frame);
    this.model?.draw();
    const time = (this.frame - this.tools.zero) * this.footage.every;
    element("clock").textContent = `${digits(time, this.footage.places)}\u00A0${this.footage.time}`;
    this.surface.dataset.frame = String(this.frame);
    this.look();
    if (this.playing) {
      this.handles(false);
      this.meters.blank();
    } else this.rested();
  }

  /** Handles are there at rest: before it runs, and later where what they hold has not moved. @param {boolean} rests */
  handles(rests) {
    this.grips.seen(rests && (this.frame === 0 || this.footage?.scene.held_still === true) && writable());
  }

  /** The loupe at the scene's pointer, while no tape is laid. */
  look() {
    if (this.tape.ends || !this.scene?.loupe) return;
    const scale = this.footage?.scene.shapes.find((s) => s.kind === "scale");
    if (scale) this.tape.lookAt(this.scene.loupe(this.frame), scale);
  }

  rested() {
    super.rested();
    this.handles(true);
    write("stage-words", this.words());
    this.meters.ask();
  }

  /** Where things are, as finely as they can be read off the grid. */
  words() {
    const { footage, scene, grid } = this;
    if (!footage || !scene || !grid) return "";
    const time = `${digits((this.frame - this.tools.zero) * footage.every, footage.places)} ${footage.time}`;
    const read = (/** @type {number} */ v) => lengthWords(Math.round((10 * v) / grid) * (grid / 10), footage.length);
    const places = scene.centres.map((centre) => centre(this.frame)).map(([x, y], k) => words.body(k, read(x), read(y)));
    return [`${footage.symbol} = ${time}.`, ...places].join(" ").replaceAll("-", MINUS);
  }

  /** Shows the body at a place of the rail while a hand pulls it. @param {number} x */
  carry(x) {
    const { footage, scene } = this;
    if (!footage || !scene || !footage.channels.x) return;
    footage.channels.x.fill(x);
    scene.move(0);
    if (this.see(x, 0)) this.fit();
  }

  /** Whether Run makes a new run: before the first, with other settings, and once a pull has been shown to its end. */
  anew() {
    const { run = "0", fresh = "true", pulled = "false" } = this.state;
    const shown = pulled !== "true" || this.frame >= (this.footage?.frames ?? 1) - 1;
    return run === "0" || (fresh === "true" && shown);
  }

  toggle() {
    if (this.playing) this.pause();
    else if (!this.wanted && !this.deciding) void this.start();
  }

  /** Makes a new run, or plays the one on the stage. */
  async start() {
    // Whether it is a new one depends on settings that may still be on their way.
    if ([...document.querySelectorAll("[data-setting]")].some(isOnItsWay)) {
      this.deciding = true;
      await settled();
      this.deciding = false;
    }
    if (writable() && this.anew()) void this.run({ run: "run" });
    else this.play();
  }

  /** Runs the rig; what it makes is played. @param {object} edit */
  async run(edit) {
    this.wanted = true;
    const outcome = await send(edit);
    if (!outcome.done) this.wanted = false;
    return outcome;
  }

  restore() {
    super.restore();
    this.plan.label();
  }

  on() {
    return this.footage && this.footage.run > 0 ? { run: this.footage.run } : null;
  }

  /** @param {number} from @param {number} to */
  duration(from, to) {
    const { every = 0.01, places = 2, time = "s" } = this.footage ?? {};
    return `${digits(Math.abs(to - from) * every, places)}\u00A0${time}`;
  }

  of() {
    return this.footage && this.footage.run > 0 ? { trail: null, run: this.footage.run, second: this.second(), frame: this.frame } : null;
  }

  /** Whether moments are those of the second body. */
  second() {
    return this.kept["moment-body"] === "true";
  }

  tenthsRead() {
    const tenths = this.kept["tape-tenths"] ?? "";
    return tenths === "" ? null : Number(tenths);
  }

  /** Keeps where the tape lies now. */
  tapePlaced() {
    const { ends } = this.tape;
    this.place({ tape: ends && [[ends[0], ends[1]], [ends[2], ends[3]]] });
  }

  drawTools() {
    this.look();
  }

  layTape() {
    if (!this.view) return;
    this.tape.lay(this.view);
    this.tapePlaced();
  }

  length() {
    const { division = 0.001 } = this.footage ?? {};
    const [length, tenths] = [this.tape.length(), this.tenthsRead()];
    if (length === null) return null;
    const [steps, places] = [length / division, Math.round(-Math.log10(division))];
    const shown = tenths === null ? digits(Math.round(steps) * division, places) : digits((Math.floor(steps + 1e-6) + tenths / 10) * division, places + 1);
    return `${shown}\u00A0${this.footage?.length ?? "m"}`;
  }

  showTools() {
    super.showTools();
    const { start, end } = this.tools;
    const swept = start !== null && end !== null && this.on() ? this.scene?.swept(start, end) : null;
    this.sector.setAttribute("visibility", swept ? "visible" : "hidden");
    this.sector.setAttribute("points", (swept?.places ?? []).map(([x, y]) => `${x},${-y}`).join(" "));
    write("area-value", swept ? `${Number(swept.area.toPrecision(4))}\u00A0${this.footage?.length}²` : "–");
    this.showReading();
    for (const input of document.querySelectorAll("[data-tape-end]")) {
      if (input !== document.activeElement) /** @type {HTMLInputElement} */ (input).value = this.tape.coordinate(Number(input.getAttribute("data-tape-end")));
    }
  }

  /** @param {string} kind @param {DOMStringMap} [data] */
  instrument(kind, data = {}) {
    if (kind === "area") {
      const { start, end } = this.tools;
      const run = this.footage?.run ?? 0;
      return run > 0 && start !== null && end !== null ? { area: { run, start, end } } : null;
    }
    if (kind !== "meter") return super.instrument(kind, data);
    // What is logged is what then stands on the meter.
    if (this.playing) this.pause();
    const run = this.footage?.run ?? 0;
    return run > 0 ? { meter: { run, name: data.name ?? "", frame: this.frame } } : null;
  }

  pictured() {
    const run = this.footage?.run ?? 0;
    return run > 0 ? { of: { run: { run, frame: this.frame } }, file: `${base}/runs/${run}/pictures/${this.frame}.png` } : null;
  }

  /** @param {HTMLButtonElement} target */
  pressedButton(target) {
    super.pressedButton(target);
    if (target.dataset.runTrial !== undefined) void this.plan.trial();
    if (target.dataset.open === "plan-dialog") fittingColumn();
    if (target.dataset.allTrials) void this.plan.all(Number(target.dataset.allTrials));
    if (target.dataset.anew !== undefined && !this.wanted) void this.run({ run: "run" });
    if (target.dataset.logTrial !== undefined) {
      if (this.playing) this.pause();
      void this.plan.enter(Number(target.dataset.logTrial), this.frame);
    }
    if (target.id === "stop-here") {
      this.pause();
      this.goingOn = this.frame;
      void send({ run: { stop_here: { frame: this.frame } } });
    }
    if (target.id === "go-on") {
      const at = Math.max(0, this.stoppedAt ?? 0);
      this.goingOn = at;
      void this.run({ run: "go_on" });
    }
    if (target.id === "stop-here") this.stoppedAt = this.frame;
    if (target.dataset.arrow) {
      void this.arrows.toggle(target.dataset.arrow);
      target.setAttribute("aria-pressed", String(this.arrows.wanted.has(target.dataset.arrow)));
    }
    if (target.dataset.arrows) this.arrows.stretch(Number(target.dataset.arrows));
    if (target.dataset.curve !== undefined) void this.curve(target);
    if (target.dataset.here) /** @type {HTMLInputElement} */ (element(target.dataset.here)).value = String(this.frame);
  }

  /** A click near a path goes to that moment, of an earlier run too. @param {MouseEvent} event */
  picked(event) {
    const matrix = this.surface.getScreenCTM();
    if (!matrix || !this.footage || !this.scene || this.hand.active) return;
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
    let best = { off: NEAR * (this.px ?? 0.01), run: 0, frame: 0, body: 0 };
    const bodies = document.getElementById("moment-body") ? 2 : 1;
    for (const footage of [this.footage, ...this.faintTracks()]) {
      const { centres } = footage === this.footage ? this.scene : new SceneGroup(footage);
      for (const [body, centre] of centres.slice(0, bodies).entries()) {
        for (let f = 0; f < footage.frames; f++) {
          const [x, y] = centre(f);
          const off = Math.hypot(x - at.x, -y - at.y);
          if (off < best.off) best = { off, run: footage.run, frame: f, body };
        }
      }
    }
    if (best.run === 0) return;
    this.pause();
    this.kept["moment-body"] = best.body === 1 ? "true" : "";
    this.restore();
    if (best.run === this.footage.run) this.show(best.frame);
    else if (writable()) {
      this.goingOn = best.frame;
      void send({ run: { choose_run: { run: best.run } } });
    }
  }

  keeps() {
    return [...super.keeps(), "tape-tenths", "moment-body", "seen-from"];
  }

  /** @param {Event} event */
  changed(event) {
    super.changed(event);
    const target = event.target;
    if (target instanceof HTMLSelectElement && target.matches("#plan-dialog [name=name]")) fittingColumn();
    if (target instanceof HTMLSelectElement && target.id === "tape-tenths") this.showTools();
    if (target instanceof HTMLSelectElement && target.id === "moment-body") this.moment();
    if (target instanceof HTMLSelectElement && target.id === "seen-from") {
      this.rider = target.value;
      if (this.footage) this.view = { ...this.footage.scene.bounds };
      this.fit();
      this.show(this.frame);
    }
    if (target instanceof HTMLInputElement && target.dataset.tapeEnd !== undefined) {
      const value = numberOf(target.value);
      if (Number.isFinite(value) && target.value.trim() !== "") {
        this.tape.type(Number(target.dataset.tapeEnd), value);
        this.tapePlaced();
      } else this.showTools();
    }
  }
}
