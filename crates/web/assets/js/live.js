// Partners see each other's changes: the server tells the number of every new edit, and what changed is fetched.
import { catchUpWithOthers } from "./edits.js";
import { onParts } from "./parts.js";

const texts = () => document.getElementById("part-header")?.dataset.texts;

/** Fetches the texts of the sheet anew once it has grown; nothing else of the page is touched. */
function startTexts() {
  let shown = texts();
  onParts(() => {
    if (texts() === shown) return;
    shown = texts();
    void fetch(location.pathname)
      .then((answer) => (answer.ok ? answer.text() : ""))
      .then((html) => {
        const fresh = new DOMParser().parseFromString(html, "text/html");
        for (const place of [".parts > .sheet", ".hand .instructions"]) {
          const [now, then] = [document.querySelector(place), fresh.querySelector(place)];
          if (now && then) now.replaceChildren(...then.childNodes);
        }
      });
  });
}

export function startLive() {
  const source = new EventSource(`/logbooks/${document.body.dataset.logbook}/events`);
  source.addEventListener("moved", (event) => void catchUpWithOthers(Number(event.data)));
  // What the teacher asks of the whole class is answered on a page of its own.
  source.addEventListener("asked", (event) => document.querySelector("#asked a")?.toggleAttribute("hidden", event.data !== "true"));
  window.addEventListener("pagehide", () => source.close());
  startTexts();
  document.getElementById("full-screen")?.addEventListener("click", () => {
    if (document.fullscreenElement) void document.exitFullscreen();
    else void document.documentElement.requestFullscreen();
  });
}
