// The page on which a lab sheet is edited: nothing that was typed is thrown away without a question.
import { AS_DATA, reason } from "./answers.js";
import "./page.js";

const form = /** @type {HTMLFormElement} */ (document.querySelector("form.sheet-edit"));
const text = /** @type {HTMLTextAreaElement} */ (form.querySelector("textarea[name=source]"));
/** The text as it was last saved. */
let saved = text.defaultValue;

/** Shows what came of saving. @param {string} words @param {boolean} done */
function say(words, done) {
  const place = /** @type {HTMLElement} */ (form.querySelector("[data-said]"));
  place.className = done ? "saved" : "said";
  place.setAttribute("role", done ? "status" : "alert");
  place.textContent = words;
}

/** @param {SubmitEvent} event */
async function save(event) {
  event.preventDefault();
  const source = text.value;
  try {
    const answer = await fetch(form.action, { method: "POST", body: new URLSearchParams({ source }), headers: AS_DATA, redirect: "manual" });
    if (answer.type === "opaqueredirect") return say("You are signed out. Sign in again in another tab, then save: the text is still here.", false);
    if (answer.ok) saved = source;
    say(await reason(answer), answer.ok);
  } catch {
    say("The server was not reached. The text is still here; save it again.", false);
  }
}

form.addEventListener("submit", (event) => void save(event));
text.addEventListener("input", () => {
  if (form.querySelector("[data-said].saved")) say("", true);
});
window.addEventListener("beforeunload", (event) => {
  if (text.value !== saved) event.preventDefault();
});
