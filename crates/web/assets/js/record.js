// The record: which cell is chosen, moving between cells, and where a value came from.
import { lookAt, notice, onParts, send, settled, writable } from "./edits.js";

/** The chosen cell as row and column; "new" is the empty row below. @type {{ row: string, column: string } | null} */
let chosen = null;

const cells = () => /** @type {HTMLInputElement[]} */ ([...document.querySelectorAll("#part-record td input")]);

/** Cells one can stand on, row by row: inputs, and values worked out. */
const places = () => /** @type {HTMLElement[]} */ ([...document.querySelectorAll("#part-record td input, #part-record td[data-about]")]);

/** @param {HTMLInputElement} cell */
const keyOf = (cell) => ({ row: cell.dataset.row ?? "", column: cell.dataset.column ?? "" });

function show() {
  for (const cell of cells()) {
    cell.classList.toggle("chosen", chosen !== null && cell.dataset.row === chosen.row && cell.dataset.column === chosen.column);
  }
  const cell = current() ?? cells().find((c) => c.value === "");
  // One tab stop for the whole table, so that passing by never changes which cell is chosen.
  for (const place of places()) place.tabIndex = place === cell || (!cell && place === places()[0]) ? 0 : -1;
  const target = document.getElementById("target");
  if (target) {
    target.textContent = current() ? `The next reading goes to ${current()?.getAttribute("aria-label")}.` : "Choose a cell of the record: readings go there.";
  }
}

const current = () => cells().find((c) => chosen && c.dataset.row === chosen.row && c.dataset.column === chosen.column);

/** The empty cell after the chosen one, in reading order. */
function advance() {
  const all = cells();
  const at = all.findIndex((c) => chosen && c.dataset.row === chosen.row && c.dataset.column === chosen.column);
  const next = all.slice(at + 1).find((c) => c.value === "") ?? all.find((c) => c.value === "");
  if (next) chosen = keyOf(next);
  show();
}

/** Logs a reading into the chosen cell. @param {Record<string, string | number>} reading */
export async function log(reading) {
  // Without a choice the first empty cell is meant.
  if (!chosen) advance();
  if (!chosen) return;
  const before = new Set(cells().map((c) => c.dataset.row));
  const outcome = await send({ edit: "log_reading", ...chosen, ...reading });
  if (!outcome.ok) return;
  if (chosen.row === "new") {
    const made = cells().find((c) => !before.has(c.dataset.row) && c.dataset.column === chosen?.column);
    if (made) chosen = keyOf(made);
  }
  advance();
}

/** Chooses the first empty cell of the row a trial has begun: the last one that holds something. */
export function chooseTrial() {
  const filled = cells().filter((c) => c.dataset.row !== "new" && c.value !== "");
  const row = filled.at(-1)?.dataset.row;
  const empty = cells().find((c) => c.dataset.row === row && c.value === "");
  if (empty) chosen = keyOf(empty);
  show();
}

/** @param {HTMLElement} place @param {number} rows @param {number} columns */
function move(place, rows, columns) {
  const all = places();
  const width = Math.max(1, place.closest("tr")?.querySelectorAll("td input, td[data-about]").length ?? 1);
  const at = all.indexOf(place);
  if (columns !== 0 && Math.floor((at + columns) / width) !== Math.floor(at / width)) return;
  all[at + rows * width + columns]?.focus();
}

/** Whether an arrow to the side leaves the cell instead of moving in its text. @param {HTMLElement} place @param {number} columns */
function leaves(place, columns) {
  if (!(place instanceof HTMLInputElement)) return true;
  const { selectionStart, selectionEnd, value } = place;
  if (selectionStart === 0 && selectionEnd === value.length) return true;
  return selectionStart === selectionEnd && selectionStart === (columns < 0 ? 0 : value.length);
}

/** Pastes a block of cells at the chosen cell. @param {ClipboardEvent} event */
function paste(event) {
  const cell = event.target;
  const text = event.clipboardData?.getData("text/plain") ?? "";
  // One value goes into the cell like typing.
  if (!(cell instanceof HTMLInputElement) || cell.dataset.edit !== "type_cell" || !/[\t\n]/.test(text.trimEnd())) return;
  event.preventDefault();
  const table = document.getElementById("part-record")?.dataset.table ?? "";
  cell.value = cell.defaultValue;
  void send({ edit: "paste", table, ...keyOf(cell), text });
}

/** Brings a file: a table, or a logbook's zip. @param {File} file @param {boolean} asNew */
async function bring(file, asNew) {
  notice(`Reading ${file.name} …`, true);
  const query = new URLSearchParams({ name: file.name, token: crypto.randomUUID?.() ?? String(Date.now()) });
  if (!asNew) query.set("table", document.getElementById("part-record")?.dataset.table ?? "");
  try {
    const answer = await fetch(`/logbooks/${document.body.dataset.logbook}/import?${query}`, { method: "POST", body: file });
    const outcome = await answer.json();
    await lookAt(asNew && outcome.ok ? { table: String(outcome.table), from: "0" } : {}, "record");
    notice(outcome.message, outcome.ok);
    if (outcome.ok) /** @type {HTMLDialogElement | null} */ (document.getElementById("table-dialog"))?.close();
  } catch {
    notice(`The file ${file.name} did not reach the server, or is larger than 12 MB. Nothing was changed.`, false);
  }
}

function startFiles() {
  const isNew = () => document.querySelector('#table-dialog [name="into"][value="new"]:checked') !== null;
  document.addEventListener("change", (event) => {
    const input = event.target;
    if (input instanceof HTMLInputElement && input.matches("[data-import]") && input.files?.[0]) {
      void bring(input.files[0], isNew());
      input.value = "";
    }
    if (input instanceof HTMLInputElement && input.matches("[data-look-row]")) {
      void lookAt({ from: String(Math.max(0, Number.parseInt(input.value, 10) - 1 || 0)) }, "record");
    }
  });
  document.addEventListener("dragover", (event) => {
    if (writable() && event.dataTransfer?.types.includes("Files")) event.preventDefault();
  });
  document.addEventListener("drop", (event) => {
    const file = event.dataTransfer?.files[0];
    if (!file || !writable()) return;
    event.preventDefault();
    void bring(file, true);
  });
  document.addEventListener("click", (event) => {
    const button = event.target instanceof Element ? event.target.closest("[data-look-table], [data-look-from]") : null;
    if (!(button instanceof HTMLElement)) return;
    const { lookTable, lookFrom } = button.dataset;
    void lookAt(lookTable ? { table: lookTable, from: "0" } : { from: lookFrom ?? "0" }, "record");
  });
  // A word about the number of trials while it is typed.
  document.addEventListener("input", (event) => {
    const input = event.target;
    if (!(input instanceof HTMLInputElement) || !input.matches('[data-form="fill_column"] [name="count"]')) return;
    const { least = "0", most = "0" } = document.body.dataset;
    const count = Number(input.value);
    const word = count < Number(least) ? "too few: take smaller intervals" : count > Number(most) ? "more than needed: take larger intervals" : "a good number";
    const line = document.querySelector("[data-advice]");
    if (line) line.textContent = `${input.value || "No"} trials: ${word}. This lab asks for ${least} to ${most}.`;
  });
}

export function startRecord() {
  document.addEventListener("paste", paste);
  startFiles();
  document.addEventListener("focusin", (event) => {
    const cell = event.target;
    if (cell instanceof HTMLInputElement && cell.dataset.edit === "type_cell") {
      chosen = keyOf(cell);
      cell.select();
      show();
    }
    about(event);
  });
  document.addEventListener("pointerover", about);
  document.addEventListener("keydown", (event) => {
    const place = event.target;
    if (!(place instanceof HTMLElement) || !places().includes(place)) return;
    const down = { ArrowDown: 1, Enter: 1, ArrowUp: -1 }[event.key] ?? 0;
    const right = { ArrowRight: 1, ArrowLeft: -1 }[event.key] ?? 0;
    if (down === 1 && place.id.startsWith("cell-new")) {
      // Leaving the last row saves it; a new one appears, and the same cell of it is next.
      place.blur();
      void settled().then(() => document.getElementById(place.id)?.focus());
    } else if (down !== 0) move(place, down, 0);
    else if (right !== 0 && leaves(place, right)) move(place, 0, right);
    else {
      if (event.key === "Escape" && place instanceof HTMLInputElement) place.value = place.defaultValue;
      return;
    }
    event.preventDefault();
  });
  onParts(show);
  show();
}

/** @param {Event} event */
function about(event) {
  const place = event.target instanceof Element ? event.target.closest("[data-about]") : null;
  const line = document.getElementById("about");
  if (place && line) line.textContent = place.getAttribute("data-about");
}
