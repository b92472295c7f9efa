// The spine: each step leans the same parts of the bench. Nothing is loaded and nothing is lost in between.

/** The steps of this lab, in order. */
export const steps = () => [...document.querySelectorAll(".spine a")].map((a) => a.getAttribute("data-step") ?? "");

/** Leans the bench to a step. The browser's Back leads to the step before. @param {string} step @param {boolean} [anew] whether it is a place of its own to come back to */
export function goTo(step, anew = true) {
  if (!steps().includes(step)) return;
  const desk = document.querySelector(".desk");
  desk?.setAttribute("data-step", step);
  for (const link of document.querySelectorAll(".spine a")) {
    if (link.getAttribute("data-step") === step) link.setAttribute("aria-current", "step");
    else link.removeAttribute("aria-current");
  }
  const address = `#${step}`;
  if (anew && location.hash !== address) history.pushState(null, "", address);
  else history.replaceState(null, "", address);
  // What had the focus may not be there in this step: then the step has it, so that it is not lost to the page.
  const focus = document.activeElement;
  if (focus && focus !== document.body && focus.getClientRects().length === 0) {
    /** @type {HTMLElement | null} */ (document.querySelector(`.spine a[data-step="${step}"]`))?.focus();
  }
  document.dispatchEvent(new CustomEvent("step", { detail: step }));
}

/** The step the desk leans to. */
export const atStep = () => document.querySelector(".desk")?.getAttribute("data-step") ?? "";

/** The part a step is about. @type {Record<string, string>} */
const PARTS = { forecast: "#part-forecast", measure: "#part-stage", graph: "#part-graph", linearize: "#part-graph", model: "#part-model", constant: "#part-constant", "write-up": "#part-texts" };

export function startSteps() {
  // Whoever skips comes to what the step is about, wherever it stands among the parts.
  document.querySelector("a.skip")?.addEventListener("click", (event) => {
    const part = /** @type {HTMLElement | null} */ (document.querySelector(PARTS[atStep()] ?? "#parts > .sheet"));
    if (!part) return;
    event.preventDefault();
    if (!part.hasAttribute("tabindex")) part.tabIndex = -1;
    part.focus();
  });
  document.addEventListener("click", (event) => {
    const link = event.target instanceof Element ? event.target.closest("a[data-step]") : null;
    if (!link) return;
    event.preventDefault();
    goTo(link.getAttribute("data-step") ?? "");
  });
  window.addEventListener("popstate", () => goTo(location.hash.slice(1), false));
  const asked = location.hash.slice(1);
  goTo(steps().includes(asked) ? asked : "question", false);
}
