// What the teacher asks in front of the class: the page turns to it by itself, and what is sketched or picked is sent at once.
import { AS_DATA, reason } from "./answers.js";
import { startSketches } from "./sketch.js";
import "./page.js";
import { server } from "./words.js";

/** Milliseconds between two looks at what is asked. */
const EVERY = 3000;

const pad = document.getElementById("ask");
const shown = pad?.dataset.ask ?? "";

/** @param {string} words @param {boolean} good */
function say(words, good) {
  const told = document.getElementById("ask-said");
  if (!told) return;
  told.className = good ? "saved" : "said";
  told.textContent = words;
}

/** Sends one after the other, the last one last. @type {Promise<void>} */
let under = Promise.resolve();

/** @param {string} answer */
function send(answer) {
  under = under.then(async () => {
    try {
      const sent = await fetch(`/ask/${shown}`, { method: "POST", headers: { ...AS_DATA, "content-type": "application/json" }, body: JSON.stringify({ answer }) });
      say(await reason(sent), sent.ok);
    } catch {
      say(server.answerLost, false);
    }
  });
}

startSketches((_, points) => send(JSON.stringify(points)));
document.addEventListener("change", (event) => {
  if (event.target instanceof HTMLInputElement && event.target.name === "pick") send(event.target.value);
});

/** Turns to what is asked now, once nobody is drawing. */
async function look() {
  try {
    const answer = await fetch("/ask/now", { headers: AS_DATA });
    if (!answer.ok) return;
    const { ask } = await answer.json();
    const now = ask === null ? "" : String(ask);
    const link = document.getElementById("asked");
    if (link) link.hidden = now === "";
    else if (now !== shown) location.reload();
  } catch {
    // The next look will tell.
  }
}

window.setInterval(() => void look(), EVERY);
void look();
