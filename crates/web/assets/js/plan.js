// A plan of trials: one with a press each, or all that are left by themselves, each entered as it comes.
import { send } from "./edits.js";
import { chooseTrial, revealLast } from "./record.js";
import { stage as words } from "./words.js";

/** Whether there is another trial to run. */
const next = () => document.querySelector("[data-run-trial]:not([disabled])") !== null;

/** The column that takes the values of a plan: the first that fits what is varied, or none. */
export function fittingColumn() {
  const of = (/** @type {string} */ name) => /** @type {HTMLSelectElement | null} */ (document.querySelector(`#plan-dialog [name=${name}]`));
  const [varied, column] = [of("name"), of("column")];
  if (!varied || !column) return;
  const fits = [...column.options].find((o) => JSON.parse(o.dataset.fits ?? "[]").includes(varied.value));
  column.value = fits?.value ?? "null";
}

export class Plan {
  /** @param {import("./stage.js").RigStage} stage */
  constructor(stage) {
    this.stage = stage;
    /** Whether all that is left runs by itself. */
    this.goingThrough = false;
  }

  /** The next trial. */
  async trial() {
    if (!next()) return;
    const outcome = await this.stage.run({ run: "run_trial" });
    if (outcome.done) chooseTrial();
  }

  /** Enters the run on the stage with its settings and instruments. @param {number} table @param {number} frame */
  async enter(table, frame) {
    const { done } = await send({ record: { log_trial: { table, frame } } });
    if (done) revealLast();
    return done;
  }

  /** All trials that are left, until somebody stops it; what is on the stage is the end of the newest. @param {number} table */
  async all(table) {
    if (this.goingThrough) {
      this.goingThrough = false;
      return;
    }
    this.goingThrough = true;
    this.label();
    while (this.goingThrough && next()) {
      if (!(await send({ run: "run_trial" })).done) break;
      const frame = Math.max(0, Number(this.stage.state.frames ?? 1) - 1);
      if (!(await this.enter(table, frame))) break;
      this.stage.show(frame);
    }
    this.goingThrough = false;
    this.label();
  }

  /** What the button for all trials says. */
  label() {
    const button = document.querySelector("[data-all-trials] span");
    if (button) button.textContent = this.goingThrough ? words.stop : words.runRest;
  }
}
