// What the server says of something it did not do, as data.
import { server } from "./words.js";

/** Sent with a request, so that a refusal comes as an outcome and not as a page. */
export const AS_DATA = { accept: "application/json" };

/** The words of a refusal. @param {{ word?: string } | null} outcome @param {number} status */
export const wordOf = (outcome, status) => outcome?.word ?? server.answered(status);

/** What the server says of a refusal. @param {Response} answer */
export const reason = async (answer) => wordOf(await answer.json().catch(() => null), answer.status);
