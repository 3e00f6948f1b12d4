// Assumed states, hiding, and larger text.

const own = new CSSStyleSheet();
let textSize = "";
let isAlone = false;
let isAside = false;

// A sheet of our own is there only while it does something.
function refreshOwn() {
  const rules = [];
  if (textSize) rules.push(`:root { font-size: ${Number(textSize)}% !important }`);
  if (isAside) rules.push(`[${ASIDE}=hide] { display: none !important }`);
  if (isAlone) {
    rules.push("body * { visibility: hidden !important }");
    rules.push(`[${ASIDE}=alone], [${ASIDE}=alone] * { visibility: visible !important }`);
  }
  own.replaceSync(rules.join("\n"));
  const rest = [...document.adoptedStyleSheets].filter((sheet) => sheet !== own);
  document.adoptedStyleSheets = rules.length ? [...rest, own] : rest;
}

// Whoever is hovered, pressed or holds the focus, its containers are too.
const SPREADS = { hover: "hover", active: "active", focus: "focus-within", "focus-visible": "focus-within" };

function holdIn(element, states) {
  for (const held of document.querySelectorAll(`[${HELD}]`)) held.removeAttribute(HELD);
  if (!element) return;
  const add = (to, state) => {
    const words = new Set((to.getAttribute(HELD) ?? "").split(" ").filter(Boolean));
    to.setAttribute(HELD, [...words.add(state)].join(" "));
  };
  for (const state of states) {
    add(element, state);
    if (!SPREADS[state]) continue;
    for (let at = element; at; at = at.parentElement) add(at, SPREADS[state]);
  }
}

function setAside(element, how) {
  if (how === "back") {
    for (const one of document.querySelectorAll(`[${ASIDE}]`)) one.removeAttribute(ASIDE);
  } else {
    element?.setAttribute(ASIDE, how);
  }
  isAside = document.querySelector(`[${ASIDE}=hide]`) !== null;
  isAlone = document.querySelector(`[${ASIDE}=alone]`) !== null;
  refreshOwn();
  say({ kind: "moved" });
}
