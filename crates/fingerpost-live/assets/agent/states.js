// Assumed states, hiding, and larger text.

const HELD = "data-fingerpost-held";
const ASIDE = "data-fingerpost-aside";

// An element that is hovered or pressed, or has the focus, hands that to the elements around it.
/** @type {Record<string, string>} */
const SPREADS = { hover: "hover", active: "active", focus: "focus-within", "focus-visible": "focus-within" };

/** @param {Say} say */
function makeStates(say) {
  const sheet = new CSSStyleSheet();
  let textSize = "";
  let isAlone = false;
  let isHiding = false;

  // A sheet of our own is there only while it does something.
  function refresh() {
    const rules = [];
    if (textSize) rules.push(`:root { font-size: ${Number(textSize)}% !important }`);
    if (isHiding) rules.push(`[${ASIDE}=hide] { display: none !important }`);
    if (isAlone) {
      rules.push("body * { visibility: hidden !important }");
      rules.push(`[${ASIDE}=alone], [${ASIDE}=alone] * { visibility: visible !important }`);
    }
    sheet.replaceSync(rules.join("\n"));
    const others = [...document.adoptedStyleSheets].filter((one) => one !== sheet);
    document.adoptedStyleSheets = rules.length ? [...others, sheet] : others;
  }

  /** @param {string | undefined} percent */
  function setTextSize(percent) {
    textSize = percent ?? "";
    refresh();
  }

  /**
   * @param {Element | undefined} element
   * @param {string[]} states
   */
  function holdIn(element, states) {
    for (const held of document.querySelectorAll(`[${HELD}]`)) held.removeAttribute(HELD);
    if (!element) return;
    /** @type {(to: Element, state: string) => void} */
    const add = (to, state) => {
      const words = new Set((to.getAttribute(HELD) ?? "").split(" ").filter(Boolean));
      to.setAttribute(HELD, [...words.add(state)].join(" "));
    };
    for (const state of states) {
      add(element, state);
      if (!SPREADS[state]) continue;
      for (let at = /** @type {Element | null} */ (element); at; at = at.parentElement) add(at, SPREADS[state]);
    }
  }

  /**
   * @param {Element | undefined} element
   * @param {"hide" | "alone" | "back"} how
   */
  function setAside(element, how) {
    if (how === "back") {
      for (const one of document.querySelectorAll(`[${ASIDE}]`)) one.removeAttribute(ASIDE);
    } else {
      element?.setAttribute(ASIDE, how);
    }
    isHiding = document.querySelector(`[${ASIDE}=hide]`) !== null;
    isAlone = document.querySelector(`[${ASIDE}=alone]`) !== null;
    refresh();
    say({ kind: "moved" });
  }

  return { setTextSize, holdIn, setAside };
}
