// The bench of a lab with films: their stage, and the dialog that brings films to it.
import { base } from "./edits.js";
import { startBench } from "./bench.js";
import { FilmStage, choose } from "./film.js";
import { Intake } from "./intake.js";

startBench(() => {
  if (document.getElementById("film-dialog")) new Intake(base, (key) => void choose(key));
  return new FilmStage();
});
