// Arguments: a function that takes what is found.
// What is cut off when text is spaced as WCAG 2.2, 1.4.12 asks for: each as one line. The page is left as it was.
const wide = new CSSStyleSheet();
wide.replaceSync("* { line-height: 1.5 !important; letter-spacing: .12em !important; word-spacing: .16em !important } p { margin-bottom: 2em !important }");
const before = [...document.adoptedStyleSheets];
const scrolled = [...document.querySelectorAll("*")].map((e) => [e, e.scrollTop, e.scrollLeft]);
document.adoptedStyleSheets = [...before, wide];
const cut = [];
const hides = (style) => [style.overflowX, style.overflowY].some((o) => o === "hidden" || o === "clip");
const scrolls = (style) => [style.overflowX, style.overflowY].some((o) => o === "auto" || o === "scroll");
for (const e of document.querySelectorAll("body *")) {
  if (e.getClientRects().length === 0 || e.closest(".hush, svg, .skip") || ["checkbox", "radio", "file", "hidden"].includes(e.type)) continue;
  // A free text runs on in its field, as it is written; a value is seen whole.
  if (e.tagName === "INPUT" && !e.matches(".value, .record input")) continue;
  const field = e.tagName === "INPUT";
  if (!field && ![...e.childNodes].some((n) => n.nodeType === Node.TEXT_NODE && n.textContent.trim())) continue;
  const style = getComputedStyle(e);
  if (style.clipPath.startsWith("inset(50%")) continue;
  const say = (how, by) => cut.push(`${how}: ${e.tagName} ${e.id || e.className} “${(e.value ?? e.textContent).trim().slice(0, 40)}” by ${Math.round(by)} px`);
  // A name that is shortened says so with an ellipsis, and is whole elsewhere.
  if ((field || (hides(style) && style.textOverflow !== "ellipsis")) && e.scrollWidth > e.clientWidth + 1) say("to the right", e.scrollWidth - e.clientWidth);
  const box = e.getBoundingClientRect();
  for (let around = e.parentElement; around && around !== document.body; around = around.parentElement) {
    const outer = getComputedStyle(around);
    if (scrolls(outer) || around.matches(".hush") || outer.textOverflow === "ellipsis") break;
    const edge = around.getBoundingClientRect();
    if (hides(outer) && (box.right > edge.right + 1 || box.bottom > edge.bottom + 1)) {
      say(`out of ${around.id || around.className}`, Math.max(box.right - edge.right, box.bottom - edge.bottom));
      break;
    }
  }
}
document.adoptedStyleSheets = before;
// What follows sizes has settled again before anything else is done.
for (const [e, top, left] of scrolled) if (e.scrollTop !== top || e.scrollLeft !== left) e.scrollTo({ top, left, behavior: "instant" });
requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(() => arguments[0](cut))));
