// Pages around the bench: times in the reader's own clock, and the print button.
import { localTimes } from "./clock.js";

localTimes(document);
// What htmx puts in comes with the server's clock.
document.addEventListener("htmx:afterSettle", () => localTimes(document));
for (const button of document.querySelectorAll("[data-print]")) button.addEventListener("click", () => window.print());

// What is to be said once is said until it was understood on this device.
for (const once of document.querySelectorAll("[data-once]")) {
  const key = `zeitmass-seen-${/** @type {HTMLElement} */ (once).dataset.once}`;
  if (localStorage.getItem(key)) once.remove();
  once.querySelector("[data-seen]")?.addEventListener("click", () => {
    localStorage.setItem(key, "yes");
    once.remove();
  });
}
