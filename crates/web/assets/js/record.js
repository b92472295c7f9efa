// The record: which cell is chosen, moving between cells, and where a value came from.
import { onParts, send, settled, writable } from "./edits.js";

/** The chosen cell as row and column; "new" is the empty row below. @type {{ row: string, column: string } | null} */
let chosen = null;

const cells = () => /** @type {HTMLInputElement[]} */ ([...document.querySelectorAll("#part-record td input")]);

/** @param {HTMLInputElement} cell */
const keyOf = (cell) => ({ row: cell.dataset.row ?? "", column: cell.dataset.column ?? "" });

function show() {
  for (const cell of cells()) {
    cell.classList.toggle("chosen", chosen !== null && cell.dataset.row === chosen.row && cell.dataset.column === chosen.column);
  }
  const target = document.getElementById("target");
  const cell = current();
  if (target) {
    target.textContent = cell ? `The next reading goes to ${cell.getAttribute("aria-label")}.` : "Choose a cell of the record: readings go there.";
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

/** @param {HTMLInputElement} cell @param {number} rows */
function moveRow(cell, rows) {
  const column = cells().filter((c) => c.dataset.column === cell.dataset.column);
  column[column.indexOf(cell) + rows]?.focus();
}

export function startRecord() {
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
    const cell = event.target;
    if (!(cell instanceof HTMLInputElement) || cell.dataset.edit !== "type_cell") return;
    if (event.key === "ArrowDown" || event.key === "ArrowUp" || event.key === "Enter") {
      event.preventDefault();
      // Leaving the cell saves it. Below the last row a new one appears first.
      const rows = event.key === "ArrowUp" ? -1 : 1;
      const { id } = cell;
      if (rows === 1 && id.startsWith("cell-new")) {
        cell.blur();
        void settled().then(() => document.getElementById(id)?.focus());
      } else moveRow(cell, rows);
    } else if (event.key === "Escape") {
      cell.value = cell.defaultValue;
    }
  });
  onParts(show);
  if (writable()) show();
}

/** @param {Event} event */
function about(event) {
  const place = event.target instanceof Element ? event.target.closest("[data-about]") : null;
  const line = document.getElementById("about");
  if (place && line) line.textContent = place.getAttribute("data-about");
}
