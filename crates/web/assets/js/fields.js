// Fields somebody types in. What is being typed, what is on its way and what was refused is never replaced by an answer; a refused
// value stands marked, with the reason beside it, until it is typed anew or Esc brings back what holds.
import { server } from "./words.js";

/** @typedef {import("./edits.js").Outcome} Outcome */
/** @typedef {HTMLInputElement | HTMLTextAreaElement} Field */
/** How a field stands: typed in and not sent, what was sent and is not shown by the page yet, how much of that is answered, refused; what
 * the server holds as far as its answers told, and what a newer part of the page would show in it.
 * @typedef {{ typing: boolean, sent: string[], answered: number, refused: boolean, holds?: string | null, waiting?: Field }} Standing */

/** @type {WeakMap<Element, Standing>} */
const standings = new WeakMap();
/** Fields that stand otherwise than the page was drawn. @type {Set<Element>} */
const kept = new Set();

/** @param {unknown} element @returns {element is Field} */
export const isField = (element) =>
  (element instanceof HTMLInputElement && !["checkbox", "radio", "file", "range"].includes(element.type)) || element instanceof HTMLTextAreaElement;

/** @param {Element} element @returns {Standing} */
function standing(element) {
  let known = standings.get(element);
  if (!known) standings.set(element, (known = { typing: false, sent: [], answered: 0, refused: false }));
  kept.add(element);
  return known;
}

/** Whether an answer has to leave a field alone. @param {Element} element */
export function isKept(element) {
  const known = standings.get(element);
  return known !== undefined && (known.typing || known.sent.length > 0 || known.refused);
}

/** Whether a control shows what the page was drawn with. @param {HTMLInputElement | HTMLTextAreaElement | HTMLSelectElement} control */
function isAsDrawn(control) {
  // Without an option of its own a list shows the first one.
  if (control instanceof HTMLSelectElement) return control.selectedIndex === Math.max(0, [...control.options].findIndex((o) => o.defaultSelected));
  if (control instanceof HTMLInputElement && ["checkbox", "radio"].includes(control.type)) return control.checked === control.defaultChecked;
  return control.value === control.defaultValue;
}

/** Whether a control of a form in sight holds something that is not sent yet: text, a choice or a tick. @param {Node} node */
export function isFilledIn(node) {
  if (!(node instanceof HTMLInputElement || node instanceof HTMLTextAreaElement || node instanceof HTMLSelectElement)) return false;
  if (node.dataset.edit || node.name === "" || !node.form?.dataset.edit || isAsDrawn(node)) return false;
  // Last, since it lays the page out.
  return node.getClientRects().length > 0;
}

/** Whether nobody has touched a control in an element since it was drawn. @param {Element} element */
export function isUntouched(element) {
  const controls = /** @type {NodeListOf<HTMLInputElement | HTMLTextAreaElement | HTMLSelectElement>} */ (element.querySelectorAll("input, select, textarea"));
  return !element.matches("input, select, textarea, option") && [...controls].every((control) => !standings.has(control) && isAsDrawn(control));
}

/** What was filled into a form is sent: what the page shows next may take its place. @param {HTMLFormElement} form */
export function isSent(form) {
  for (const control of form.elements) {
    if (control instanceof HTMLSelectElement) for (const option of control.options) option.defaultSelected = option.selected;
    else if (control instanceof HTMLInputElement && ["checkbox", "radio"].includes(control.type)) control.defaultChecked = control.checked;
    else if (control instanceof HTMLInputElement || control instanceof HTMLTextAreaElement) control.defaultValue = control.value;
  }
}

/** Whether a field in an element has to be left alone. @param {Element} element */
export const holdsWords = (element) => [...kept].some((field) => element.contains(field) && isKept(field));

/** Whether there are words that are not stored: typed and not left yet, on their way, or refused. */
export function unsentWords() {
  for (const field of [...kept]) if (!field.isConnected || !isKept(field)) kept.delete(field);
  return [...kept].map(standing).some((known) => known.typing || known.refused || known.sent.length > known.answered);
}

/** What the server holds in a field, as its last answer told; `otherwise` while there was none. @param {Element} element @param {any} otherwise */
export function holds(element, otherwise) {
  const known = standings.get(element)?.holds;
  return known === undefined ? (otherwise ?? (element instanceof HTMLTextAreaElement ? element.defaultValue : null)) : known;
}

/** A field's value goes on its way. @param {Element} element */
export function sending(element) {
  if (!isField(element)) return;
  const known = standing(element);
  known.typing = false;
  known.sent.push(element.value);
}

/** Whether a value of a field was sent and is not shown yet. @param {Element} element */
export const isOnItsWay = (element) => (standings.get(element)?.sent.length ?? 0) > 0;

/** Whether a field holds a value that was refused. @param {Element} element */
export const isRefused = (element) => standings.get(element)?.refused ?? false;

/** An answer may change this field: what was waiting for it is outdated. @param {Element} element */
export function forgetWaiting(element) {
  const known = standings.get(element);
  if (known) delete known.waiting;
}

/** A newer part of the page would show this in a field that is left alone. @param {Field} element @param {Field} fresh */
export const keepWaiting = (element, fresh) => void (standing(element).waiting = /** @type {Field} */ (fresh.cloneNode(true)));

/** Shows in a field what the page would show if nobody had typed. @param {Field} element */
function bringBack(element) {
  const { waiting } = standing(element);
  standings.delete(element);
  kept.delete(element);
  unmark(element);
  if (waiting) {
    for (const name of ["data-edit", "data-about", "title"]) {
      const value = waiting.getAttribute(name);
      if (value !== null) element.setAttribute(name, value);
    }
    if (element instanceof HTMLInputElement && waiting instanceof HTMLInputElement) element.setAttribute("value", waiting.getAttribute("value") ?? "");
    if (element instanceof HTMLTextAreaElement && waiting instanceof HTMLTextAreaElement) element.defaultValue = waiting.defaultValue;
  }
  element.value = element.defaultValue;
}

/** @param {Element} element */
const noteOf = (element) => element.parentElement?.querySelector(":scope > .refused") ?? null;

/** @param {Element} element */
function unmark(element) {
  element.removeAttribute("aria-invalid");
  element.removeAttribute("aria-errormessage");
  noteOf(element)?.remove();
}

/** Marks a field whose value was refused. @param {Element} element @param {string} word */
function mark(element, word) {
  element.setAttribute("aria-invalid", "true");
  const note = noteOf(element) ?? Object.assign(document.createElement("small"), { className: "refused", id: `refused-${element.id || Math.random().toString(36).slice(2)}` });
  note.setAttribute("role", "alert");
  note.textContent = server.refused(word);
  element.setAttribute("aria-errormessage", note.id);
  element.after(note);
}

/** An edit of a field was answered; what follows from it is fetched next, and until then the field stays as it is.
 * @param {Element} element @param {Outcome} outcome */
export function answered(element, outcome) {
  if (!isField(element)) return;
  const known = standing(element);
  if (outcome.holds !== undefined) known.holds = outcome.holds;
  if (element instanceof HTMLTextAreaElement && outcome.done) known.holds = known.sent[known.answered] ?? null;
  known.answered += 1;
}

/** The page shows what came of an edit of a field, or could not be brought up to date. @param {Element} element @param {Outcome} outcome
 * @param {boolean} shown */
export function adopt(element, outcome, shown) {
  if (!isField(element)) return;
  const known = standing(element);
  known.sent.shift();
  known.answered -= 1;
  if (!element.isConnected || known.typing || known.sent.length > 0) return;
  known.refused = !outcome.done;
  if (!outcome.done) {
    // Words of a partner stand in the store now: the next try is held against them.
    if (element instanceof HTMLTextAreaElement && known.waiting instanceof HTMLTextAreaElement) known.holds = known.waiting.value;
    mark(element, outcome.word);
  } else if (element instanceof HTMLTextAreaElement || !shown) {
    element.defaultValue = element.value;
    standings.delete(element);
    kept.delete(element);
    unmark(element);
  } else bringBack(element);
}

/** A choice that was refused is as it was: it holds no words that could be lost. @param {Element} element */
export function asItWas(element) {
  if (element instanceof HTMLSelectElement) for (const option of element.options) option.selected = option.defaultSelected;
  else if (element instanceof HTMLInputElement && element.type === "checkbox") element.checked = element.defaultChecked;
  else if (element instanceof HTMLInputElement && element.type === "radio") {
    for (const other of document.getElementsByName(element.name)) if (other instanceof HTMLInputElement) other.checked = other.defaultChecked;
  }
}

export function startFields() {
  document.addEventListener("input", (event) => {
    const element = event.target;
    if (!isField(element) || !element.dataset.edit) return;
    const known = standing(element);
    known.typing = true;
    known.refused = false;
    unmark(element);
  });
  // Typed and taken back by hand: there is no change to send.
  document.addEventListener("focusout", (event) => {
    const element = event.target;
    if (!isField(element) || element instanceof HTMLTextAreaElement || !standings.get(element)?.typing) return;
    if (element.value === element.defaultValue) bringBack(element);
    // A browser may keep a change to itself when the page has touched the field meanwhile.
    else element.dispatchEvent(new Event("change", { bubbles: true }));
  });
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Escape" || !isField(event.target) || !event.target.dataset.edit || !isKept(event.target)) return;
    const known = standing(event.target);
    if (known.sent.length > 0) return;
    bringBack(event.target);
    if (event.target instanceof HTMLInputElement) event.target.select();
    event.preventDefault();
    event.stopPropagation();
  }, true);
}
