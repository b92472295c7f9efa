// What the teacher does in a logbook that is open: words to the group, stamps; and how the students come to the words.
import { base, catchUp, notice } from "./edits.js";
import { goTo } from "./steps.js";
import { server } from "./words.js";

/** Steps at which a part is seen. @type {Record<string, string>} */
const STEPS = { forecast: "forecast", stage: "measure", record: "measure", graph: "graph", constant: "constant", texts: "write-up" };

/** Sends a form of the teacher's. @param {HTMLFormElement} form @param {HTMLElement | null} button */
async function post(form, button) {
  const content = new URLSearchParams(/** @type {any} */ (new FormData(form, button)));
  try {
    const answer = await fetch(base + form.dataset.post, { method: "POST", body: content });
    const outcome = await answer.json();
    notice(outcome.word ?? "", outcome.done ?? false);
    if (!outcome.done) return;
    await catchUp(outcome.seq);
    if (form.dataset.reset !== undefined) {
      form.reset();
      form.closest("details")?.removeAttribute("open");
    }
  } catch {
    notice(server.noteLost, false);
  }
}

/** Brings the first word that is not ticked off to the eye. */
function toWords() {
  const word = document.querySelector(".words-beside li:not(.done)");
  const part = word?.closest("[id^='part-']")?.id.replace("part-", "") ?? "";
  if (STEPS[part]) goTo(STEPS[part] ?? "");
  word?.scrollIntoView({ block: "center" });
  /** @type {HTMLElement | null | undefined} */ (word?.querySelector("input"))?.focus();
}

export function startOffice() {
  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (!(form instanceof HTMLFormElement) || !form.dataset.post) return;
    event.preventDefault();
    void post(form, /** @type {HTMLElement | null} */ (event.submitter));
  });
  document.addEventListener("click", (event) => {
    if (event.target instanceof Element && event.target.closest("[data-to-words]")) toWords();
  });
}
