// A teacher's films: bringing them. Deleting one is htmx's.
import { Intake } from "./intake.js";

new Intake("", () => location.reload());
document.addEventListener("click", (event) => {
  const target = event.target instanceof Element ? event.target.closest("button") : null;
  if (target?.dataset.open) /** @type {HTMLDialogElement} */ (document.getElementById(target.dataset.open)).showModal();
});
document.body.dataset.ready = "true";
