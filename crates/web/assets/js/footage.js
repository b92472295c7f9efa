// The tools over footage, whether a rig or a camera made it: t = 0, split, tape, moment, and what is logged with them. Where the
// pictures come from is the affair of the two stages. What the tools show is kept in the logbook.
import { notice, send, writable } from "./edits.js";
import { Lens } from "./lens.js";
import { askMoment, mass } from "./moment.js";
import { Player } from "./player.js";
import { Rail } from "./rail.js";
import { log } from "./record.js";
import { stage as words } from "./words.js";

/** Where the tools stand, as the logbook has it. @typedef {{ zero: number, start: number | null, end: number | null, tape: [[number, number], [number, number]] | null }} Tools */
/** A reading that can be chosen. @typedef {{ kind: string, name: string, what: string }} Reading */
/** What is on the stage, as edits name it. @typedef {{ run: number } | { film: number }} On */

/** @param {string} id */
export const element = (id) => document.getElementById(id);
/** @param {string} id */
export const field = (id) => /** @type {HTMLInputElement | HTMLSelectElement | null} */ (element(id));

/** Writes words where there is a place for them. @param {string} id @param {string} words */
export function write(id, words) {
  const place = element(id);
  if (place) place.textContent = words;
}

export class FootageStage extends Player {
  constructor() {
    super();
    /** The reading that is shown large and that L enters; none until somebody chooses, when it is the one that the page proposes. @type {Reading | null} */
    this.reading = null;
    /** @type {Tools} */
    this.tools = { zero: 0, start: null, end: null, tape: null };
    /** Placings of tools that are on their way: what the page says of them is older. */
    this.placing = 0;
    /** Fields that a fresh fragment brings in their first state. @type {Record<string, string>} */
    this.kept = {};
    this.surface = /** @type {SVGSVGElement} */ (/** @type {unknown} */ (element("stage")));
    this.lens = new Lens(/** @type {HTMLElement} */ (element("plate")), { changed: () => this.fit(), grabs: () => this.grabs() });
    this.rail = new Rail(/** @type {SVGSVGElement} */ (/** @type {unknown} */ (element("rail"))), (frame) => this.show(frame));
    document.addEventListener("click", (event) => this.clicked(event));
    document.addEventListener("change", (event) => this.changed(event));
    document.addEventListener("toggle", () => this.moment(), true);
  }

  /** What is on the stage; none while there is nothing to measure on. @returns {On | null} */
  on() {
    return null;
  }

  /** The time between two frames in s, as the split shows it. @param {number} _from @param {number} _to @returns {string} */
  duration(_from, _to) {
    return "";
  }

  /** What the tape shows; none while it is not laid. @returns {string | null} */
  length() {
    return null;
  }

  /** What a moment is asked of; none while nothing can be asked. @returns {{ trail: number | null, run: number | null, second: boolean, frame: number } | null} */
  of() {
    return null;
  }

  /** Draws the tools that lie over the picture. */
  drawTools() {}

  /** Brings what is on the stage into the plate. */
  fit() {}

  /** Whether a press may take hold of the picture and move it. */
  grabs() {
    return true;
  }

  /** Lays the tape beside what moves. */
  layTape() {}

  /** Takes over where the logbook says the tools stand, unless newer places are on their way. @param {Tools} tools */
  takeTools(tools) {
    if (this.placing === 0) this.tools = tools;
  }

  /** Moves tools, and keeps in the logbook where they stand. @param {Partial<Tools>} change */
  place(change) {
    this.tools = { ...this.tools, ...change };
    this.showTools();
    this.drawTools();
    const on = this.on();
    if (!writable() || !on) return;
    this.placing += 1;
    void send({ footage: { place_tools: { on, tools: this.tools } } }).then(() => (this.placing -= 1));
  }

  zeroHere() {
    this.place({ zero: this.frame });
    this.show(this.frame);
  }

  /** @param {"start" | "end"} which */
  split(which) {
    if (!this.on()) return;
    this.place(which === "start" ? { start: this.frame } : { end: this.frame });
    this.choose("split");
  }

  /** Shows what the instruments read. */
  showTools() {
    const { zero, start, end } = this.tools;
    this.rail.mark(zero, start ?? undefined, end ?? undefined);
    write("split-value", start === null || end === null ? "–" : this.duration(start, end));
    write("tape-value", this.length() ?? "–");
    write("zero-value", `frame ${zero}`);
    this.showReading();
  }

  /** An instrument as an edit names it; none while it shows nothing. @param {string} kind @param {DOMStringMap} [data] @returns {object | null} */
  instrument(kind, data = {}) {
    const [on, { start, end, tape }] = [this.on(), this.tools];
    if (kind === "moment") {
      const of = this.of();
      return of && { moment: { of, what: data.what ?? "", mass: mass() } };
    }
    if (!on) return null;
    if (kind === "split") return start === null || end === null ? null : { split: { of: on, start, end } };
    return tape && { tape: { of: on, frame: this.frame, zero: tape[0], reading: tape[1], tenths: this.tenthsRead() } };
  }

  /** Tenths of a division estimated by eye; none where there are no divisions. @returns {number | null} */
  tenthsRead() {
    return null;
  }

  /** Chooses the reading that is shown large: by its name, or by use of its instrument. @param {string} kind @param {DOMStringMap} [data] */
  choose(kind, data = {}) {
    this.reading = { kind, name: data.name ?? "", what: data.what ?? "" };
    this.showReading();
  }

  /** Enters the chosen reading: one is chosen, and is entered again and again. */
  enterReading() {
    const { kind, ...data } = this.reading ?? { kind: "split", name: "", what: "" };
    const instrument = this.instrument(kind, data);
    if (instrument) void log(instrument);
    else notice(words.nothingRead[kind] ?? words.nothing, false);
  }

  /** Shows the chosen reading large, as its instrument shows it. */
  showReading() {
    let shown = "–";
    for (const radio of /** @type {NodeListOf<HTMLInputElement>} */ (document.querySelectorAll("#part-stage [data-reading]"))) {
      const { reading: kind = "", name = "", what = "" } = radio.dataset;
      if (radio.checked) this.reading ??= { kind, name, what };
      const chosen = this.reading?.kind === kind && this.reading.name === name && this.reading.what === what;
      if (radio.checked !== chosen) radio.checked = chosen;
      if (chosen) shown = radio.closest(".instrument, tr")?.querySelector("output")?.textContent ?? shown;
    }
    const place = element("reading-value");
    if (place && place.textContent !== shown) place.textContent = shown;
  }

  /** Asks the moment on the stage, if somebody looks at it. */
  moment() {
    const of = this.of();
    if (of) askMoment(of, () => this.showReading());
  }

  rested() {
    this.rail.show(this.frame);
    this.moment();
  }

  toggle() {
    if (this.playing) this.pause();
    else this.play();
  }

  /** Brings fields of a fresh fragment back to what the person had chosen. */
  restore() {
    for (const [id, value] of Object.entries({ speed: this.speed, ...this.kept })) {
      const input = field(id);
      if (input && input !== document.activeElement) input.value = value;
    }
    this.showReading();
    this.label();
  }

  /** @param {MouseEvent} event */
  clicked(event) {
    const button = event.target instanceof Element ? event.target.closest("button") : null;
    if (button) this.pressedButton(button);
  }

  /** @param {HTMLButtonElement} button */
  pressedButton(button) {
    if (button.id === "run") this.toggle();
    if (button.dataset.frames) this.step(Number(button.dataset.frames));
    if (button.id === "split-start") this.split("start");
    if (button.id === "split-end") this.split("end");
    if (button.id === "zero-here" && this.on()) this.zeroHere();
    if (button.id === "tape-lay") {
      this.layTape();
      this.choose("tape");
    }
    if (button.dataset.picture) void this.takePicture(button.dataset.picture);
    if (button.id === "enter-reading") this.enterReading();
    // A setting is entered beside a reading.
    if (button.dataset.log === "setting") void log({ setting: { name: button.dataset.name ?? "" } });
  }

  /** What the stage shows now: for the write-up, and as a file. @returns {{ of: object, file: string } | null} */
  pictured() {
    return null;
  }

  /** Puts a picture of the stage into the write-up, or saves it. @param {string} where */
  async takePicture(where) {
    if (this.playing) this.pause();
    const shown = this.pictured();
    if (!shown) return;
    if (where === "file") {
      const link = document.createElement("a");
      Object.assign(link, { href: shown.file, download: "" });
      link.click();
      return;
    }
    const { done } = await send({ write_up: { take_picture: { of: shown.of } } });
    if (done) notice(words.inWriteUp, true);
  }

  /** Fields whose content a fresh fragment does not know. */
  keeps() {
    return ["moment-mass"];
  }

  /** @param {Event} event */
  changed(event) {
    const target = event.target;
    if (!(target instanceof HTMLInputElement || target instanceof HTMLSelectElement)) return;
    if (target.id === "speed") this.speed = target.value;
    if (target.dataset.reading) this.choose(target.dataset.reading, target.dataset);
    if (this.keeps().includes(target.id)) this.kept[target.id] = target.value;
    if (target.id === "moment-mass") this.moment();
  }
}
