// Sends edits one after the other. An edit that does not reach the server is tried again until it does; the page says so meanwhile, and
// all goes on. What follows from edits, one's own and a partner's, is fetched after them: several made briskly are shown together.
import { adopt, answered, asItWas, holds, isField, sending, unsentWords, isSent } from "./fields.js";
import { place } from "./parts.js";
import { server } from "./words.js";

/** An edit in the types of the server: `{ record: { delete_row: { row: 3 } } }` or `"undo"`. @typedef {string | { [key: string]: any }} Edit */
/** @typedef {{ table: number | null, graph: number | null, result: number | null }} Made */
/** What came of an edit. @typedef {{ done: boolean, word: string, about: string, place: [number, number] | null, made: Made, holds?: string | null, seq: number }} Outcome */

export const base = `/logbooks/${document.body.dataset.logbook}`;
const PAUSE = 1500;
/** Rest after which a long text is saved, in ms. */
const REST = 1200;

/** Comes when all edits so far are answered. @type {Promise<unknown>} */
let queue = Promise.resolve();
/** Comes when all that was asked for so far is shown. @type {Promise<unknown>} */
let showing = Promise.resolve();
/** Edits that are not answered yet. */
let unanswered = 0;
/** Why the first of them is still waiting; empty while it is on its way. */
let trouble = "";

/** What this person looks at: which table, from which row on, which graph, the key of the empty row, and what of which
 * step model. Partners may look at others. */
/** @type {{ table: number, from: number, graph: number, begun: number, trace: string | null, model: number, step: number }} */
const look = { table: 0, from: 0, graph: 0, begun: 0, trace: null, model: 0, step: 0 };

/** @param {Partial<typeof look>} other */
export const looking = (other) => void Object.assign(look, other);

/** Number of the last edit this page shows. */
export const seq = () => Number(document.getElementById("part-header")?.dataset.seq ?? document.body.dataset.seq);

export const writable = () => document.body.dataset.writable === "true";

/** The number in a data attribute of a part. @param {string} part @param {string} name */
export const shown = (part, name) => Number(document.getElementById(part)?.dataset[name] ?? 0);

/** @param {string} path @param {object} content */
export const postJson = (path, content) =>
  fetch(base + path, { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(content), redirect: "manual" });

/** A token by which the server knows an edit again. */
export const token = () => crypto.randomUUID?.() ?? `${Date.now()}-${Math.random()}`;

/** Asks until there is an answer; the page says why there is none yet. @param {() => Promise<Response>} ask */
async function ask(ask) {
  for (;;) {
    try {
      const answer = await ask();
      if (answer.type !== "opaqueredirect") {
        trouble = "";
        showWaiting();
        return answer;
      }
      trouble = server.signedOut;
    } catch {
      trouble = server.trying;
    }
    showWaiting();
    await new Promise((resolve) => setTimeout(resolve, PAUSE));
  }
}

/** Fetches what changed since this page was drawn, and parts that are wanted in any case. @param {string[]} also */
async function refresh(also) {
  const answer = await ask(() => postJson("/parts", { since: seq(), look, also }));
  if (answer.ok) await place((await answer.json()).parts);
  else notice(server.unseen, false);
}

/** Looks at another table, other rows or another graph. @param {Partial<typeof look>} other @param {string[]} parts */
export async function lookAt(other, parts) {
  looking(other);
  await settled();
  await (showing = refresh(parts));
}

/** Fetches what changed since this page was drawn, unless it is shown by the time its turn comes. @param {number} newest */
export function catchUp(newest) {
  showing = showing.then(() => (newest > seq() ? refresh([]) : undefined));
  return showing;
}

/** Shows what somebody else did, and says so. @param {number} newest */
export async function catchUpWithOthers(newest) {
  await settled();
  if (newest <= seq()) return;
  await catchUp(newest);
  tell(server.somebody);
}

function showWaiting() {
  const saved = document.getElementById("saved");
  if (!saved) return;
  saved.classList.toggle("waiting", trouble !== "");
  if (trouble !== "") saved.textContent = server.waiting(unanswered, trouble);
}

/** @param {string} word @returns {Outcome} */
const failed = (word) => ({ done: false, word, about: "", place: null, made: { table: null, graph: null, result: null }, seq: seq() });

/** Sends until there is an answer. @param {string} path @param {(token: string) => object} content @returns {Promise<Outcome>} */
async function post(path, content) {
  // The edit is kept and tried again. Its token keeps it from being done twice.
  const own = token();
  const answer = await ask(() => postJson(path, { ...content(own), token: own }));
  const outcome = await answer.json().catch(() => null);
  return outcome?.seq === undefined ? failed(outcome?.word ?? server.undone(answer.status)) : outcome;
}

/** Sends something after all earlier edits; comes when what follows from it is shown. `content` is asked when its turn comes. `from` is the
 * field it came from. @param {string} path @param {(token: string) => object} content @param {Element | null} from */
function enqueue(path, content, from) {
  unanswered += 1;
  const told = queue.then(async () => {
    const outcome = await post(path, content);
    unanswered -= 1;
    showWaiting();
    if (from) answered(from, outcome);
    return outcome;
  });
  queue = told;
  // A word to the person does not wait.
  const shown = told.then(async (outcome) => {
    if (!isField(from)) notice(outcome.word, outcome.done);
    if (outcome.done && outcome.word === "" && outcome.about !== "") tell(server.saved(outcome.about));
    await catchUp(outcome.seq);
    if (from && !outcome.done) asItWas(from);
    if (from) adopt(from, outcome, seq() >= outcome.seq);
    return outcome;
  });
  return shown;
}

/** Sends an edit after all earlier ones. @param {Edit | (() => Edit)} edit @param {Element | null} from @returns {Promise<Outcome>} */
export const send = (edit, from = null) => enqueue("/edits", () => ({ edit: typeof edit === "function" ? edit() : edit }), from);

/** Puts a film on the stage. @param {string} key */
export const sendFilm = (key) => enqueue("/stage", () => ({ key }), null);

/** Comes when all edits sent so far are answered, and shown. */
export const settled = () => queue.then(() => showing);

/** The innermost object of an edit: the one with its fields. @param {any} edit @returns {Record<string, any>} */
const fieldsOf = (edit) => {
  const subject = Object.values(edit)[0];
  return typeof subject === "object" ? /** @type {any} */ (Object.values(subject)[0]) : {};
};

/** What a control holds, in the type the edit wants. @param {HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement} control */
function valueOf(control) {
  const as = control.dataset.as ?? "";
  if (control instanceof HTMLInputElement && control.type === "checkbox") return as === "on-off" ? (control.checked ? "on" : "off") : control.checked;
  if (as === "json") return control.value === "" ? null : JSON.parse(control.value);
  // What is no number stays a word, and the server says so.
  if (as === "number") return control.value.trim() === "" || Number.isNaN(Number(control.value)) ? control.value : Number(control.value);
  return control.value;
}

/** Puts a value at a place such as `hypothesis.cause`. @param {Record<string, any>} fields @param {string} path @param {unknown} value */
function put(fields, path, value) {
  const names = path.split(".");
  const last = names.pop() ?? "";
  let inner = fields;
  for (const name of names) inner = inner[name] ??= {};
  inner[last] = value;
}

/** @param {Element} element @returns {element is HTMLInputElement | HTMLTextAreaElement | HTMLSelectElement} */
const isControl = (element) => element instanceof HTMLInputElement || element instanceof HTMLTextAreaElement || element instanceof HTMLSelectElement;

/** The edit a control or a button stands for. @param {HTMLElement} element @returns {Edit} */
function editOf(element) {
  const edit = JSON.parse(element.dataset.edit ?? "null");
  if (!isControl(element)) return edit;
  const fields = fieldsOf(edit);
  put(fields, element.dataset.field ?? "typed", valueOf(element));
  // What the person saw when beginning to type.
  if (element instanceof HTMLTextAreaElement || "was" in fields) fields.was = holds(element, fields.was);
  return edit;
}

/** The edit of a form: what it stands for, with what its controls hold. @param {HTMLFormElement} form @returns {Edit} */
function editOfForm(form) {
  const edit = JSON.parse(form.dataset.edit ?? "null");
  const fields = fieldsOf(edit);
  for (const control of form.elements) {
    if (!isControl(control) || control.name === "" || (control instanceof HTMLInputElement && control.type === "radio" && !control.checked)) continue;
    if (control.dataset.as === "list") {
      if (/** @type {HTMLInputElement} */ (control).checked) fields[control.name].push(control.value);
    } else put(fields, control.name, valueOf(control));
  }
  return edit;
}

/** Saves what stands in a field. @param {HTMLElement} element */
export function save(element) {
  if (element instanceof HTMLTextAreaElement && element.value === holds(element, element.defaultValue)) return;
  sending(element);
  // The words are those of this moment, what they are held against is what the server holds when their turn comes.
  const typed = isControl(element) ? valueOf(element) : null;
  void send(() => {
    const edit = editOf(element);
    if (isControl(element) && typeof edit === "object") put(fieldsOf(edit), element.dataset.field ?? "typed", typed);
    return edit;
  }, element);
}

/** Says something to whoever hears the page instead of seeing it. @param {string} words */
export function tell(words) {
  const voice = document.getElementById("voice");
  if (!voice) return;
  // The same again is said again.
  voice.textContent = voice.textContent === words ? `${words}\u00A0` : words;
}

/** Shows a word above the bench. @param {string} message @param {boolean} done */
export function notice(message, done) {
  const box = document.getElementById("notice");
  if (!box) return;
  box.className = done ? "notice done" : "notice";
  box.hidden = message === "";
  const words = document.createElement("span");
  words.textContent = message;
  const close = Object.assign(document.createElement("button"), { className: "quiet", textContent: server.close });
  close.dataset.dismiss = "";
  box.replaceChildren(words, close);
}

/** After a new table or graph was made, it is looked at. @param {HTMLElement} from @param {Outcome} outcome */
async function follow(from, outcome) {
  const { table, graph } = outcome.made;
  if (!outcome.done || from.dataset.then === undefined) return;
  if (table !== null) await lookAt({ table, from: 0 }, ["record"]);
  if (graph !== null) await lookAt({ graph }, ["graph", "strip"]);
}

/** Sends a form as the edit it stands for. @param {SubmitEvent} event */
async function submit(event) {
  const form = event.target;
  if (!(form instanceof HTMLFormElement) || !form.dataset.edit) return;
  event.preventDefault();
  const { reset, closes } = form.dataset;
  const outcome = await send(editOfForm(form));
  const said = /** @type {HTMLElement | null} */ (form.querySelector(".said") ?? form.closest("dialog")?.querySelector(":scope > .said"));
  if (said) {
    said.hidden = outcome.done;
    said.textContent = outcome.done ? "" : outcome.word;
    if (!outcome.done) document.getElementById("notice")?.setAttribute("hidden", "");
  }
  if (!outcome.done) return;
  if (reset !== undefined) form.reset();
  else isSent(form);
  await follow(form, outcome);
  if (closes !== undefined) form.closest("dialog")?.close();
}

export function startEdits() {
  document.addEventListener("submit", (event) => void submit(event));
  document.addEventListener("change", (event) => {
    if (event.target instanceof HTMLElement && event.target.dataset.edit && isControl(event.target)) save(event.target);
  });
  // Long texts are saved while they are being written.
  /** @type {ReturnType<typeof setTimeout> | undefined} */
  let later;
  document.addEventListener("input", (event) => {
    const element = event.target;
    clearTimeout(later);
    if (element instanceof HTMLTextAreaElement && element.dataset.edit) later = setTimeout(() => save(element), REST);
  });
  document.addEventListener("click", (event) => {
    const element = /** @type {HTMLElement | null} */ (event.target instanceof Element ? event.target.closest("button[data-edit], g[data-edit]") : null);
    if (element) void send(editOf(element)).then((outcome) => follow(element, outcome));
    if (event.target instanceof Element && event.target.closest("[data-dismiss]")) {
      document.getElementById("notice")?.setAttribute("hidden", "");
    }
  });
  window.addEventListener("beforeunload", (event) => {
    if (unanswered > 0 || unsentWords()) event.preventDefault();
  });
}
