// The sheet at hand: a margin beside the spine with the questions and instructions of the step. It opens and closes, and remembers where one
// was; the spine shows as rings how many questions of each step are open.
import { onParts } from "./parts.js";
import { questions } from "./words.js";

const NARROW = matchMedia("(max-width: 900px)");
const key = `margin ${document.body.dataset.logbook}`;

const hand = () => document.getElementById("hand");
const body = () => document.getElementById("hand-body");

/** Where the margin stood in each step, and whether it is open. @type {{ open?: boolean, at: Record<string, number> }} */
const kept = { at: {} };

/** The step the bench is at. */
const step = () => document.querySelector(".desk")?.getAttribute("data-step") ?? "";

function keep() {
  try {
    sessionStorage.setItem(key, JSON.stringify(kept));
  } catch {
    // A browser that keeps nothing opens it as at first.
  }
}

/** @param {boolean} open */
function show(open) {
  document.querySelector(".desk")?.classList.toggle("with-hand", open);
  document.getElementById("hand-tab")?.setAttribute("aria-expanded", String(open));
}

const isOpen = () => document.querySelector(".desk")?.classList.contains("with-hand") ?? false;

export function toggleMargin() {
  if (!hand()) return;
  kept.open = !isOpen();
  keep();
  show(kept.open);
  if (kept.open) back();
}

/** Brings the margin back to where it was in this step. */
function back() {
  const box = body();
  if (box) box.scrollTop = kept.at[step()] ?? 0;
}

/** Rings on the spine: one a question, filled once it is answered. */
function rings() {
  for (const link of document.querySelectorAll(".spine a")) {
    const own = /** @type {HTMLElement | null} */ (document.querySelector(`#part-questions [data-for="${link.getAttribute("data-step")}"]`));
    let line = link.querySelector(".rings");
    if (!own) {
      line?.remove();
      continue;
    }
    const [total, open] = [Number(own.dataset.total), Number(own.dataset.open)];
    if (!line) {
      line = Object.assign(document.createElement("span"), { className: "rings" });
      link.append(line);
    }
    link.setAttribute("data-stamp", own.dataset.stamp ?? "");
    const dots = Array.from({ length: total }, (_, i) => Object.assign(document.createElement("i"), { className: i < total - open ? "done" : "" }));
    for (const dot of dots) dot.setAttribute("aria-hidden", "true");
    const words = Object.assign(document.createElement("span"), { className: "hush", textContent: questions.open(open, total) });
    line.replaceChildren(...dots, words);
  }
}

export function startMargin() {
  const box = body();
  if (!box) return;
  try {
    Object.assign(kept, JSON.parse(sessionStorage.getItem(key) ?? "{}"));
  } catch {
    // What is not readable is begun anew.
  }
  show(kept.open ?? !NARROW.matches);
  document.getElementById("hand-tab")?.addEventListener("click", toggleMargin);
  box.addEventListener("scroll", () => {
    kept.at[step()] = box.scrollTop;
    keep();
  }, { passive: true });
  new MutationObserver(back).observe(/** @type {Element} */ (document.querySelector(".desk")), { attributeFilter: ["data-step"] });
  onParts(rings);
  rings();
  back();
}
