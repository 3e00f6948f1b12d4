// Which of the font families that are asked for the browser has.

const GENERIC_FAMILIES = ["serif", "sans-serif", "monospace", "cursive", "fantasy", "system-ui", "ui-serif"];

function makeFonts() {
  const pen = /** @type {CanvasRenderingContext2D} */ (document.createElement("canvas").getContext("2d"));
  /** @type {Map<string, boolean>} */
  const known = new Map();

  /**
   * @param {CSSStyleDeclaration} style
   * @param {string} families
   */
  function widthIn(style, families) {
    pen.font = `${style.fontStyle} ${style.fontWeight} 40px ${families}`;
    return pen.measureText("mmmmiiiilWQ@7 ").width;
  }

  // A family that is there makes a text as wide as before, whatever is after it.
  /**
   * @param {CSSStyleDeclaration} style
   * @param {string} family
   */
  function has(style, family) {
    const found = known.get(family) ?? ["serif", "monospace"].every((end) => widthIn(style, `${family}, ${end}`) !== widthIn(style, end));
    known.set(family, found);
    return found;
  }

  /** @param {CSSStyleDeclaration} style */
  function fontUsed(style) {
    const families = style.fontFamily.split(",").map((name) => name.trim());
    const used = families.find((family) => GENERIC_FAMILIES.includes(family) || has(style, family));
    return (used ?? families.at(-1) ?? "").replace(/^["']|["']$/g, "");
  }

  return { fontUsed };
}
