// What the browser made of an element: its size, the space around it, its font and its colors.

const SIDES = /** @type {const} */ (["Top", "Right", "Bottom", "Left"]);

/** @typedef {{ x: number, y: number, width: number, height: number }} Rectangle */
/** @typedef {ReturnType<typeof makeMeasure>} Measure */

/**
 * @param {Elements} elements
 * @param {ReturnType<typeof makeFonts>} fonts
 */
function makeMeasure(elements, fonts) {
  // Frames of the site itself lie somewhere in the outermost one.
  function offset() {
    let [x, y] = [0, 0];
    /** @type {Window} */
    let view = window;
    while (view !== view.parent && view.parent !== window.top) {
      try {
        const frame = /** @type {Element} */ (view.frameElement);
        const box = frame.getBoundingClientRect();
        x += box.left + frame.clientLeft;
        y += box.top + frame.clientTop;
      } catch {
        break;
      }
      view = view.parent;
    }
    return [x, y];
  }

  /**
   * @param {Element} element
   * @returns {Rectangle}
   */
  function rectOf(element) {
    const box = element.getBoundingClientRect();
    const [x, y] = offset();
    return { x: box.left + x, y: box.top + y, width: box.width, height: box.height };
  }

  /**
   * @param {CSSStyleDeclaration} style
   * @param {"margin" | "border" | "padding"} start
   * @param {"" | "Width"} end
   */
  function sidesOf(style, start, end = "") {
    const lengths = /** @type {Record<string, any>} */ (style);
    return SIDES.map((side) => parseFloat(lengths[start + side + end]) || 0);
  }

  // How far the elements before and after are.
  /** @param {Element} element */
  function around(element) {
    const own = element.getBoundingClientRect();
    const found = [];
    const before = element.previousElementSibling;
    const after = element.nextElementSibling;
    if (before?.getClientRects().length) {
      const margin = parseFloat(getComputedStyle(before).marginBottom) || 0;
      const gap = own.top - before.getBoundingClientRect().bottom;
      found.push({ side: "above", gap, margin, handle: elements.named(before).handle ?? null });
    }
    if (after?.getClientRects().length) {
      const margin = parseFloat(getComputedStyle(after).marginTop) || 0;
      const gap = after.getBoundingClientRect().top - own.bottom;
      found.push({ side: "below", gap, margin, handle: elements.named(after).handle ?? null });
    }
    return found.filter((one) => one.gap >= -0.5);
  }

  // The first opaque color behind an element.
  /** @param {Element} element */
  function backgroundOf(element) {
    for (let at = /** @type {Element | null} */ (element); at; at = at.parentElement) {
      const color = getComputedStyle(at).backgroundColor;
      if (color !== "rgba(0, 0, 0, 0)" && color !== "transparent") return color;
    }
    return "rgb(255, 255, 255)";
  }

  /** @param {Element} element */
  function measured(element) {
    const style = getComputedStyle(element);
    const parent = element.parentElement && getComputedStyle(element.parentElement);
    const rect = rectOf(element);
    const isBox = element instanceof HTMLElement;
    return {
      of: elements.named(element),
      label: label(element),
      rect,
      width: isBox ? element.offsetWidth : rect.width,
      height: isBox ? element.offsetHeight : rect.height,
      margin: sidesOf(style, "margin"),
      border: sidesOf(style, "border", "Width"),
      padding: sidesOf(style, "padding"),
      boxSizing: style.boxSizing,
      display: style.display,
      parentDisplay: parent?.display ?? "",
      around: around(element),
      fontAsked: style.fontFamily,
      fontUsed: fonts.fontUsed(style),
      fontSize: style.fontSize,
      color: style.color,
      background: backgroundOf(element),
      ...(element.nodeName === "IFRAME" ? { frame: true } : {}),
    };
  }

  return { rectOf, measured };
}

/**
 * How far two rectangles are from each other, in each direction; negative where they overlap.
 * @param {Rectangle} one
 * @param {Rectangle} other
 */
function distance(one, other) {
  /** @type {(start: number, length: number, from: number, size: number) => number} */
  const gap = (start, length, from, size) => Math.max(from - (start + length), start - (from + size));
  return {
    across: gap(one.x, one.width, other.x, other.width),
    down: gap(one.y, one.height, other.y, other.height),
  };
}
