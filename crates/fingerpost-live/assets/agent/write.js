// Writing on the page itself.

const ASKED = "data-fingerpost-asked";

/**
 * @param {Elements} elements
 * @param {ReturnType<typeof makePointing>} pointing
 * @param {Say} say
 */
function makeWriting(elements, pointing, say) {
  /** @type {HTMLElement | null} */
  let writing = null;

  /**
   * @param {Element | undefined} element
   * @param {boolean} on
   */
  function write(element, on) {
    writing?.removeAttribute("contenteditable");
    writing = null;
    if (!on || !(element instanceof HTMLElement)) return;
    pointing.set(false);
    writing = element;
    element.setAttribute("contenteditable", "plaintext-only");
    element.focus();
    const range = document.createRange();
    range.selectNodeContents(element);
    const selection = getSelection();
    selection?.removeAllRanges();
    selection?.addRange(range);
  }

  document.addEventListener("input", (event) => {
    if (writing && event.target === writing) {
      say({ kind: "typed", of: elements.named(writing), text: writing.textContent });
    }
  });
  window.addEventListener(
    "keydown",
    (event) => {
      if (!writing || (event.key !== "Escape" && event.key !== "Enter")) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      write(undefined, false);
      say({ kind: "written" });
    },
    { capture: true },
  );

  return { write };
}

/**
 * What the browser shows, with a mark on an element that a script made.
 * @param {Element | undefined} element
 */
function markupWith(element) {
  if (!element) return "";
  element.setAttribute(ASKED, "");
  const markup = `<!doctype html>${document.documentElement.outerHTML}`;
  element.removeAttribute(ASKED);
  return markup;
}
