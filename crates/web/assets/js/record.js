// The record: which cell is chosen, moving between cells, rows that are begun on the page, and where a value came from.
import { base, lookAt, looking, notice, save, send, settled, shown, token, writable } from "./edits.js";
import { isKept, isRefused } from "./fields.js";
import { lastBegun, onParts } from "./parts.js";
import { record as words } from "./words.js";

/** Row ids from here up are given by the page on which the row was begun. */
const PAGE_ROWS = 2 ** 31;
/** Rows of a table that are on the page at a time. */
const ROWS_SHOWN = 100;

/** @typedef {{ row: string, column: string }} CellKey */

/** The chosen cell. @type {CellKey | null} */
let chosen = null;
/** Whether somebody pointed at the chosen cell: a reading then goes there or nowhere. */
let pointed = false;
/** The column in which a row of values parted by Tab began: Enter goes there in the next row. @type {string | null} */
let beganIn = null;

const cells = () => /** @type {HTMLInputElement[]} */ ([...document.querySelectorAll("#part-record td input")]);

/** Cells one can stand on, row by row: inputs, and values worked out. */
const places = () => /** @type {HTMLElement[]} */ ([...document.querySelectorAll("#part-record td input, #part-record td[data-about]")]);

/** @param {HTMLInputElement} cell @returns {CellKey} */
const keyOf = (cell) => ({ row: cell.dataset.row ?? "", column: cell.dataset.column ?? "" });

/** A row as edits name it. @param {string} row */
const rowAt = (row) => (Number(row) < PAGE_ROWS ? { there: Number(row) } : { begun: Number(row) });

/** Whether a cell belongs to the empty row at the bottom. @param {Element} cell */
const isBelow = (cell) => cell.closest("tr") === lastBegun();

function show() {
  keepEmptyRow();
  for (const cell of cells()) {
    cell.classList.toggle("chosen", chosen !== null && cell.dataset.row === chosen.row && cell.dataset.column === chosen.column);
  }
  const cell = current() ?? cells().find((c) => c.value === "");
  // One tab stop for the whole table, so that passing by never changes which cell is chosen.
  for (const place of places()) place.tabIndex = place === cell || (!cell && place === places()[0]) ? 0 : -1;
  const target = document.getElementById("target");
  if (target) {
    target.textContent = current() ? words.target(current()?.getAttribute("aria-label") ?? "") : words.noTarget;
  }
}

const current = () => cells().find((c) => chosen && c.dataset.row === chosen.row && c.dataset.column === chosen.column);

/** A row like another one, empty, below it, under a key of its own. @param {HTMLTableRowElement} row */
function appendEmptyRow(row) {
  const fresh = /** @type {HTMLTableRowElement} */ (row.cloneNode(true));
  const key = PAGE_ROWS + crypto.getRandomValues(new Uint32Array(1))[0] % PAGE_ROWS;
  const [before, number] = [row.id.replace("row-", ""), Number.parseInt(row.cells[0]?.textContent ?? "0", 10) + 1];
  fresh.id = `row-${key}`;
  fresh.className = "";
  fresh.dataset.begun = "";
  fresh.querySelectorAll(".refused").forEach((note) => note.remove());
  if (fresh.cells[0]) fresh.cells[0].textContent = String(number);
  for (const cell of fresh.querySelectorAll("input")) {
    cell.id = cell.id.replace(before, String(key));
    const edit = JSON.parse(cell.dataset.edit ?? "{}");
    Object.assign(edit.record.type_cell, { row: { begun: key }, was: null });
    Object.assign(cell.dataset, { edit: JSON.stringify(edit), row: String(key), about: "" });
    cell.setAttribute("aria-label", (cell.getAttribute("aria-label") ?? "").replace(/\d+$/, String(number)));
    for (const name of ["title", "aria-invalid", "aria-errormessage"]) cell.removeAttribute(name);
    cell.setAttribute("value", "");
    cell.value = "";
    cell.classList.remove("chosen");
  }
  for (const place of /** @type {NodeListOf<HTMLElement>} */ (fresh.querySelectorAll("td[data-about]"))) {
    Object.assign(place.dataset, { about: "" });
    place.textContent = "";
  }
  fresh.querySelector("td.acts")?.replaceChildren();
  row.after(fresh);
  looking({ begun: key });
  // A full page goes on with the next rows, among them the one that is being written.
  const rows = document.querySelectorAll("#part-record tbody tr[id]").length;
  if (rows > ROWS_SHOWN + 1) looking({ from: shown("part-record", "from") + ROWS_SHOWN });
}

/** There is always an empty row to write into; the one that is written in is that no longer. */
function keepEmptyRow() {
  const last = /** @type {HTMLTableRowElement | null} */ (lastBegun());
  if (!last) return;
  if ([...last.querySelectorAll("input")].some((cell) => cell.value !== "")) appendEmptyRow(last);
  else looking({ begun: Number(last.id.replace("row-", "")) });
}

/** The empty cell after the chosen one, in reading order. */
function advance() {
  const all = cells();
  const at = all.findIndex((c) => chosen && c.dataset.row === chosen.row && c.dataset.column === chosen.column);
  const next = all.slice(at + 1).find((c) => c.value === "") ?? all.find((c) => c.value === "");
  if (next) [chosen, pointed] = [keyOf(next), false];
  show();
}

/** Scrolls the table, and nothing around it, so far that a row is seen below the heads. @param {Element | null | undefined} row */
function reveal(row) {
  const box = row?.closest(".scroll");
  if (!row || !box) return;
  const [seen, here] = [box.getBoundingClientRect(), row.getBoundingClientRect()];
  const top = box.querySelector("thead")?.getBoundingClientRect().bottom ?? seen.top;
  if (here.bottom > seen.bottom) box.scrollTop += here.bottom - seen.bottom;
  else if (here.top < top) box.scrollTop -= top - here.top;
}

/** Shows the row that was written last. */
export const revealLast = () => reveal(cells().findLast((c) => !isBelow(c) && c.value !== "")?.closest("tr"));

/** Logs a reading into the chosen cell. @param {object} instrument */
export async function log(instrument) {
  // Without a choice the first empty cell is meant.
  if (!chosen || !current()) advance();
  const cell = current();
  if (!chosen || !cell) return;
  const { row, column } = chosen;
  // The reading may take its time; the next one goes to the next row.
  if (isBelow(cell)) appendEmptyRow(/** @type {HTMLTableRowElement} */ (cell.closest("tr")));
  const what = { row: rowAt(row), column: Number(column), instrument };
  const outcome = await send({ record: pointed ? { log_reading: what } : { log_beside: what } });
  // A reading that had its place in another column leaves this cell to the next one.
  if (outcome.done && (pointed || current()?.value !== "")) advance();
  if (!outcome.done) return;
  // The row that was written counts more than the one to come, if there is room for one only.
  reveal(current()?.closest("tr"));
  const written = cells().find((c) => c.dataset.row === row && c.dataset.column === column && c.value !== "");
  if (written) reveal(written.closest("tr"));
  else revealLast();
}

/** Enters a value that a curve gives: into the cell somebody pointed at, or the column that takes it. @param {HTMLElement} button */
async function enterDrawn(button) {
  const { drawn = "{}", into = "0", intoTable = "0", hint = "" } = button.dataset;
  const source = JSON.parse(drawn);
  if (pointed && current()) return log({ curve: { source } });
  if (hint) return notice(hint, false);
  const outcome = await send({ record: { log_drawn: { column: Number(into), like: source, all: false } } });
  if (outcome.done) await lookAt({ table: Number(intoTable), from: 0 }, ["record"]);
}

/** Chooses the first empty cell of the row a trial has begun: the last one that holds something. */
export function chooseTrial() {
  const filled = cells().filter((c) => !isBelow(c) && c.value !== "");
  const row = filled.at(-1)?.dataset.row;
  const empty = cells().find((c) => c.dataset.row === row && c.value === "");
  if (empty) [chosen, pointed] = [keyOf(empty), false];
  show();
  revealLast();
}

/** The place so many rows and columns away. @param {HTMLElement} place @param {number} rows @param {number} columns */
function beside(place, rows, columns) {
  const all = places();
  const width = Math.max(1, place.closest("tr")?.querySelectorAll("td input, td[data-about]").length ?? 1);
  const at = all.indexOf(place);
  if (columns !== 0 && Math.floor((at + columns) / width) !== Math.floor(at / width)) return null;
  return all[at + rows * width + columns] ?? null;
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
  if (!(cell instanceof HTMLInputElement) || !cell.dataset.column || !/[\t\n]/.test(text.trimEnd())) return;
  event.preventDefault();
  cell.value = cell.defaultValue;
  const { row, column } = keyOf(cell);
  void send({ record: { paste: { table: shown("part-record", "table"), row: isBelow(cell) ? "below" : rowAt(row), column: Number(column), text } } });
}

/** Brings a file: a table, or a logbook's zip. @param {File} file @param {boolean} asNew */
async function bring(file, asNew) {
  notice(words.reading(file.name), true);
  // What was typed before the file comes before it.
  await settled();
  const query = new URLSearchParams({ name: file.name, token: token() });
  if (!asNew) query.set("table", String(shown("part-record", "table")));
  try {
    const answer = await fetch(`${base}/import?${query}`, { method: "POST", body: file });
    const outcome = await answer.json();
    await lookAt(asNew && outcome.made.table !== null ? { table: outcome.made.table, from: 0 } : {}, ["record"]);
    notice(outcome.word, outcome.done);
    if (outcome.done) /** @type {HTMLDialogElement | null} */ (document.getElementById("table-dialog"))?.close();
  } catch {
    notice(words.fileLost(file.name), false);
  }
}

function startFiles() {
  const isNew = () => document.querySelector('#paste-form [name="table"][value="null"]:checked') !== null;
  document.addEventListener("change", (event) => {
    const input = event.target;
    if (input instanceof HTMLInputElement && input.matches("[data-import]") && input.files?.[0]) {
      void bring(input.files[0], isNew());
      input.value = "";
    }
    if (input instanceof HTMLInputElement && input.matches("[data-look-row]")) {
      void lookAt({ from: Math.max(0, Number.parseInt(input.value, 10) - 1 || 0) }, ["record"]);
    }
  });
  // A block that is pasted as a new table gets a name, and is looked at.
  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (!(form instanceof HTMLFormElement) || form.id !== "paste-form") return;
    const edit = JSON.parse(form.dataset.edit ?? "{}");
    edit.record.paste.name = `Table ${document.querySelectorAll("[data-look-table]").length + 2}`;
    form.dataset.edit = JSON.stringify(edit);
    if (isNew()) form.dataset.then = "";
    else delete form.dataset.then;
  }, true);
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
    void lookAt(lookTable ? { table: Number(lookTable), from: 0 } : { from: Number(lookFrom ?? 0) }, ["record"]);
  });
  // A word about the number of trials while it is typed.
  document.addEventListener("input", (event) => {
    const input = event.target;
    if (!(input instanceof HTMLInputElement) || !input.matches('#fill-form [name="count"]')) return;
    const { least = "0", most = "0" } = document.body.dataset;
    const line = document.querySelector("[data-advice]");
    if (line) line.textContent = words.trials(input.value, Number(least), Number(most));
  });
}

/** Tab goes on to the next cell while somebody types, and out of the table otherwise. @param {KeyboardEvent} event @param {HTMLInputElement} cell */
function tab(event, cell) {
  if (!isKept(cell) && beganIn === null) return;
  const all = cells();
  const next = all[all.indexOf(cell) + (event.shiftKey ? -1 : 1)];
  // An empty row that is not written in is where a row of values ends.
  if (!next || (!isKept(cell) && isBelow(cell))) {
    beganIn = null;
    return;
  }
  beganIn ??= cell.dataset.column ?? null;
  event.preventDefault();
  next.focus();
}

/** @param {KeyboardEvent} event */
function key(event) {
  const place = event.target;
  if (!(place instanceof HTMLElement) || !places().includes(place) || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === "Tab" && place instanceof HTMLInputElement) return tab(event, place);
  const down = { ArrowDown: 1, Enter: event.shiftKey ? -1 : 1, ArrowUp: -1 }[event.key] ?? 0;
  const right = { ArrowRight: 1, ArrowLeft: -1 }[event.key] ?? 0;
  if (down === 0 && (right === 0 || !leaves(place, right))) return;
  event.preventDefault();
  // A value that was refused is tried again as it stands: a partner may have made room for it.
  if (event.key === "Enter" && place instanceof HTMLInputElement && isRefused(place)) save(place);
  const to = beside(place, down, down === 0 ? right : 0);
  const first = event.key === "Enter" && beganIn !== null ? to?.closest("tr")?.querySelector(`input[data-column="${beganIn}"]`) : null;
  if (event.key !== "Tab") beganIn = null;
  /** @type {HTMLElement | null} */ (first ?? to)?.focus();
}

/** A row's buttons are one stop; arrows go from one to the next. @param {KeyboardEvent} event */
function alongRow(event) {
  const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
  const bar = event.target instanceof Element ? event.target.closest(".acts [role=toolbar]") : null;
  if (!by || !bar) return;
  const all = [...bar.querySelectorAll("button")];
  const next = all[(all.indexOf(/** @type {HTMLButtonElement} */ (event.target)) + by + all.length) % all.length];
  event.preventDefault();
  for (const button of all) button.tabIndex = button === next ? 0 : -1;
  next.focus();
}

export function startRecord() {
  document.addEventListener("paste", paste);
  document.addEventListener("keydown", alongRow);
  startFiles();
  document.addEventListener("focusin", (event) => {
    const cell = event.target;
    if (cell instanceof HTMLInputElement && cell.dataset.column && cell.closest("#part-record")) {
      [chosen, pointed] = [keyOf(cell), true];
      cell.select();
      show();
    }
    about(event);
  });
  document.addEventListener("pointerover", about);
  document.addEventListener("click", (event) => {
    const button = event.target instanceof Element ? event.target.closest("[data-drawn]") : null;
    if (button instanceof HTMLButtonElement) void enterDrawn(button);
  });
  // The next row is there with the first character of this one.
  document.addEventListener("input", (event) => {
    if (event.target instanceof HTMLInputElement && event.target.closest("#part-record tr[data-begun]")) keepEmptyRow();
  });
  document.addEventListener("keydown", key);
  document.addEventListener("pointerdown", () => (beganIn = null));
  onParts(show, "part-record", "part-stage");
  show();
}

/** @param {Event} event */
function about(event) {
  const place = event.target instanceof Element ? event.target.closest("[data-about]") : null;
  const line = document.getElementById("about");
  if (place && line) line.textContent = place.getAttribute("data-about");
}
