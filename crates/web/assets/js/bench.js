// The bench: everything that cannot wait for the server. Each module looks after one thing.
import { localTimes } from "./clock.js";
import { startDialogs } from "./dialogs.js";
import { onParts, startEdits } from "./edits.js";
import { startGraph } from "./graph.js";
import { startKeys } from "./keys.js";
import { startLive } from "./live.js";
import { startRecord } from "./record.js";
import { startStage } from "./stage.js";
import { startSteps } from "./steps.js";

startSteps();
startEdits();
startRecord();
startGraph();
startDialogs();
const stage = startStage();
startKeys(stage);
startLive();
onParts(() => localTimes(document));
localTimes(document);
document.body.dataset.ready = "true";
