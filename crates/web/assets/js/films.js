// A teacher's films: bringing and deleting them.
import { Intake } from "./intake.js";

new Intake("", () => location.reload());
document.addEventListener("click", (event) => {
  const target = event.target instanceof Element ? event.target.closest("button") : null;
  if (target?.dataset.open) /** @type {HTMLDialogElement} */ (document.getElementById(target.dataset.open)).showModal();
  const film = target?.dataset.deleteFilm;
  if (film && confirm("Delete this film? Sheets that name it show it no more.")) {
    void fetch(`/films/${film}`, { method: "DELETE" }).then(() => location.reload());
  }
});
document.body.dataset.ready = "true";
