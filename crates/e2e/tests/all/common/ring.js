// Focuses everything that can have the focus, one after the other, and gives what then has no ring of at least 3 : 1 against what it
// lies on (WCAG 2.2, 1.4.11 and 2.4.7; relative luminance as defined there).
const channels = (colour) => (colour.match(/[\d.]+/g) ?? []).map(Number);
const luminance = (colour) => {
  const [r, g, b] = channels(colour).map((c) => (c / 255 <= 0.04045 ? c / 255 / 12.92 : ((c / 255 + 0.055) / 1.055) ** 2.4));
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
};
const ratio = (a, b) => {
  const [low, high] = [luminance(a), luminance(b)].sort((x, y) => x - y);
  return (high + 0.05) / (low + 0.05);
};
const below = (element) => {
  for (let at = element; at; at = at.parentElement) {
    const colour = getComputedStyle(at).backgroundColor;
    if ((channels(colour)[3] ?? 1) === 1) return colour;
  }
  return "rgb(255, 255, 255)";
};
/** What shows the focus: the outline, or a stroke of its own in a drawing. */
const rings = (element) => {
  const style = getComputedStyle(element);
  if (style.outlineStyle !== "none" && parseFloat(style.outlineWidth) >= 2) return [style.outlineColor];
  const strokes = [...element.querySelectorAll("path, circle, rect")].map((part) => getComputedStyle(part));
  return strokes.filter((s) => s.stroke !== "none" && parseFloat(s.strokeWidth) >= 2).map((s) => s.stroke);
};
const before = document.activeElement;
const all = document.querySelectorAll("a[href], button, input, select, textarea, summary, [tabindex]");
const unseen = [];
for (const element of all) {
  if (element.tabIndex < 0 || element.disabled || !element.checkVisibility({ visibilityProperty: true })) continue;
  element.focus({ preventScroll: true });
  if (document.activeElement !== element) continue;
  const ground = below(element.parentElement ?? element);
  if (!rings(element).some((colour) => ratio(colour, ground) >= 3)) {
    unseen.push(`${element.tagName} ${element.id} ${element.getAttribute("class") ?? ""} ${rings(element)} on ${ground}`);
  }
}
before?.focus?.({ preventScroll: true });
return unseen;
