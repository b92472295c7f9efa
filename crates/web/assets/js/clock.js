// Shows stored moments in the reader's own time zone.

/** @param {ParentNode} root */
export function localTimes(root) {
  for (const element of root.querySelectorAll("time[datetime]")) {
    const moment = new Date(element.getAttribute("datetime") ?? "");
    if (Number.isNaN(moment.getTime())) continue;
    const today = moment.toDateString() === new Date().toDateString();
    const time = moment.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hour12: false });
    element.classList.add("local");
    element.textContent = today ? time : `${moment.toLocaleDateString()} ${time}`;
  }
}
