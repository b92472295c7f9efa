// The nodes of a path, typed in a small table: x and y of each, and the radius of a loop behind it.

/** The table's nodes as they are typed in one line. @param {Element} table */
function written(table) {
  return [...table.querySelectorAll("[data-node]")].map((row) => {
    const [x = "", y = "", ring = ""] = [...row.querySelectorAll("input")].map((i) => i.value.trim());
    return `${x} ${y}${ring === "" ? "" : ` loop ${ring}`}`;
  });
}

/** Sends the nodes through the field of the setting, which knows what to do with an answer. @param {Element} table @param {string[]} nodes */
function put(table, nodes) {
  const field = /** @type {HTMLInputElement | null} */ (table.parentElement?.querySelector("input[data-setting]"));
  if (!field) return;
  field.value = nodes.join("; ");
  field.dispatchEvent(new Event("input", { bubbles: true }));
  field.dispatchEvent(new Event("change", { bubbles: true }));
}

const number = (/** @type {string | undefined} */ text) => Number((text ?? "").replace(",", ".").replace("\u2212", "-"));

/** A node half-way to the next one, or a step behind the last. @param {string[]} nodes @param {number} at */
function between(nodes, at) {
  const place = (/** @type {number} */ i) => (nodes[i] ?? "").split(/\s+/).slice(0, 2).map(number);
  const [[x, y], [u, v]] = at + 1 < nodes.length ? [place(at), place(at + 1)] : [place(at), place(at).map((c, k) => c + 2 * (k === 0 ? 1 : 0))];
  return `${((x + u) / 2).toFixed(2)} ${((y + v) / 2).toFixed(2)}`;
}

export function startPaths() {
  document.addEventListener("change", (event) => {
    const cell = event.target instanceof Element ? event.target.closest("[data-node] input") : null;
    const table = cell?.closest("[data-nodes]");
    if (table) put(table, written(table));
  });
  document.addEventListener("click", (event) => {
    const button = event.target instanceof Element ? /** @type {HTMLElement | null} */ (event.target.closest("button[data-node-act]")) : null;
    const table = button?.closest("[data-nodes]");
    if (!button || !table) return;
    const nodes = written(table);
    const at = Number(button.closest("[data-node]")?.getAttribute("data-node"));
    if (button.dataset.nodeAct === "add") nodes.splice(at + 1, 0, between(nodes, at));
    else nodes.splice(at, 1);
    put(table, nodes);
  });
}
