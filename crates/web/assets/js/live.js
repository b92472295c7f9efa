// Partners see each other's changes: the server tells the number of every new edit, and what changed is fetched.
import { catchUp } from "./edits.js";

export function startLive() {
  const source = new EventSource(`/logbooks/${document.body.dataset.logbook}/events`);
  source.addEventListener("moved", (event) => void catchUp(Number(event.data)));
  window.addEventListener("pagehide", () => source.close());
}
