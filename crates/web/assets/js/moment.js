// Asking a moment: the panel that tells what a trail or a run does at the frame on the stage.

const base = `/logbooks/${document.body.dataset.logbook}`;
/** Rest after the last step before the server is asked, in ms. */
const REST = 120;

/** @type {ReturnType<typeof setTimeout> | undefined} */
let later;

/** The mass as typed. */
export const mass = () => /** @type {HTMLInputElement | null} */ (document.getElementById("moment-mass"))?.value ?? "";

/** Asks, if somebody looks at the panel. @param {Record<string, string | number | boolean | null>} of the frame, and the trail if it is not a run @param {() => void} then */
export function askMoment(of, then) {
  const box = /** @type {HTMLDetailsElement | null} */ (document.querySelector(".moment-box"));
  clearTimeout(later);
  if (!box?.open) return;
  later = setTimeout(async () => {
    const fields = Object.fromEntries(Object.entries({ ...of, mass: mass() }).filter(([, v]) => v !== null).map(([k, v]) => [k, String(v)]));
    const answer = await fetch(`${base}/moment?${new URLSearchParams(fields)}`);
    const target = document.getElementById("moment");
    if (target && answer.ok) {
      target.innerHTML = await answer.text();
      then();
    }
  }, REST);
}
