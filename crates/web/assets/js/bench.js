// The bench: everything that cannot wait for the server. Each module looks after one thing.
import { localTimes } from "./clock.js";
import { startDialogs } from "./dialogs.js";
import { base, startEdits } from "./edits.js";
import { startFields } from "./fields.js";
import { startGraph } from "./graph.js";
import { startKeys } from "./keys.js";
import { startLive } from "./live.js";
import { onParts } from "./parts.js";
import { startRecord } from "./record.js";
import { startSettings } from "./settings.js";
import { startSketches } from "./sketch.js";
import { startSteps } from "./steps.js";

startSteps();
startFields();
startEdits();
startRecord();
startGraph();
startDialogs();
// A lab has runs or films, and needs the scripts of one of them only.
const stage = document.body.dataset.filmed === "true" ? await filmed() : new (await import("./stage.js")).RigStage();
startKeys(stage);
startSettings();
startSketches();
startLive();
onParts(finish);
finish();
document.body.dataset.ready = "true";

/** What fragments cannot know: the reader's clock, and whose files the links are. */
function finish() {
  localTimes(document);
  for (const link of document.querySelectorAll("[data-export]")) link.setAttribute("href", `${base}/${link.getAttribute("data-export")}`);
}

/** The stage of a filmed lab, and the dialog that brings films to it. */
async function filmed() {
  const { FilmStage, choose } = await import("./film.js");
  if (document.getElementById("film-dialog")) {
    const { Intake } = await import("./intake.js");
    new Intake(base, (key) => choose(key));
  }
  return new FilmStage();
}
