// Runs in the browser: whether each case is valid, and for a condition whether it holds.
const [cases] = arguments;
const fragment = document.createDocumentFragment();
function isValid([kind, text, value]) {
  switch (kind) {
    case "selector":
      try { fragment.querySelector(text); return true; } catch { return false; }
    case "value": return CSS.supports(text, value);
    case "media": return matchMedia(text).matches;
    case "supports": return CSS.supports(text);
  }
}
return cases.map(isValid);
