// Pointing: what the mouse is over, and what is clicked, instead of what the page does with it.

let pointing = false;
let under = null;

function setPointing(on) {
  pointing = on;
  under = null;
  drawMark(null);
}

function pointedAt(event) {
  const found = event.composedPath().find((node) => node.nodeType === Node.ELEMENT_NODE);
  return found?.getRootNode() === document ? found : event.target;
}

for (const kind of ["pointermove", "pointerover"]) {
  window.addEventListener(
    kind,
    (event) => {
      if (!pointing) return;
      const element = pointedAt(event);
      if (!(element instanceof Element) || element === under) return;
      under = element;
      drawMark(element);
      say({ kind: "pointed", at: measured(element) });
    },
    { capture: true, passive: true },
  );
}

for (const kind of ["pointerdown", "pointerup", "mousedown", "mouseup", "click", "dblclick", "auxclick"]) {
  window.addEventListener(
    kind,
    (event) => {
      if (!pointing) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      const element = pointedAt(event);
      if (kind === "click" && element instanceof Element) {
        say({ kind: "chosen", at: measured(element), sent: performance.timeOrigin + event.timeStamp });
      }
    },
    { capture: true },
  );
}

window.addEventListener("keydown", (event) => {
  if (pointing && event.key === "Escape") say({ kind: "escape" });
});

for (const kind of ["scroll", "resize"]) {
  window.addEventListener(kind, () => say({ kind: "moved" }), { capture: true, passive: true });
}
