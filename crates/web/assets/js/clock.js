// Shows stored moments in the reader's own time zone.

/** Hours and minutes of a moment. Written by hand: the browser's own formats take a hundred milliseconds on a school tablet when the first is
 * made, which is when a run begins to play. @param {Date} moment */
export const clock = (moment) => [moment.getHours(), moment.getMinutes()].map((n) => String(n).padStart(2, "0")).join(":");

/** @param {ParentNode} root */
export function localTimes(root) {
  for (const element of root.querySelectorAll("time[datetime]")) {
    const moment = new Date(element.getAttribute("datetime") ?? "");
    if (Number.isNaN(moment.getTime())) continue;
    const today = moment.toDateString() === new Date().toDateString();
    const time = clock(moment);
    element.classList.add("local");
    element.textContent = today ? time : `${moment.toLocaleDateString()} ${time}`;
  }
}
