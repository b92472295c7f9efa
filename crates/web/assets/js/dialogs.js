// The dialogs: a column's form, handing in, the keys.
import { send, writable } from "./edits.js";

/** @param {string} id */
const dialog = (id) => /** @type {HTMLDialogElement} */ (document.getElementById(id));

/** @param {HTMLElement} source */
function openColumn(source) {
  const { column = "new", kind = "worked", name = "", symbol = "", unit = "", formula = "" } = source.dataset;
  const box = dialog("column-dialog");
  const form = /** @type {HTMLFormElement} */ (box.querySelector("form"));
  box.dataset.column = column;
  for (const [field, value] of Object.entries({ name, symbol, unit, formula })) {
    /** @type {HTMLInputElement} */ (form.elements.namedItem(field)).value = value;
  }
  /** @type {HTMLInputElement} */ (form.querySelector(`[name="kind"][value="${kind}"]`)).checked = true;
  const isNew = column === "new";
  dialog("column-title").textContent = isNew ? "Add column" : `Change column ${symbol}`;
  dialog("column-kinds").hidden = !isNew;
  /** @type {HTMLElement} */ (form.querySelector("[data-delete]")).hidden = isNew;
  dialog("column-error").hidden = true;
  showFormula(form);
  box.showModal();
  /** @type {HTMLInputElement} */ (form.elements.namedItem("name")).focus();
}

/** @param {HTMLFormElement} form */
function showFormula(form) {
  const worked = new FormData(form).get("kind") === "worked";
  for (const element of form.querySelectorAll(".formula")) /** @type {HTMLElement} */ (element).hidden = !worked;
}

/** @param {SubmitEvent} event */
async function saveColumn(event) {
  event.preventDefault();
  const box = dialog("column-dialog");
  const form = /** @type {HTMLFormElement} */ (event.target);
  const data = Object.fromEntries([...new FormData(form)].map(([k, v]) => [k, String(v)]));
  if (data.kind !== "worked") data.formula = "";
  const column = box.dataset.column ?? "new";
  const outcome = await send(column === "new" ? { edit: "add_column", ...data } : { edit: "change_column", column, ...data });
  if (outcome.ok) {
    box.close();
    return;
  }
  const error = dialog("column-error");
  error.hidden = false;
  error.textContent = outcome.message;
  document.getElementById("notice")?.setAttribute("hidden", "");
  if (outcome.place) {
    // The place is counted in the right side of `T = t10/10`.
    const input = /** @type {HTMLInputElement} */ (form.elements.namedItem("formula"));
    const left = input.value.match(/^[^=]*=\s*/)?.[0].length ?? input.value.length - input.value.trimStart().length;
    input.focus();
    input.setSelectionRange(left + outcome.place[0], left + Math.max(outcome.place[1], outcome.place[0] + 1));
  }
}

export function startDialogs() {
  document.addEventListener("click", (event) => {
    const target = event.target instanceof Element ? event.target : null;
    const opener = /** @type {HTMLElement | null} */ (target?.closest("[data-open]"));
    if (opener) open(opener.dataset.open ?? "");
    const column = /** @type {HTMLElement | null} */ (target?.closest("button[data-column]:not([data-edit])"));
    if (column && writable()) openColumn(column);
    if (target?.closest("[data-close]")) target.closest("dialog")?.close();
    if (target?.closest("[data-hand-in]")) void send({ edit: "hand_in" });
    if (target?.closest("[data-delete]")) {
      void send({ edit: "delete_column", column: dialog("column-dialog").dataset.column ?? "" });
      dialog("column-dialog").close();
    }
  });
  const form = dialog("column-dialog").querySelector("form");
  form?.addEventListener("submit", (event) => void saveColumn(event));
  form?.addEventListener("change", () => showFormula(form));
}

/** @param {string} id */
function open(id) {
  if (id === "hand-in-dialog") {
    const missing = document.getElementById("part-header")?.dataset.missing ?? "";
    dialog("hand-in-missing").textContent = missing ? `Still open: ${missing}.` : "Everything the sheet asks for is there.";
  }
  dialog(id)?.showModal();
}
