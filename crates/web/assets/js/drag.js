// A pointer that was pressed is followed until it is let go, or taken away.

/**
 * Follows the pointer of a press, wherever it goes.
 * @param {Element} element what has the pointer meanwhile
 * @param {PointerEvent} pressed
 * @param {(event: PointerEvent) => void} moved
 * @param {(event: PointerEvent, kept: boolean) => void} ended `kept` is false where the pointer was taken away, as by the system's own gesture
 */
export function whileHeld(element, pressed, moved, ended) {
  element.setPointerCapture(pressed.pointerId);
  const own = (/** @type {Event} */ event) => event instanceof PointerEvent && event.pointerId === pressed.pointerId;
  const move = (/** @type {Event} */ event) => {
    if (own(event)) moved(/** @type {PointerEvent} */ (event));
  };
  const end = (/** @type {Event} */ event) => {
    if (!own(event)) return;
    element.removeEventListener("pointermove", move);
    element.removeEventListener("pointerup", end);
    element.removeEventListener("pointercancel", end);
    ended(/** @type {PointerEvent} */ (event), event.type === "pointerup");
  };
  element.addEventListener("pointermove", move);
  element.addEventListener("pointerup", end);
  element.addEventListener("pointercancel", end);
}
