// The bench: everything that cannot wait for the server. Each module looks after one thing. A lab has runs or films, and a script of its
// own for each starts the bench with the one stage it needs.
import { startCard } from "./card.js";
import { localTimes } from "./clock.js";
import { startDialogs } from "./dialogs.js";
import { base, send, startEdits } from "./edits.js";
import { startFields } from "./fields.js";
import { startGraph } from "./graph.js";
import { startKeys } from "./keys.js";
import { startMargin } from "./margin.js";
import { startPointing } from "./point.js";
import { startLive } from "./live.js";
import { startModel } from "./model.js";
import { startOffice } from "./office.js";
import { startOutline } from "./outline.js";
import { beforeParts } from "./parts.js";
import { startPartner } from "./partner.js";
import { startRecord } from "./record.js";
import { startPaths } from "./path.js";
import { startSettings } from "./settings.js";
import { startSketches } from "./sketch.js";
import { startSteps } from "./steps.js";

/** Starts the bench around its stage. @param {() => import("./footage.js").FootageStage} stage */
export function startBench(stage) {
  startSteps();
  startMargin();
  startFields();
  startEdits();
  startRecord();
  startCard();
  startGraph();
  startDialogs();
  const own = stage();
  startKeys(own);
  startPointing(own);
  startSettings();
  startPaths();
  startSketches((channel, points) => void send({ forecast: { sketch: { channel, points } } }));
  startOffice();
  startOutline();
  startModel();
  startLive();
  startPartner();
  beforeParts(finish);
  finish(document);
  document.body.dataset.ready = "true";
}

/** What fragments cannot know: the reader's clock, and whose files the links are. @param {ParentNode} root */
function finish(root) {
  localTimes(root);
  for (const link of root.querySelectorAll("[data-export]")) link.setAttribute("href", `${base}/${link.getAttribute("data-export")}`);
}
