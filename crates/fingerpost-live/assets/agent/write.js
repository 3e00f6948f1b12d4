// Writing on the page itself.

let writing = null;

function write(element, on) {
  if (writing) {
    writing.removeAttribute("contenteditable");
    writing = null;
  }
  if (!on || !element) return;
  setPointing(false);
  writing = element;
  element.setAttribute("contenteditable", "plaintext-only");
  element.focus();
  const range = document.createRange();
  range.selectNodeContents(element);
  getSelection().removeAllRanges();
  getSelection().addRange(range);
}

document.addEventListener("input", (event) => {
  if (writing && event.target === writing) {
    say({ kind: "typed", of: named(writing), text: writing.textContent });
  }
});
window.addEventListener(
  "keydown",
  (event) => {
    if (!writing || (event.key !== "Escape" && event.key !== "Enter")) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    write(null, false);
    say({ kind: "written" });
  },
  { capture: true },
);

// What the browser shows, for an element that a script made.
function markupWith(element) {
  if (!element) return "";
  element.setAttribute(ASKED, "");
  const markup = `<!doctype html>${document.documentElement.outerHTML}`;
  element.removeAttribute(ASKED);
  return markup;
}
