// Pointing: what the mouse is over, and what is clicked, instead of what the page does with it.

/**
 * @param {Measure} measure
 * @param {Say} say
 */
function makePointing(measure, say) {
  const mark = makeMark();
  let isOn = false;
  /** @type {Element | null} */
  let under = null;

  /** @param {boolean} on */
  function set(on) {
    isOn = on;
    under = null;
    mark.draw(null);
  }

  /** @param {Event} event */
  function pointedAt(event) {
    const found = event.composedPath().find((node) => node instanceof Element);
    return found instanceof Element && found.getRootNode() === document ? found : event.target;
  }

  for (const kind of ["pointermove", "pointerover"]) {
    window.addEventListener(
      kind,
      (event) => {
        if (!isOn) return;
        const element = pointedAt(event);
        if (!(element instanceof Element) || element === under) return;
        under = element;
        mark.draw(element);
        say({ kind: "pointed", at: measure.measured(element) });
      },
      { capture: true, passive: true },
    );
  }

  for (const kind of ["pointerdown", "pointerup", "mousedown", "mouseup", "click", "dblclick", "auxclick"]) {
    window.addEventListener(
      kind,
      (event) => {
        if (!isOn) return;
        event.preventDefault();
        event.stopImmediatePropagation();
        const element = pointedAt(event);
        if (kind === "click" && element instanceof Element) {
          say({ kind: "chosen", at: measure.measured(element), sent: performance.timeOrigin + event.timeStamp });
        }
      },
      { capture: true },
    );
  }

  window.addEventListener("keydown", (event) => {
    if (isOn && event.key === "Escape") say({ kind: "escape" });
  });
  for (const kind of ["scroll", "resize"]) {
    window.addEventListener(kind, () => say({ kind: "moved" }), { capture: true, passive: true });
  }

  return { set };
}
