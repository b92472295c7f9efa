// Sends edits one after the other and puts the answer's fragments in place. An edit that does not reach the server is
// tried again until it does; the page says so meanwhile.

/** @typedef {Record<string, string | number | boolean>} Fields */
/** @typedef {{ ok: boolean, message: string, place: [number, number] | null }} Outcome */

const base = `/logbooks/${document.body.dataset.logbook}`;
const PAUSE = 1500;
/** Rest after which a long text is saved, in ms. */
const REST = 1200;

/** @type {Promise<unknown>} */
let queue = Promise.resolve();
let waiting = 0;
/** @type {(() => void)[]} */
const listeners = [];
/** What a person saw in a field when beginning to type in it. @type {WeakMap<Element, string>} */
const seen = new WeakMap();

/** What was last sent of a field. @type {WeakMap<Element, string>} */
const sent = new WeakMap();

/** @param {Element | null} element @returns {element is HTMLInputElement | HTMLTextAreaElement} */
const isField = (element) => element instanceof HTMLInputElement || element instanceof HTMLTextAreaElement;

/** What this person looks at: which table, from which row on, which graph. Partners may look at others. */
const look = { table: "", from: "0", graph: "" };

/** Looks at another table, other rows or another graph. @param {Partial<typeof look>} other @param {string} parts */
export async function lookAt(other, parts) {
  Object.assign(look, other);
  await queue;
  const query = new URLSearchParams({ since: String(seq()), parts, ...viewed() });
  const answer = await fetch(`${base}/parts?${query}`);
  if (answer.ok) place(await answer.text());
}

const viewed = () => ({ view_table: look.table, view_from: look.from, view_graph: look.graph });

/** Number of the last edit this page shows. */
export const seq = () => Number(document.getElementById("part-header")?.dataset.seq ?? document.body.dataset.seq);

export const writable = () => document.body.dataset.writable === "true";

/** Calls back whenever parts of the page were replaced. @param {() => void} listener */
export function onParts(listener) {
  listeners.push(listener);
}

/** Puts fragments in place. @param {string} html */
function place(html) {
  // @ts-ignore htmx and Idiomorph are scripts of their own.
  const { htmx, Idiomorph } = window;
  const active = document.activeElement;
  const typing = isField(active) && active.value !== active.defaultValue && (active instanceof HTMLTextAreaElement || active.value !== sent.get(active));
  // What somebody is typing at the moment is never replaced.
  Idiomorph.defaults.ignoreActiveValue = typing;
  // What a person has unfolded or opened stays open.
  Idiomorph.defaults.callbacks.beforeAttributeUpdated = (/** @type {string} */ name, /** @type {Element} */ node) =>
    !(name === "open" && (node instanceof HTMLDetailsElement || node instanceof HTMLDialogElement));
  htmx.swap(document.body, html, { swapStyle: "none", swapDelay: 0, settleDelay: 0 });
  if (active && !typing) remember(active);
  for (const listener of listeners) listener();
}

/** Puts fragments in place that came as the answer to another request. @param {string} html */
export const showParts = (html) => place(html);

/** Fetches what changed since this page was drawn. @param {number} newest */
export async function catchUp(newest) {
  await queue;
  if (newest <= seq()) return;
  const answer = await fetch(`${base}/parts?${new URLSearchParams({ since: String(seq()), ...viewed() })}`);
  if (answer.ok) place(await answer.text());
}

function showWaiting() {
  const saved = document.getElementById("saved");
  saved?.classList.toggle("waiting", waiting > 0);
  if (waiting > 0 && saved) saved.textContent = "not saved yet, trying again";
}

/** @param {Fields} fields @returns {Promise<Outcome>} */
async function post(fields) {
  const token = crypto.randomUUID?.() ?? `${Date.now()}-${Math.random()}`;
  for (;;) {
    try {
      const body = new URLSearchParams({ ...Object.fromEntries(Object.entries(fields).map(([k, v]) => [k, String(v)])), token, since: String(seq()), ...viewed() });
      const answer = await fetch(`${base}/edits`, { method: "POST", body });
      if (answer.redirected) {
        location.assign("/");
        return { ok: false, message: "Sign in again.", place: null };
      }
      const html = await answer.text();
      if (!html.includes('id="notice"')) {
        return { ok: false, message: `The server answered ${answer.status}. Nothing was changed.`, place: null };
      }
      place(html);
      const notice = document.getElementById("notice");
      const start = notice?.dataset.start;
      return {
        ok: answer.ok,
        message: notice?.querySelector("span")?.textContent ?? "",
        place: start === undefined ? null : [Number(start), Number(notice?.dataset.end)],
      };
    } catch {
      // The network failed; the edit is kept and tried again. Its token keeps it from being done twice.
      waiting = 1;
      showWaiting();
      await new Promise((resolve) => setTimeout(resolve, PAUSE));
      waiting = 0;
    }
  }
}

/** Sends an edit after all earlier ones. @param {Fields} fields @returns {Promise<Outcome>} */
export function send(fields) {
  const done = queue.then(() => post(fields));
  queue = done;
  return done;
}

/** The fields of an edit that an element stands for. @param {HTMLElement} element @returns {Fields} */
function fieldsOf(element) {
  const { edit = "", as = "typed", ...rest } = element.dataset;
  /** @type {Fields} */
  const fields = { edit };
  for (const [key, value] of Object.entries(rest)) if (value !== undefined && !["about", "then", "at", "axis"].includes(key)) fields[key] = value;
  if (element instanceof HTMLInputElement && element.type === "checkbox") fields.typed = element.checked ? "on" : "off";
  else if (isField(element) || element instanceof HTMLSelectElement) fields[as] = element.value;
  fields.was = seen.get(element) ?? "";
  if (edit === "choose_axes") {
    for (const axis of ["x", "y"]) {
      fields[axis] = /** @type {HTMLSelectElement | null} */ (document.getElementById(`axis-${axis}`))?.value ?? "";
    }
  }
  return fields;
}

/** @param {Element} element */
function remember(element) {
  if (isField(element)) seen.set(element, element.defaultValue);
}

/** Comes when all edits sent so far are answered. */
export const settled = () => queue;

/** Saves what stands in a field. @param {HTMLElement} element */
async function save(element) {
  const fields = fieldsOf(element);
  if (element instanceof HTMLTextAreaElement && fields.typed === fields.was) return;
  if (isField(element)) sent.set(element, element.value);
  const outcome = await send(fields);
  if (element instanceof HTMLTextAreaElement) {
    // A box somebody writes in is left alone, so it has to be told what the server holds now.
    if (outcome.ok) element.defaultValue = String(fields.typed);
    // A partner's text came first: the own words stay in the box.
    else element.value = String(fields.typed);
  }
  // The next change starts from what the server holds now.
  remember(element);
}

/** Shows a word above the bench. @param {string} message @param {boolean} done */
export function notice(message, done) {
  const box = document.getElementById("notice");
  if (!box) return;
  box.className = done ? "notice done" : "notice";
  box.hidden = message === "";
  const words = document.createElement("span");
  words.textContent = message;
  const close = Object.assign(document.createElement("button"), { className: "quiet", textContent: "Close" });
  close.dataset.dismiss = "";
  box.replaceChildren(words, close);
}

/** After a new table or graph was made, it is looked at. @param {HTMLElement} from @param {Outcome} outcome */
async function follow(from, outcome) {
  const kind = from.dataset.then;
  if (!outcome.ok || !kind) return;
  const last = [...document.querySelectorAll(`[data-look-${kind}]`)].at(-1);
  const id = last?.getAttribute(`data-look-${kind}`);
  if (id) await lookAt(kind === "table" ? { table: id, from: "0" } : { graph: id }, kind === "table" ? "record" : "graph,strip");
}

/** Sends a form as the edit it names. @param {SubmitEvent} event */
async function submit(event) {
  const form = event.target;
  if (!(form instanceof HTMLFormElement) || !form.dataset.form) return;
  event.preventDefault();
  const { form: edit = "", then: _, reset, closes, ...rest } = form.dataset;
  /** @type {Fields} */
  const fields = { edit };
  for (const [key, value] of Object.entries(rest)) if (value !== undefined) fields[key] = value;
  for (const [key, value] of new FormData(form)) fields[key] = String(value);
  if (edit === "paste") {
    const here = fields.into === "here";
    Object.assign(fields, here ? { table: document.getElementById("part-record")?.dataset.table ?? "" } : { name: `Table ${document.querySelectorAll("[data-look-table]").length + 2}` });
    if (!here) form.dataset.then = "table";
  }
  const outcome = await send(fields);
  const said = /** @type {HTMLElement | null} */ (form.querySelector(".said") ?? form.closest("dialog")?.querySelector(":scope > .said"));
  if (said) {
    said.hidden = outcome.ok;
    said.textContent = outcome.ok ? "" : outcome.message;
    if (!outcome.ok) document.getElementById("notice")?.setAttribute("hidden", "");
  }
  if (!outcome.ok) return;
  if (reset !== undefined) form.reset();
  await follow(form, outcome);
  if (edit === "paste") delete form.dataset.then;
  if (closes !== undefined) form.closest("dialog")?.close();
}

export function startEdits() {
  document.addEventListener("submit", (event) => void submit(event));
  document.addEventListener("focusin", (event) => {
    if (event.target instanceof HTMLElement && event.target.dataset.edit) remember(event.target);
  });
  document.addEventListener("change", (event) => {
    if (event.target instanceof HTMLElement && event.target.dataset.edit) void save(event.target);
  });
  // Long texts are saved while they are being written.
  /** @type {ReturnType<typeof setTimeout> | undefined} */
  let later;
  document.addEventListener("input", (event) => {
    const element = event.target;
    clearTimeout(later);
    if (element instanceof HTMLTextAreaElement && element.dataset.edit) later = setTimeout(() => void save(element), REST);
  });
  document.addEventListener("click", (event) => {
    const element = event.target instanceof Element ? event.target.closest("button[data-edit], g[data-edit]") : null;
    if (element) void send(fieldsOf(/** @type {HTMLElement} */ (element))).then((outcome) => follow(/** @type {HTMLElement} */ (element), outcome));
    if (event.target instanceof Element && event.target.closest("[data-dismiss]")) {
      document.getElementById("notice")?.setAttribute("hidden", "");
    }
  });
  for (const link of document.querySelectorAll("[data-export]")) link.setAttribute("href", `${base}/${link.getAttribute("data-export")}`);
  onParts(() => {
    for (const link of document.querySelectorAll("[data-export]")) link.setAttribute("href", `${base}/${link.getAttribute("data-export")}`);
  });
  window.addEventListener("beforeunload", (event) => {
    if (waiting > 0) event.preventDefault();
  });
}
