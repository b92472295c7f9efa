// The bench: everything that cannot wait for the server. Each module looks after one thing.
import { localTimes } from "./clock.js";
import { startDialogs } from "./dialogs.js";
import { onParts, startEdits } from "./edits.js";
import { startGraph } from "./graph.js";
import { choose } from "./film.js";
import { Intake } from "./intake.js";
import { startKeys } from "./keys.js";
import { startLive } from "./live.js";
import { startRecord } from "./record.js";
import { startSettings } from "./settings.js";
import { startSketches } from "./sketch.js";
import { startStage } from "./stage.js";
import { startSteps } from "./steps.js";

startSteps();
startEdits();
startRecord();
startGraph();
startDialogs();
const stage = startStage();
startKeys(stage);
startSettings();
startSketches();
if (document.getElementById("film-dialog")) new Intake(`/logbooks/${document.body.dataset.logbook}`, (key) => void choose(key));
startLive();
onParts(() => localTimes(document));
localTimes(document);
document.body.dataset.ready = "true";
