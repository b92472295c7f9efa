// Puts fragments of the page in place, without disturbing whoever works in it.
import { forgetWaiting, holdsWords, isField, isFilledIn, isKept, isUntouched, keepWaiting } from "./fields.js";

/** @type {{ listener: () => void, ids: string[] }[]} */
const listeners = [];
/** @type {((fresh: Element) => void)[]} */
const preparers = [];

/** Calls back when one of these parts of the page was replaced, before anybody sees it; without any named, once after all of an answer.
 * @param {() => void} listener @param {string[]} ids */
export const onParts = (listener, ...ids) => void listeners.push({ listener, ids });

/** Calls back with a part that is about to be put in. @param {(fresh: Element) => void} preparer */
export const beforeParts = (preparer) => void preparers.push(preparer);

const FOCUSABLE = "input, select, textarea, button, a[href], summary, [tabindex]";

/** Whether an element can keep the focus it has. @param {Element} element */
const canKeepFocus = (element) => element.isConnected && element.getClientRects().length > 0 && !(/** @type {HTMLInputElement} */ (element).disabled);

/** Whether an element can be handed the focus. @param {Element} element */
const canTakeFocus = (element) => canKeepFocus(element) && element.getAttribute("tabindex") !== "-1";

/** Those that could take over the focus, nearest first: what comes after, then what came before, then the part itself. @param {Element} active */
function neighbours(active) {
  const part = active.closest("section[id^='part-'], [id^='part-']") ?? document.body;
  const all = [...part.querySelectorAll(FOCUSABLE)];
  const at = all.indexOf(active);
  return [...all.slice(at + 1), ...all.slice(0, Math.max(0, at)).reverse(), part];
}

/** Whether another table is being put in the place of the one that was there, or one that can only be read: the words of the page do not belong
 * to it. */
let elsewhere = false;

const callbacks = {
  // What a person has unfolded or opened stays open.
  beforeAttributeUpdated: (/** @type {string} */ name, /** @type {Element} */ node) =>
    !(name === "open" && (node instanceof HTMLDetailsElement || node instanceof HTMLDialogElement)) && !(isKept(node) && !["class", "aria-label"].includes(name)),
  // What somebody types, has sent or has to mend stays as it is.
  beforeNodeMorphed: (/** @type {Node} */ old, /** @type {Node} */ fresh) => {
    // What is the same already, as most of a part is, needs no look at each of its nodes.
    if (old instanceof Element && old.childElementCount > 0 && old.isEqualNode(fresh) && isUntouched(old)) return false;
    // Nor does what is filled into a form and not sent yet.
    if (isFilledIn(old)) return false;
    if (!isField(old)) return true;
    if (!isKept(old)) {
      forgetWaiting(old);
      return true;
    }
    if (isField(fresh)) keepWaiting(old, fresh);
    return false;
  },
  // A row begun on this page is not in what the server sends yet; nor are the words beside a refused value.
  beforeNodeRemoved: (/** @type {Node} */ node) => {
    if (!(node instanceof Element) || elsewhere) return true;
    if (node.matches("small.refused")) return !(node.previousElementSibling && isKept(node.previousElementSibling));
    if (node.matches("tr[data-begun]")) return !rowStays(node);
    return !holdsWords(node);
  },
};

/** The empty row at the bottom. */
export const lastBegun = () => [...document.querySelectorAll("#part-record tr[data-begun]")].at(-1) ?? null;

/** Whether a row begun on this page has to stay though the server does not know it yet. @param {Element} row */
const rowStays = (row) => row === lastBegun() || holdsWords(row) || row.contains(document.activeElement);

/** Puts the rows begun on this page into a newer record, in their order and numbered on, so that they stay where they are.
 * @param {Element} old @param {Element} fresh */
function keepBegunRows(old, fresh) {
  const body = fresh.querySelector("tbody");
  const below = /** @type {HTMLTableRowElement | null} */ (fresh.querySelector("tr[data-begun]"));
  if (!body || !below) return;
  const begun = /** @type {HTMLTableRowElement[]} */ ([...old.querySelectorAll("tr[data-begun]")]);
  const stay = begun.filter((row) => row.id === below.id || (rowStays(row) && !fresh.querySelector(`#${row.id}`)));
  if (stay.length === 0) return;
  let number = Number(below.cells[0]?.textContent);
  below.remove();
  for (const row of stay) {
    const there = row.id === below.id ? below : /** @type {HTMLTableRowElement} */ (row.cloneNode(true));
    if (there.cells[0]) there.cells[0].textContent = String(number);
    for (const cell of there.querySelectorAll("input")) cell.setAttribute("aria-label", (cell.getAttribute("aria-label") ?? "").replace(/\d+$/, String(number)));
    body.append(there);
    number += 1;
  }
}

/** Lets what waits go first: a frame of a run, a key. */
const breathe = () => new Promise((resolve) => {
  const channel = new MessageChannel();
  channel.port1.onmessage = resolve;
  channel.port2.postMessage(null);
});

/** Puts fragments in place, one after the other: elements whose ids are on the page already. A slow machine plays on meanwhile.
 * @param {string} html */
export async function place(html) {
  if (html === "") return;
  // @ts-ignore Idiomorph is a script of its own.
  const { Idiomorph } = window;
  const template = document.createElement("template");
  template.innerHTML = html;
  await breathe();
  for (const fresh of [...template.content.children]) {
    const old = document.getElementById(fresh.id);
    const now = /** @type {HTMLElement} */ (fresh).dataset;
    elsewhere = old?.dataset.table !== now.table || now.writable === "false";
    if (!old) continue;
    if (!elsewhere) keepBegunRows(old, fresh);
    for (const prepare of preparers) prepare(fresh);
    const settle = keepFocus(old, () => {
      Idiomorph.morph(old, fresh, { morphStyle: "outerHTML", callbacks, restoreFocus: false });
      for (const { listener, ids } of listeners) if (ids.includes(fresh.id)) listener();
    });
    await breathe();
    settle();
  }
  for (const { listener, ids } of listeners) if (ids.length === 0) listener();
}

/** Replaces a part; what that takes away hands its focus on at once, what it hides when the page was laid out again: a task later.
 * @param {Element} old @param {() => void} replace @returns {() => void} what is left to do then */
function keepFocus(old, replace) {
  const active = document.activeElement;
  if (!active || !old.contains(active)) {
    replace();
    return () => {};
  }
  const next = neighbours(active);
  const whole = active instanceof HTMLInputElement && active.selectionStart === 0 && active.selectionEnd === active.value.length;
  replace();
  const handOn = () => {
    if (!document.querySelector("dialog[open]")) /** @type {HTMLElement | undefined} */ (next.find((e) => canTakeFocus(e)))?.focus();
  };
  if (document.activeElement === document.body) handOn();
  else if (whole && active === document.activeElement && !isKept(active)) active.select();
  return () => {
    const now = document.activeElement;
    if ((now === document.body || now === active) && !canKeepFocus(active)) handOn();
  };
}
