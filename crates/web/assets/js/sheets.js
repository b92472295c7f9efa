// The list of sheets: found by typing, and brought from a file.
import "./page.js";

document.addEventListener("input", (event) => {
  const field = event.target;
  if (!(field instanceof HTMLInputElement) || !field.dataset.filter) return;
  const words = field.value.toLowerCase().split(/\s+/).filter((w) => w !== "");
  for (const row of /** @type {HTMLTableRowElement[]} */ ([...(document.getElementById(field.dataset.filter)?.children ?? [])])) {
    const text = row.innerText.toLowerCase();
    row.hidden = !words.every((word) => text.includes(word));
  }
});

document.addEventListener("change", (event) => {
  const input = event.target;
  const file = input instanceof HTMLInputElement && input.dataset.bring !== undefined ? input.files?.[0] : undefined;
  const form = /** @type {HTMLFormElement | null} */ (document.getElementById("bring"));
  if (!file || !form) return;
  void file.text().then((text) => {
    /** @type {HTMLTextAreaElement} */ (form.elements.namedItem("source")).value = text;
    form.submit();
  });
});
