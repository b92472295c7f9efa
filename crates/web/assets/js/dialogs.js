// The dialogs: a column's form, handing in, the keys.
import { base, send, shown, writable } from "./edits.js";
import { onParts } from "./parts.js";
import { record } from "./words.js";

/** @param {string} id */
const dialog = (id) => /** @type {HTMLDialogElement} */ (document.getElementById(id));

/** Signs of formulas, and letters that a keyboard may not have. */
const SIGNS = ["√", "²", "³", "π"];
const LETTERS = [..."αβγδεηθκλμρσφωΔ"];

/** Buttons that put a symbol where the caret was last: into the formula, or into the column's own symbol. @param {HTMLFormElement} form */
function offerSymbols(form) {
  const group = form.querySelector("[data-symbols]");
  const own = dialog("column-dialog").dataset.symbol;
  const known = /** @type {string[]} */ (JSON.parse(document.getElementById("part-record")?.dataset.symbols ?? "[]"));
  const button = (/** @type {string} */ text, /** @type {string} */ css) =>
    Object.assign(document.createElement("button"), { type: "button", className: css, textContent: text });
  group?.replaceChildren(
    ...known.filter((s) => s !== own).map((s) => button(s, "formula small")),
    ...SIGNS.map((s) => button(s, "formula small")),
    document.createElement("hr"),
    ...LETTERS.map((s) => button(s, "small letter")),
  );
}

/** @param {HTMLFormElement} form @param {HTMLElement} button */
function putIn(form, button) {
  const formula = /** @type {HTMLInputElement} */ (form.elements.namedItem("formula"));
  const symbol = /** @type {HTMLInputElement} */ (form.elements.namedItem("symbol"));
  const letter = button.classList.contains("letter");
  const field = letter && (form.dataset.caret === "symbol" || formula.closest("label")?.hidden) ? symbol : formula;
  const [from, to] = [field.selectionStart ?? field.value.length, field.selectionEnd ?? field.value.length];
  field.setRangeText(button.textContent ?? "", from, to, "end");
  field.focus();
}

/** @param {HTMLElement} source */
function openColumn(source) {
  const { column = "new", kind = "worked", name = "", symbol = "", unit = "", formula = "", stem = "", runAside = "" } = source.dataset;
  const { precision_by = "resolution", precision_value = "", precision_parts = "1" } = source.dataset;
  const box = dialog("column-dialog");
  const form = /** @type {HTMLFormElement} */ (box.querySelector("form"));
  box.dataset.column = column;
  for (const [field, value] of Object.entries({ name, symbol, unit, formula, precision_by, precision_value, precision_parts: precision_parts || "1" })) {
    /** @type {HTMLInputElement} */ (form.elements.namedItem(field)).value = value;
  }
  /** @type {HTMLInputElement} */ (form.querySelector(`[name="kind"][value="${kind}"]`)).checked = true;
  const isNew = column === "new";
  dialog("column-title").textContent = isNew ? record.add : record.change(symbol);
  dialog("column-kinds").hidden = !isNew;
  /** @type {HTMLElement} */ (form.querySelector("[data-delete]")).hidden = isNew;
  dialog("column-error").hidden = true;
  dialog("simulation").replaceChildren();
  box.dataset.symbol = symbol;
  box.dataset.kind = kind;
  box.dataset.stem = stem;
  /** @type {HTMLInputElement} */ (form.querySelector("[data-why]")).value = runAside;
  delete form.dataset.caret;
  offerSymbols(form);
  showFormula(form);
  box.showModal();
  /** @type {HTMLInputElement} */ (form.elements.namedItem("name")).focus();
}

/** @param {HTMLFormElement} form */
function showFormula(form) {
  const worked = new FormData(form).get("kind") === "worked";
  /** @param {string} css @param {boolean} shown */
  const show = (css, shown) => form.querySelectorAll(css).forEach((element) => (/** @type {HTMLElement} */ (element).hidden = !shown));
  const { column = "new", kind, stem } = dialog("column-dialog").dataset;
  show(".formula", worked);
  show(".measured", !worked);
  show(".existing", column !== "new");
  show('[data-column-act="run"]', kind === "read");
  show('[data-column-act="simulate"]', kind === "worked");
  show(".runs", column !== "new" && Boolean(stem));
  const by = String(new FormData(form).get("precision_by"));
  show('[name="precision_value"]', by !== "resolution" && by !== "counting");
  show(".parts", by === "scale");
  const help = form.querySelector("[data-precision-help]");
  if (help) {
    help.textContent = record.precision[by] ?? record.precision.resolution;
  }
}

/** What can be done with a column beside changing it. @param {string} act */
async function columnAct(act) {
  const box = dialog("column-dialog");
  const column = Number(box.dataset.column);
  const why = /** @type {HTMLInputElement} */ (box.querySelector("[data-why]")).value;
  if (act === "simulate") {
    dialog("simulation").textContent = record.simulating;
    const answer = await fetch(`${base}/columns/${column}/simulation`);
    const html = await answer.text();
    if (answer.ok) dialog("simulation").innerHTML = html;
    else dialog("simulation").textContent = record.unsimulated;
    return;
  }
  /** @type {Record<string, object>} */
  const edits = {
    left: { move_column: { column, by: -1 } },
    right: { move_column: { column, by: 1 } },
    run: { add_run: { column } },
    aside: { set_run_aside: { column, why } },
    back: { set_run_aside: { column, why: null } },
  };
  const outcome = await send({ record: edits[act] });
  if (outcome.done && act !== "left" && act !== "right") box.close();
  say(outcome);
}

/** @param {import("./edits.js").Outcome} outcome */
function say(outcome) {
  const error = dialog("column-error");
  error.hidden = outcome.done;
  error.textContent = outcome.done ? "" : outcome.word;
  if (!outcome.done) document.getElementById("notice")?.setAttribute("hidden", "");
}

/** @param {HTMLElement} button */
function openRow(button) {
  const box = dialog("row-dialog");
  const { rowMenu = "", number = "", why = "", drawnCells = "[]" } = button.dataset;
  box.dataset.row = rowMenu;
  /** Cells that come from curves: column, symbol, where from, whether frozen. @type {[number, string, string, boolean][]} */
  const drawn = JSON.parse(drawnCells);
  const lines = drawn.map(([column, symbol, said, frozen]) => {
    const [line, act] = [document.createElement("p"), document.createElement("button")];
    Object.assign(act, { type: "button", textContent: frozen ? record.follow(symbol) : record.freeze(symbol) });
    act.title = frozen ? record.followed : record.frozen;
    act.dataset.edit = JSON.stringify({ record: { freeze: { row: Number(rowMenu), column, frozen: !frozen } } });
    act.dataset.close = "";
    line.className = "line";
    line.append(`${symbol}: ${said} `, act);
    return line;
  });
  dialog("row-drawn").replaceChildren(...lines);
  dialog("row-title").textContent = `Row ${number}`;
  /** @type {HTMLInputElement} */ (box.querySelector('[name="why"]')).value = why;
  box.showModal();
}

/** @param {string} act */
async function rowAct(act) {
  const box = dialog("row-dialog");
  const row = Number(box.dataset.row);
  const why = /** @type {HTMLInputElement} */ (box.querySelector('[name="why"]')).value;
  /** @type {Record<string, object>} */
  const edits = {
    above: { add_row: { table: shown("part-record", "table"), above: row } },
    up: { move_row: { row, by: -1 } },
    down: { move_row: { row, by: 1 } },
    aside: { set_aside: { row, aside: true, why } },
    back: { set_aside: { row, aside: false } },
  };
  const outcome = await send({ record: edits[act] });
  if (outcome.done && act !== "up" && act !== "down") box.close();
}

/** @param {SubmitEvent} event */
async function saveColumn(event) {
  event.preventDefault();
  const box = dialog("column-dialog");
  const form = /** @type {HTMLFormElement} */ (event.target);
  const data = Object.fromEntries([...new FormData(form)].map(([k, v]) => [k, String(v)]));
  const { kind, name, symbol, unit, precision_by, precision_value, precision_parts } = data;
  const precision = { by: precision_by, value: precision_value, parts: precision_parts };
  const text = { name, symbol, unit, formula: kind === "worked" ? data.formula : "", precision };
  const column = Number(box.dataset.column);
  const isNew = box.dataset.column === "new";
  const outcome = await send({ record: isNew ? { add_column: { table: shown("part-record", "table"), kind, text } } : { change_column: { column, text } } });
  if (outcome.done) {
    box.close();
    return;
  }
  const error = dialog("column-error");
  error.hidden = false;
  error.textContent = outcome.word;
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
    const column = /** @type {HTMLElement | null} */ (target?.closest("button[data-column]"));
    if (column && writable()) openColumn(column);
    const columnButton = /** @type {HTMLElement | null} */ (target?.closest("[data-column-act]"));
    if (columnButton) void columnAct(columnButton.dataset.columnAct ?? "");
    const rowMenu = /** @type {HTMLElement | null} */ (target?.closest("[data-row-menu]"));
    if (rowMenu) openRow(rowMenu);
    const rowButton = /** @type {HTMLElement | null} */ (target?.closest("[data-row-act]"));
    if (rowButton) void rowAct(rowButton.dataset.rowAct ?? "");
    const stretch = /** @type {HTMLElement | null} */ (target?.closest("[data-stretch-curve]"));
    if (stretch) openCurve(stretch.dataset);
    else if (opener?.dataset.open === "curve-dialog") aboutStretch(null);
    if (target?.closest("[data-close]")) target.closest("dialog")?.close();
    if (target?.closest("[data-hand-in]")) void send({ office: "hand_in" });
    if (target?.closest("[data-delete]")) {
      void send({ record: { delete_column: { column: Number(dialog("column-dialog").dataset.column) } } });
      dialog("column-dialog").close();
    }
  });
  document.addEventListener("submit", chooseCurve, true);
  const form = dialog("column-dialog").querySelector("form");
  form?.addEventListener("submit", (event) => void saveColumn(event));
  form?.addEventListener("change", () => showFormula(form));
  form?.addEventListener("focusout", (event) => {
    if (event.target instanceof HTMLInputElement && ["symbol", "formula"].includes(event.target.name)) form.dataset.caret = event.target.name;
  });
  form?.addEventListener("click", (event) => {
    const button = event.target instanceof Element ? event.target.closest("[data-symbols] button") : null;
    if (button instanceof HTMLElement) putIn(form, button);
  });
  // A part that was replaced while its dialog was open has lost the state of being modal.
  onParts(() => {
    for (const box of /** @type {NodeListOf<HTMLDialogElement>} */ (document.querySelectorAll("#part-record dialog, #part-graph dialog"))) {
      if (box.hasAttribute("open") && !box.matches(":modal")) {
        box.removeAttribute("open");
        box.showModal();
      }
    }
  }, "part-record", "part-graph");
}

/** Makes the curve's form one of a stretch, or of the whole graph. @param {number | null} stretch */
function aboutStretch(stretch) {
  const form = /** @type {HTMLFormElement} */ (document.getElementById("curve-form"));
  const edit = JSON.parse(form.dataset.edit ?? "{}");
  edit.graph.choose_fit.stretch = stretch;
  form.dataset.edit = JSON.stringify(edit);
}

/** What is chosen in the curve's form becomes part of its edit. @param {Event} event */
function chooseCurve(event) {
  const form = event.target;
  if (!(form instanceof HTMLFormElement) || form.id !== "curve-form") return;
  const [model, formula, start] = ["model", "formula", "start"].map((key) => /** @type {HTMLInputElement} */ (form.querySelector(`[data-${key}]`)).value);
  const edit = JSON.parse(form.dataset.edit ?? "{}");
  edit.graph.choose_fit.curve = model === "" ? "none" : model === "formula" ? { formula: { formula, start } } : { offered: model };
  form.dataset.edit = JSON.stringify(edit);
}

/** The curve of a stretch. @param {DOMStringMap} data */
function openCurve(data) {
  const form = /** @type {HTMLFormElement} */ (document.querySelector("#curve-dialog form"));
  aboutStretch(Number(data.stretchCurve));
  for (const key of ["model", "formula", "start"]) /** @type {HTMLInputElement} */ (form.querySelector(`[data-${key}]`)).value = data[key] ?? "";
  /** @type {HTMLInputElement | null} */ (form.querySelector(`[name="weighting"][value="${data.weighting}"]`))?.click();
  dialog("curve-dialog").showModal();
}

/** @param {string} id */
function open(id) {
  if (id === "hand-in-dialog") {
    const missing = document.getElementById("part-header")?.dataset.missing ?? "";
    dialog("hand-in-missing").textContent = record.missing(missing);
  }
  dialog(id)?.showModal();
}
