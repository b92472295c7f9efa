// The bench of a lab with a rig.
import { startBench } from "./bench.js";
import { RigStage } from "./stage.js";

startBench(() => new RigStage());
