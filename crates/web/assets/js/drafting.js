// The drafting table: every change goes to the server as it is made, one after the other, and what comes back is put in place once nothing
// more is under way, so that nobody is overtaken while typing.
import { AS_DATA, reason } from "./answers.js";
import "./page.js";
import { draft } from "./words.js";

/** Milliseconds of quiet after which what is being typed is sent. */
const QUIET = 600;

const table = /** @type {HTMLElement} */ (document.getElementById("drafting"));
const address = `/sheets/${table.dataset.sheet}`;
const source = /** @type {HTMLTextAreaElement | null} */ (document.getElementById("source"));

/** @typedef {{ do: string, path?: string, value?: string }} Edit */
/** What is to be sent, in order. @type {(Edit | { turn: string } | { text: string })[]} */
let waiting = [];
/** Whether something is under way. */
let busy = false;
/** The field that was typed in, and is not sent yet. @type {HTMLInputElement | HTMLTextAreaElement | null} */
let typing = null;
/** @type {number | undefined} */
let timer;

/** @param {string} words @param {boolean} good */
function say(words, good) {
  const place = document.getElementById("draft-said");
  if (!place) return;
  place.className = words === "" ? "" : good ? "saved" : "said";
  place.textContent = words;
}

/** @param {string} words */
function state(words) {
  const place = document.getElementById("draft-kept");
  if (place) place.textContent = words;
}

/** Whoever goes on changing may press Save at once. */
const mayBeSaved = () => document.getElementById("save-sheet")?.removeAttribute("disabled");

const step = () => document.getElementById("draft-head")?.dataset.step ?? "0";

/** Puts what the server sent in place; what has the focus keeps what is typed there. @param {string} html */
function place(html) {
  const box = document.createElement("template");
  box.innerHTML = html;
  // @ts-ignore Idiomorph is a script of its own.
  const { Idiomorph } = window;
  const callbacks = {
    // What a person has unfolded stays unfolded.
    beforeAttributeUpdated: (/** @type {string} */ name, /** @type {Element} */ node) => !(name === "open" && node instanceof HTMLDetailsElement),
  };
  for (const fresh of [...box.content.children]) {
    const old = document.getElementById(fresh.id);
    if (old) Idiomorph.morph(old, fresh, { morphStyle: "outerHTML", ignoreActiveValue: true, callbacks });
  }
}

/** Shows a refusal at its field. @param {string} path @param {string} word */
function refuse(path, word) {
  const told = document.getElementById(`w-${path}`);
  if (!told) return say(word, false);
  told.textContent = word;
  told.hidden = false;
}

async function send() {
  if (busy || waiting.length === 0) return;
  busy = true;
  const batch = waiting;
  waiting = [];
  state("saving …");
  try {
    const body = JSON.stringify({ deeds: batch, after: Number(step()), as_text: source !== null });
    const answer = await fetch(`${address}/draft`, { method: "POST", body, headers: { ...AS_DATA, "content-type": "application/json" }, redirect: "manual" });
    if (answer.type === "opaqueredirect") throw new Error(draft.signedOut);
    if (!answer.ok) {
      // What the server will never take is not sent again.
      const again = answer.status >= 500 || answer.status === 429 || answer.status === 408;
      if (!again) batch.length = 0;
      throw new Error(await reason(answer));
    }
    const { html, refused, text, word } = await answer.json();
    // More was done meanwhile: what it leads to comes with the next answer.
    if (waiting.length === 0 && typing === null) place(html);
    else document.getElementById("draft-head")?.setAttribute("data-step", /data-step="(\d+)"/.exec(html)?.[1] ?? step());
    if (source && text !== undefined && text !== null && waiting.length === 0 && typing === null) source.value = text;
    if (word) say(word, true);
    for (const { path, word } of refused) refuse(path, word);
  } catch (error) {
    // Fields are sent again with the next change; adding and taking out might have been done.
    waiting = [...batch.filter((deed) => ("do" in deed && deed.do === "set") || "text" in deed), ...waiting];
    state(draft.unkept);
    say(error instanceof TypeError ? draft.lost : String(error instanceof Error ? error.message : error), false);
    busy = false;
    window.setTimeout(() => void send(), 3000);
    return;
  }
  busy = false;
  void send();
}

/** @param {Edit | { turn: string } | { text: string }} deed */
function queue(deed) {
  const last = waiting.at(-1);
  const same = last && (("text" in deed && "text" in last) || ("do" in deed && "do" in last && deed.do === "set" && last.do === "set" && deed.path === last.path));
  if (same) waiting.pop();
  waiting.push(deed);
  mayBeSaved();
  void send();
}

/** Sends what was typed, if anything was. */
function flush() {
  window.clearTimeout(timer);
  const field = typing;
  typing = null;
  if (!field) return;
  if (field === source) queue({ text: field.value });
  else queue({ do: "set", path: field.dataset.path ?? "", value: field.value });
}

table.addEventListener("input", (event) => {
  const field = event.target;
  const typed = field instanceof HTMLTextAreaElement || (field instanceof HTMLInputElement && field.type !== "checkbox" && field.type !== "radio");
  if (!typed || (field !== source && field.dataset.path === undefined)) return;
  if (typing !== field) flush();
  typing = field;
  mayBeSaved();
  say("", true);
  window.clearTimeout(timer);
  timer = window.setTimeout(flush, QUIET);
});

table.addEventListener("change", (event) => {
  const field = event.target;
  if (field instanceof HTMLSelectElement && field.dataset.path !== undefined) {
    flush();
    queue({ do: "set", path: field.dataset.path, value: field.value });
  } else if (field instanceof HTMLInputElement && field.type === "checkbox") {
    flush();
    const ticks = /** @type {HTMLElement | null} */ (field.closest("[data-ticks]"));
    if (field.dataset.path !== undefined) queue({ do: "set", path: field.dataset.path, value: field.checked ? "true" : "" });
    else if (ticks) {
      const names = /** @type {HTMLInputElement[]} */ ([...ticks.querySelectorAll("input:checked")]).map((box) => box.dataset.name);
      queue({ do: "set", path: ticks.dataset.ticks ?? "", value: names.join("\n") });
    }
  } else if (field === typing) flush();
});

table.addEventListener("click", (event) => {
  const button = event.target instanceof Element ? event.target.closest("button") : null;
  if (!button) return;
  if (button.dataset.draft !== undefined) {
    flush();
    queue(JSON.parse(button.dataset.draft));
  } else if (button.dataset.turn !== undefined) {
    flush();
    queue({ turn: button.dataset.turn });
  } else if (button.dataset.to !== undefined) show(button.dataset.to);
});

/** Brings a field into sight. @param {string} path */
function show(path) {
  const field = document.getElementById(`f-${path}`) ?? document.getElementById(`f-${path}.first`) ?? document.getElementById(`s-${path}`);
  // Of what has no field of its own, the part it stands in.
  const parts = path.split(".");
  let item = field;
  while (!item && parts.length > 0) {
    item = document.getElementById(`i-${parts.join(".")}`) ?? document.getElementById(`t-${parts.join(".")}`) ?? document.getElementById(`area-${parts.join(".")}`);
    parts.pop();
  }
  const folded = item?.closest("details");
  if (folded) folded.open = true;
  item?.scrollIntoView({ block: "center" });
  if (field instanceof HTMLElement) field.focus();
}

// Saving and trying take what was typed to the last letter; whether they can be is known when all of it has been sent.
table.addEventListener("submit", (event) => {
  flush();
  const { submitter } = /** @type {SubmitEvent} */ (event);
  const form = /** @type {HTMLFormElement} */ (event.target);
  if (!busy && waiting.length === 0) {
    const refused = submitter?.dataset.refused;
    if (refused === undefined) return;
    event.preventDefault();
    return say(refused, false);
  }
  event.preventDefault();
  const again = window.setInterval(() => {
    if (busy || waiting.length > 0) return;
    window.clearInterval(again);
    const button = submitter?.id ? document.getElementById(submitter.id) : submitter;
    if (button instanceof HTMLButtonElement && !button.disabled) form.requestSubmit(button);
  }, 50);
});

window.addEventListener("beforeunload", (event) => {
  flush();
  if (busy || waiting.length > 0) event.preventDefault();
});
