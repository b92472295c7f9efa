// Before the first paint: the margin and the step are as the person left them, so that nothing moves once the bench is ready.
(() => {
  const desk = /** @type {HTMLElement | null} */ (document.currentScript?.parentElement ?? null);
  if (!desk) return;
  /** @type {boolean | undefined} */
  let open;
  try {
    open = JSON.parse(sessionStorage.getItem(`margin ${document.body.dataset.logbook}`) ?? "{}").open;
  } catch {
    // As at first.
  }
  if (desk.dataset.margin === "true") desk.classList.toggle("with-hand", open ?? !matchMedia("(max-width: 900px)").matches);
  const step = location.hash.slice(1);
  if ((desk.dataset.steps ?? "").split(" ").includes(step)) desk.dataset.step = step;
})();
