// Lets a partner in: a code is made when it is asked for, shown, and gone when it is over.
import { clock } from "./clock.js";
import { notice, postJson } from "./edits.js";
import { server } from "./words.js";

export function startPartner() {
  document.addEventListener("click", async (event) => {
    const button = event.target instanceof Element ? event.target.closest("[data-partner]") : null;
    const place = button?.parentElement;
    if (!(button instanceof HTMLButtonElement) || !place) return;
    button.disabled = true;
    try {
      const answer = await postJson("/partner-code", {});
      const { code, until, word } = await answer.json();
      if (!answer.ok) throw new Error(word);
      const shown = document.createElement("b");
      shown.className = "code";
      shown.textContent = code;
      const moment = new Date(until * 1000);
      place.replaceChildren(server.partnerCode, shown, server.until(clock(moment)));
      setTimeout(() => place.replaceChildren(button), Math.max(0, moment.getTime() - Date.now()));
    } catch (error) {
      notice(error instanceof Error && error.message ? error.message : server.noCode, false);
    }
    button.disabled = false;
  });
}
