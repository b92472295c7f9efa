// Marking by key: from criterion to criterion, from logbook to logbook, a level with one key. The buttons do the work.
import { localTimes } from "./clock.js";
import { server } from "./words.js";

localTimes(document);

/** The criterion at hand, from 0. */
let at = 0;

const criteria = () => [...document.querySelectorAll(".criterion")];

function show() {
  const all = criteria();
  at = Math.max(0, Math.min(at, all.length - 1));
  all.forEach((criterion, i) => criterion.classList.toggle("at-hand", i === at));
  all[at]?.scrollIntoView({ block: "nearest" });
}

/** @param {HTMLElement | null | undefined} element */
const press = (element) => element?.click();

document.addEventListener("keydown", (event) => {
  const focus = document.activeElement;
  const typing = focus instanceof HTMLTextAreaElement || focus instanceof HTMLSelectElement || focus instanceof HTMLInputElement;
  if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
  const levels = /** @type {HTMLElement[]} */ ([...(criteria()[at]?.querySelectorAll("button.level") ?? [])]);
  const digit = /^[1-8]$/.test(event.key) ? levels[Number(event.key) - 1] : undefined;
  if (digit) {
    // A level that stands is not taken back by pressing its key again.
    if (digit.getAttribute("aria-pressed") !== "true") press(digit);
    at += 1;
  } else if (event.key.toLowerCase() === "a") {
    const proposed = levels.find((level) => level.classList.contains("proposed"));
    if (proposed && proposed.getAttribute("aria-pressed") !== "true") press(proposed);
    if (proposed) at += 1;
  } else if (event.key === "ArrowDown") at += 1;
  else if (event.key === "ArrowUp") at -= 1;
  else if (event.key.toLowerCase() === "j") return press(document.getElementById("next"));
  else if (event.key.toLowerCase() === "k") return press(document.getElementById("before"));
  else return;
  event.preventDefault();
  show();
});

document.addEventListener("click", (event) => {
  const criterion = event.target instanceof Element ? event.target.closest(".criterion") : null;
  if (criterion) at = criteria().indexOf(criterion);
});
document.addEventListener("htmx:afterSettle", show);
document.addEventListener("htmx:afterRequest", (event) => {
  const form = event.target;
  if (!(form instanceof HTMLFormElement) || form.dataset.note === undefined) return;
  const answer = /** @type {any} */ (event).detail.xhr;
  const outcome = JSON.parse(answer.responseText || "{}");
  const told = form.querySelector("[data-told]");
  if (told) told.textContent = outcome.done ? server.marked : (outcome.word ?? server.unsent);
  if (outcome.done) form.reset();
});
show();
