// The page of a class: what moves is shown as it does.
import { localTimes } from "./clock.js";
import "./page.js";

/** Rest after a move before the table is fetched, in ms: a room of thirty moves all the time. */
const REST = 1000;

const table = () => document.getElementById("standings");
const address = `/classes/${table()?.dataset.class}`;
/** @type {ReturnType<typeof setTimeout> | undefined} */
let later;

async function refresh() {
  later = undefined;
  const answer = await fetch(`${address}/standings`).catch(() => null);
  const old = table();
  if (!answer?.ok || answer.redirected || !old) return;
  const template = document.createElement("template");
  template.innerHTML = await answer.text();
  const [fresh] = template.content.children;
  const [body, now] = [old.querySelector("tbody"), fresh?.querySelector("tbody")];
  // Only cells that changed are replaced, so that a link somebody is about to follow stays.
  if (body && now && body.rows.length === now.rows.length) {
    [...now.rows].forEach((row, r) => [...row.cells].forEach((cell, c) => {
      const before = body.rows[r].cells[c];
      localTimes(cell);
      if (before && before.innerHTML !== cell.innerHTML) before.innerHTML = cell.innerHTML;
    }));
  } else if (fresh) {
    localTimes(fresh);
    old.replaceWith(fresh);
  }
}

if (table()) {
  const source = new EventSource(`${address}/events`);
  source.addEventListener("moved", () => (later ??= setTimeout(() => void refresh(), REST)));
  window.addEventListener("pagehide", () => source.close());
}
