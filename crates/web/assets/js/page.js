// Pages around the bench: times in the reader's own clock, and the print button.
import { localTimes } from "./clock.js";

localTimes(document);
for (const button of document.querySelectorAll("[data-print]")) button.addEventListener("click", () => window.print());
