// The stage of a filmed lab: shows frames, with rulers, axes and trails over them. Places are in pixels of the picture.
import { base, notice, send, sendFilm, writable } from "./edits.js";
import { Following } from "./following.js";
import { FootageStage, element, field } from "./footage.js";
import { Frames } from "./frames.js";
import { Handle, place } from "./handles.js";
import { ModelLayer } from "./model.js";
import { axes, lengthOf, placePlane, rectangle, ruler, tape } from "./laid.js";
import { digits, numberOf } from "./numbers.js";
import { onParts } from "./parts.js";
import { svg } from "./scene.js";
import { atStep } from "./steps.js";
import { drawnTrail, likely, markAt } from "./trails.js";
import { film as words } from "./words.js";

/** @typedef {[number, number, number, boolean]} MarkData frame, x, y, placed by the program */
/** @typedef {{ id: number, name: string, marks: MarkData[] }} TrailData */
/** @typedef {{ number: number, key: string, title: string, width: number, height: number, times: number[], tools: import("./footage.js").Tools, scale: number | null, rulers: { ends: [[number, number], [number, number]], text: string, circle: boolean }[], plane: { corners: [number, number][], typed: [string, string], flat: number[][] } | null, axes: { origin: [number, number], angle: number, flipped: boolean }, trails: TrailData[] }} FilmData */

/** Side of what the loupe shows, in px of the film. */
const LOUPE = 30;
/** Pixels kept free below the film for the clock: nothing lies over what is filmed. */
const BAND = 26;

export class FilmStage extends FootageStage {
  constructor() {
    super();
    /** @type {FilmData | null} */
    this.film = null;
    /** @type {Frames | null} */
    this.frames = null;
    this.direction = 1;
    this.trail = 0;
    this.marking = false;
    /** Whether a trail that was asked for here is still to come. */
    this.adding = false;
    this.markStep = "1";
    this.strobe = "";
    this.offered = false;
    this.following = new Following((trail, frame) => {
      if (this.film?.trails.some((t) => t.id === trail)) this.show(frame);
    });
    /** @type {Handle[]} */
    this.handles = [];
    /** @type {ImageBitmap | null} */
    this.picture = null;
    this.canvas = /** @type {HTMLCanvasElement} */ (element("film"));
    this.over = svg("g", { id: "over" });
    this.surface.append(this.over);
    this.model = new ModelLayer(this.surface, () => ({ time: this.film ? this.time(this.frame) : 0, px: (n) => this.px(n) }));
    new ResizeObserver(() => this.fit()).observe(/** @type {HTMLElement} */ (element("plate")));
    this.surface.addEventListener("pointerdown", (event) => this.pressed(event));
    this.surface.addEventListener("pointermove", (event) => this.magnify(place(this.surface, event)));
    this.surface.addEventListener("pointerleave", () => this.magnify(null));
    document.addEventListener("input", (event) => this.shaded(event));
    document.addEventListener("submit", (event) => this.submitted(event), true);
    document.addEventListener("step", () => this.onlyOne());
    onParts(() => this.read(), "part-stage");
    this.read();
    this.onlyOne();
  }

  /** Whoever goes to measure finds the lab's film on the stage, if there is but one. */
  onlyOne() {
    const films = [...(field("film-choice")?.querySelectorAll("option[value]:not([value=''])") ?? [])];
    if (this.offered || this.film || atStep() !== "measure" || films.length !== 1 || !writable()) return;
    this.offered = true;
    void choose(films[0].getAttribute("value") ?? "");
  }

  /** Takes over what the logbook says. */
  read() {
    const text = element("part-stage")?.dataset.film ?? "";
    const film = text === "" ? null : /** @type {FilmData} */ (JSON.parse(text));
    const other = film?.key !== this.film?.key;
    const fresh = other ? undefined : film?.trails.find((t) => !this.film?.trails.some((known) => known.id === t.id));
    this.film = film;
    // Whoever adds a trail marks it next; one that a partner adds is not for this hand.
    if (fresh && this.adding) [this.trail, this.adding] = [fresh.id, false];
    /** @type {HTMLElement} */ (element("stage-empty")).hidden = film !== null;
    /** @type {HTMLElement} */ (element("stage-caption")).textContent = element("part-stage")?.dataset.caption ?? "";
    this.surface.dataset.film = film?.key ?? "";
    if (other) this.load();
    if (film && !film.trails.some((t) => t.id === this.trail)) this.trail = film.trails[0]?.id ?? 0;
    if (film) this.takeTools(film.tools);
    if (film && other) void this.following.resume(film.trails.map((t) => t.id));
    this.restore();
    this.draw();
    this.showTools();
    this.moment();
  }

  /** Brings fields of a fresh fragment back to what the person had chosen. */
  restore() {
    for (const radio of document.querySelectorAll("input[name=trail]")) {
      const input = /** @type {HTMLInputElement} */ (radio);
      input.checked = Number(input.value) === this.trail;
    }
    Object.assign(this.kept, { "mark-step": this.markStep, strobe: this.strobe });
    element("marking")?.setAttribute("aria-pressed", String(this.marking));
    this.surface.classList.toggle("marking", this.marking);
    this.following.show();
    super.restore();
  }

  load() {
    this.pause();
    const { film } = this;
    this.picture = null;
    this.frame = 0;
    this.strobe = "";
    this.following.forget();
    const thumbs = element("thumbs");
    thumbs?.replaceChildren();
    if (!film) {
      this.frames = null;
      this.rail.set(1, 0.01);
      this.canvas.getContext("2d")?.clearRect(0, 0, this.canvas.width, this.canvas.height);
      return;
    }
    this.canvas.width = film.width;
    this.canvas.height = film.height;
    this.frames = new Frames(`${base}/pictures/${encodeURIComponent(film.key)}`, film.times.length);
    const last = film.times.length - 1;
    this.rail.set(last + 1, (film.times[last] - film.times[0]) / last);
    for (let k = 0; thumbs && k < 12; k++) {
      const image = new Image();
      image.src = `${base}/pictures/${encodeURIComponent(film.key)}/${Math.round((k * last) / 11)}`;
      image.alt = "";
      thumbs.append(image);
    }
    this.lens.restart();
    this.fit();
    this.takeTools(film.tools);
    this.show(this.tools.zero);
  }

  /** Whether a press may take hold of the picture: where it marks, it marks. */
  grabs() {
    return !this.marking;
  }

  /** Lays picture and overlay over one another, as large as there is room. */
  fit() {
    const box = element("plate")?.getBoundingClientRect();
    const { film } = this;
    if (!film || !box || box.width === 0 || box.height === 0) return;
    const room = box.height - BAND;
    const whole = Math.min(box.width / film.width, room / film.height);
    const [w, h] = [box.width / whole, box.height / whole];
    const [x, y, ...seen] = this.lens.narrowed([(film.width - w) / 2, -(room / whole - film.height) / 2, w, h]);
    const scale = whole * this.lens.power;
    this.surface.setAttribute("viewBox", [x, y, ...seen].join(" "));
    const { style } = this.canvas;
    style.width = `${film.width * scale}px`;
    style.height = `${film.height * scale}px`;
    style.left = `${-x * scale}px`;
    style.top = `${-y * scale}px`;
    // The band of the clock stays free.
    style.clipPath = `inset(0 0 ${Math.max(0, (film.height - y) * scale - room)}px 0)`;
    this.scale = scale;
    this.draw();
    this.model?.draw();
  }

  /** Shows a frame as soon as it is there. @param {number} frame */
  show(frame) {
    const { film, frames } = this;
    if (!film || !frames) return;
    const to = Math.max(0, Math.min(film.times.length - 1, Math.round(frame)));
    this.direction = to < this.frame ? -1 : 1;
    this.frame = to;
    this.rail.show(to, this.playing);
    /** @type {HTMLElement} */ (element("clock")).textContent = `${digits(this.time(to), 3)}\u00A0s · frame ${to}`;
    this.marks();
    this.model?.draw();
    if (!this.playing) this.moment();
    void frames.get(to, this.direction).then((picture) => {
      // A later step may have been faster.
      if (!picture || this.frame !== to || this.frames !== frames) return;
      this.picture = picture;
      if (this.strobe === "") this.canvas.getContext("2d")?.drawImage(picture, 0, 0, this.canvas.width, this.canvas.height);
      this.surface.dataset.frame = String(to);
    });
  }

  /** @param {number} frame */
  time(frame) {
    const { film } = this;
    return film ? film.times[frame] - film.times[this.tools.zero] : 0;
  }

  moments() {
    const times = this.film?.times ?? [];
    return { count: times.length, at: (/** @type {number} */ f) => times[f] };
  }

  /** A size on the screen, in px of the picture. @param {number} px */
  px(px) {
    return px / (this.scale ?? 1);
  }

  /** Draws what lies over the picture: rulers, tape, axes, trails. */
  draw() {
    const { film } = this;
    if (!film) {
      this.over.replaceChildren();
      return;
    }
    if (this.handles.some((h) => h.busy)) return;
    const focused = document.activeElement?.closest("#over .handle")?.getAttribute("aria-label");
    this.handles = [];
    const parts = [axes(this, film)];
    film.rulers.forEach((one, index) => parts.push(ruler(this, film, one, index)));
    if (film.plane) parts.push(rectangle(this, film, film.plane));
    if (this.tools.tape) parts.push(tape(this, film, this.tools.tape));
    this.trails = svg("g", {});
    this.over.replaceChildren(...parts, this.trails);
    this.marks();
    if (focused) /** @type {SVGElement | null} */ (this.over.querySelector(`[aria-label="${CSS.escape(focused)}"]`))?.focus();
  }

  /** A handle with what is drawn at it. @param {import("./handles.js").HandleOptions} options @param {Element[]} looks */
  handle(options, looks) {
    const handle = new Handle(this.surface, {
      ...options,
      // Whoever marks may click where a ruler, the origin or an earlier mark lies.
      clicks: () => this.marking,
      clicked: (event) => this.pressed(event),
      moved: (at) => {
        handle.group.setAttribute("transform", `translate(${at[0]} ${at[1]})`);
        options.moved(at);
        this.magnify(at);
      },
      placed: (at) => {
        this.magnify(null);
        options.placed(at);
      },
    });
    handle.group.setAttribute("transform", `translate(${options.at[0]} ${options.at[1]})`);
    handle.group.append(svg("circle", { r: this.px(22), class: "hit" }), ...looks);
    if (!writable()) handle.group.removeAttribute("tabindex");
    else this.handles.push(handle);
    return handle.group;
  }

  /** Draws the trails as strobe marks, and the mark of this frame as a handle. */
  marks() {
    const { film, trails } = this;
    if (!film || !trails || this.handles.some((h) => h.busy && h.options.kind === "mark")) return;
    const focused = document.activeElement?.closest(".mark") !== null && document.activeElement !== null;
    this.handles = this.handles.filter((h) => h.options.kind !== "mark");
    trails.replaceChildren(...film.trails.map((trail, number) => drawnTrail(this, trail, number)));
    if (focused) this.focusMark();
    this.surface.dataset.marks = String(film.trails.reduce((n, t) => n + t.marks.length, 0));
  }

  /** @param {number} trail @param {[number, number]} at @param {boolean} on whether to go on to the next frame */
  mark(trail, at, on) {
    const { frame } = this;
    const done = send({ film: { place_mark: { trail, frame, at } } });
    if (on && this.markStep !== "0") this.step(Number(this.markStep));
    return done;
  }

  /** A mark by the keyboard: where the motion leads, or in the middle. */
  markHere() {
    const { film } = this;
    const trail = film?.trails.find((t) => t.id === this.trail);
    if (!film || !trail) {
      notice(words.noTrail, false);
      return;
    }
    if (markAt(trail, this.frame)) this.focusMark();
    else void this.mark(trail.id, likely(film, trail, this.frame), false).then(() => this.focusMark());
  }

  focusMark() {
    /** @type {SVGElement | null} */ (this.over.querySelector(".trail.chosen .mark"))?.focus();
  }

  /** @param {PointerEvent} event */
  pressed(event) {
    if (!this.marking || !this.film || !writable() || event.button !== 0) return;
    // A finger marks where it is lifted: it may be the first of two that come closer.
    if (event.type === "pointerdown" && event.pointerType === "touch") {
      window.addEventListener("pointerup", (up) => up.pointerId === event.pointerId && !this.lens.pinched && this.pressed(up), { once: true });
      return;
    }
    const at = place(this.surface, event);
    const inside = at[0] >= 0 && at[1] >= 0 && at[0] <= this.film.width && at[1] <= this.film.height;
    if (!inside || this.trail === 0) return;
    event.preventDefault();
    void this.mark(this.trail, at, true);
  }

  /** Shows what is around a place, enlarged. @param {[number, number] | null} at */
  magnify(at) {
    const loupe = /** @type {HTMLCanvasElement | null} */ (element("film-loupe"));
    const busy = this.marking || this.handles.some((h) => h.busy);
    if (!loupe) return;
    loupe.hidden = at === null || !busy || !this.picture;
    if (loupe.hidden || !at || !this.picture) return;
    const pen = loupe.getContext("2d");
    if (!pen) return;
    pen.imageSmoothingEnabled = false;
    pen.fillStyle = "#14212B";
    pen.fillRect(0, 0, 300, 300);
    const [sx, sy] = [this.picture.width / this.canvas.width, this.picture.height / this.canvas.height];
    pen.drawImage(this.picture, (at[0] - LOUPE / 2) * sx, (at[1] - LOUPE / 2) * sy, LOUPE * sx, LOUPE * sy, 0, 0, 300, 300);
    pen.strokeStyle = "#F0836F";
    pen.beginPath();
    pen.moveTo(150, 110);
    pen.lineTo(150, 190);
    pen.moveTo(110, 150);
    pen.lineTo(190, 150);
    pen.stroke();
  }

  /** Deletes the mark of this frame. @param {number} trail */
  unmark(trail) {
    return void send({ film: { delete_marks: { trail, from: this.frame, to: this.frame } } });
  }

  on() {
    return this.film && { film: this.film.number };
  }

  /** @param {number} from @param {number} to */
  duration(from, to) {
    const times = this.film?.times ?? [];
    return `${digits(Math.abs(times[to] - times[from]), 3)}\u00A0s`;
  }

  length() {
    return this.film && this.tools.tape && lengthOf(this.film, this.tools.tape);
  }

  of() {
    return this.film && this.trail !== 0 ? { trail: this.trail, run: null, second: false, frame: this.frame } : null;
  }

  drawTools() {
    this.draw();
  }

  layTape() {
    const { film } = this;
    if (!film) return;
    const [x, y] = [Math.round(film.width * 0.4), Math.round(film.height * 0.5)];
    this.place({ tape: [[x, y], [x + Math.round(film.width * 0.2), y]] });
  }

  keeps() {
    return [...super.keeps(), "follow-box", "trail-what", "trail-rows", "strobe-step", "trail-table"];
  }

  /** Lets the program place the marks from this frame on. */
  follow() {
    if (!this.film) return;
    this.pause();
    const step = this.markStep === "0" ? "1" : this.markStep;
    void this.following.begin(this.trail, new URLSearchParams({ from: String(this.frame), side: field("follow-box")?.value ?? "32", step }));
  }

  /** Which frames a picture is made of: those of the strobe picture, or the one on the stage. @param {FilmData} film */
  strobeQuery(film) {
    const { start, end } = this.tools;
    const range = start !== null && end !== null ? [Math.min(start, end), Math.max(start, end)] : [0, film.times.length - 1];
    const [from, to] = this.strobe === "" ? [this.frame, this.frame] : range;
    return new URLSearchParams({ from: String(from), to: String(to), step: field("strobe-step")?.value || "5", blend: this.strobe || "darken" });
  }

  pictured() {
    const { film } = this;
    if (!film) return null;
    const query = this.strobeQuery(film);
    const [from, to, step] = ["from", "to", "step"].map((name) => Number(query.get(name)));
    const of = { film: { film: film.key, from, to, step: Number.isInteger(step) && step > 0 ? step : 1, bright: this.strobe === "lighten" } };
    return { of, file: `${base}/strobe/${encodeURIComponent(film.key)}?${query}` };
  }

  /** Shows several instants in one picture, or the frame again. */
  async strobePicture() {
    const { film, strobe } = this;
    if (!film) return;
    if (strobe === "") {
      this.show(this.frame);
      return;
    }
    const query = this.strobeQuery(film);
    const answer = await fetch(`${base}/strobe/${encodeURIComponent(film.key)}?${query}`);
    if (!answer.ok || this.film?.key !== film.key) return;
    const picture = await createImageBitmap(await answer.blob());
    this.canvas.getContext("2d")?.drawImage(picture, 0, 0);
    this.surface.dataset.strobe = strobe;
  }

  /** @param {HTMLButtonElement} target */
  pressedButton(target) {
    super.pressedButton(target);
    const { film } = this;
    if (!film) return;
    if (target.id === "marking") {
      this.marking = !this.marking;
      this.restore();
    }
    if (target.id === "unmark") this.unmark(this.trail);
    if (target.id === "follow") this.follow();
    if (target.id === "follow-stop") this.following.stop();
    if (target.id === "trail-column") {
      const rows = field("trail-rows")?.value ?? "";
      void send({ film: { add_from_trail: { trail: this.trail, what: field("trail-what")?.value ?? "", rows: rows === "" ? null : Number(rows) } } });
    }
    if (target.id === "plane-delete") void send({ film: { delete_plane: { film: film.key } } });
    if (target.dataset.rulerDelete) void send({ film: { delete_ruler: { film: film.key, index: Number(target.dataset.rulerDelete) } } });
  }

  /** @param {Event} event */
  changed(event) {
    super.changed(event);
    const target = event.target;
    const { film } = this;
    if (!(target instanceof HTMLInputElement || target instanceof HTMLSelectElement)) return;
    if (target.dataset.chooseFilm !== undefined && target.value !== "") void choose(target.value);
    if (target.id === "mark-step") this.markStep = target.value;
    if (target.dataset.trail !== undefined && target.name === "trail") {
      this.trail = Number(target.value);
      this.marks();
      this.moment();
    }
    if (target.id === "strobe" || target.id === "strobe-step") {
      this.strobe = field("strobe")?.value ?? "";
      void this.strobePicture();
    }
    if (!film) return;
    if (target.dataset.ruler !== undefined) {
      const index = Number(target.dataset.ruler);
      const ruler = film.rulers[index];
      const { ends, circle } = ruler;
      void send({ film: { place_ruler: { film: film.key, index, ends, typed: target.value, circle } } }).then((outcome) => {
        if (!outcome.done) target.value = ruler.text;
      });
    }
    if (target.dataset.side !== undefined && film.plane) {
      const typed = [...film.plane.typed];
      typed[Number(target.dataset.side)] = target.value;
      const before = film.plane.typed[Number(target.dataset.side)];
      void placePlane(this, film, film.plane.corners, typed).then((outcome) => {
        if (!outcome.done) target.value = before;
      });
    }
    if (["origin-x", "origin-y", "axes-angle", "axes-flipped"].includes(target.id)) {
      const number = (/** @type {string} */ id, /** @type {number} */ otherwise) => {
        const value = numberOf(field(id)?.value ?? "");
        return Number.isFinite(value) ? value : otherwise;
      };
      const flipped = /** @type {HTMLInputElement | null} */ (element("axes-flipped"))?.checked ?? false;
      const origin = [number("origin-x", film.axes.origin[0]), number("origin-y", film.axes.origin[1])];
      void send({ film: { place_axes: { film: film.key, origin, angle: field("axes-angle")?.value ?? "0", flipped } } });
    }
  }

  /** Brightness and contrast of the picture. @param {Event} event */
  shaded(event) {
    const target = event.target;
    if (!(target instanceof HTMLInputElement) || !["brightness", "contrast"].includes(target.id)) return;
    this.kept[target.id] = target.value;
    this.canvas.style.filter = `brightness(${field("brightness")?.value}%) contrast(${field("contrast")?.value}%)`;
  }

  /** @param {SubmitEvent} event */
  submitted(event) {
    if (event.target instanceof HTMLFormElement && event.target.id === "add-trail") this.adding = true;
    const form = event.target;
    const { film } = this;
    if (!(form instanceof HTMLFormElement) || !["add-ruler", "add-plane"].includes(form.id) || !film) return;
    event.preventDefault();
    const data = new FormData(form);
    if (form.id === "add-plane") {
      const [left, right, top, bottom] = [0.3, 0.7, 0.25, 0.75].map((share, i) => Math.round(share * (i < 2 ? film.width : film.height)));
      void placePlane(this, film, [[left, bottom], [right, bottom], [right, top], [left, top]], ["width", "height"].map((name) => String(data.get(name) ?? "")));
      return;
    }
    const [x, y] = [Math.round(film.width * 0.5), Math.round(film.height * 0.3)];
    const ends = [[x, y], [x, y + Math.round(film.height * 0.4)]];
    void send({ film: { place_ruler: { film: film.key, index: null, ends, typed: String(data.get("length") ?? ""), circle: data.get("circle") === "on" } } });
  }
}

/** Puts a film on the stage. The first time it may have to be made ready first. @param {string} key */
export async function choose(key) {
  const empty = element("stage-empty");
  const before = empty?.textContent ?? "";
  if (empty) empty.textContent = words.coming;
  await sendFilm(key);
  if (empty) empty.textContent = before;
}
