// Answering by pointing: a row or a value of the record, or the moment on the stage.
import { notice, send } from "./edits.js";
import { questions } from "./words.js";

/** What is to be pointed at, for which question; for the claim without one. @type {{ what: string, question: string | null } | null} */
let wanted = null;

function end() {
  wanted = null;
  delete document.body.dataset.pointing;
  notice("", true);
}

/** The focus goes back to the question it came from. @param {string | null} question */
function focusOn(question) {
  // The button may be another one by now.
  const button = [...document.querySelectorAll("[data-point]")].find((b) => JSON.parse(b.getAttribute("data-question") ?? "null") === question);
  /** @type {HTMLElement | undefined} */ (button)?.focus();
}

/** What was pointed at, as an edit names it; none when it is nothing of that kind. @param {Element} target @param {string} what */
function pointed(target, what) {
  const row = Number(target.closest("#part-record tbody tr[id]")?.id.replace("row-", "") ?? Number.NaN);
  if (Number.isNaN(row)) return null;
  if (what === "row") return { row: { row } };
  const cell = /** @type {HTMLElement | null} */ (target.closest("td"));
  const column = Number(cell?.dataset.of ?? cell?.querySelector("input")?.dataset.column ?? Number.NaN);
  return Number.isNaN(column) ? null : { reading: { row, column } };
}

/** @param {Element} target @returns {boolean} whether that was it */
function take(target) {
  if (!wanted) return false;
  const at = pointed(target, wanted.what);
  if (!at) return false;
  const { question } = wanted;
  end();
  const edit = question === null ? { claim: { add_evidence: { rows: [/** @type {{ row: { row: number } }} */ (at).row.row] } } } : { answer: { point: { question, at } } };
  void send(edit).then(() => focusOn(question));
  return true;
}

/** @param {import("./footage.js").FootageStage} stage */
export function startPointing(stage) {
  document.addEventListener("click", (event) => {
    const target = event.target;
    if (!(target instanceof Element)) return;
    const button = /** @type {HTMLElement | null} */ (target.closest("[data-point]"));
    if (button) {
      const [what, question] = [button.dataset.point ?? "", JSON.parse(button.dataset.question ?? "null")];
      if (what !== "moment") {
        wanted = { what, question };
        document.body.dataset.pointing = what;
        notice(questions.point(what), true);
        return;
      }
      const of = stage.on();
      if (of) void send({ answer: { point: { question, at: { moment: { of, frame: stage.frame } } } } });
      else notice(questions.nothingOnStage, false);
      return;
    }
    if (wanted && take(target)) {
      event.preventDefault();
      event.stopPropagation();
    }
  }, true);
  document.addEventListener("keydown", (event) => {
    if (!wanted || !(event.target instanceof Element)) return;
    const { question } = wanted;
    if (event.key === "Escape") {
      end();
      focusOn(question);
    } else if (event.key !== "Enter" || !take(event.target)) return;
    event.preventDefault();
    event.stopPropagation();
  }, true);
}
