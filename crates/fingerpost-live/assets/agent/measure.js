// What the browser made of an element: its size, the space around it, its font and its colors.

// Frames of the site itself lie somewhere in the outermost one.
function offset() {
  let [x, y] = [0, 0];
  for (let view = window; view !== view.parent && view.parent !== window.top; view = view.parent) {
    try {
      const frame = view.frameElement.getBoundingClientRect();
      x += frame.left + view.frameElement.clientLeft;
      y += frame.top + view.frameElement.clientTop;
    } catch {
      break;
    }
  }
  return [x, y];
}

function rectOf(element) {
  const rect = element.getBoundingClientRect();
  const [x, y] = offset();
  return { x: rect.left + x, y: rect.top + y, width: rect.width, height: rect.height };
}

const SIDES = ["Top", "Right", "Bottom", "Left"];
const sidesOf = (style, begin, end = "") => SIDES.map((side) => parseFloat(style[begin + side + end]) || 0);

function measured(element) {
  const style = getComputedStyle(element);
  const parent = element.parentElement && getComputedStyle(element.parentElement);
  const rect = rectOf(element);
  return {
    of: named(element),
    label: label(element),
    rect,
    width: element.offsetWidth ?? rect.width,
    height: element.offsetHeight ?? rect.height,
    margin: sidesOf(style, "margin"),
    border: sidesOf(style, "border", "Width"),
    padding: sidesOf(style, "padding"),
    boxSizing: style.boxSizing,
    display: style.display,
    parentDisplay: parent?.display ?? "",
    around: around(element),
    fontAsked: style.fontFamily,
    fontUsed: fontUsed(style),
    fontSize: style.fontSize,
    color: style.color,
    background: backgroundOf(element),
    ...(element.nodeName === "IFRAME" ? { frame: true } : {}),
  };
}

function label(element) {
  const id = element.id ? `#${element.id}` : "";
  const classes = [...element.classList].filter((name) => !name.startsWith("fingerpost")).map((name) => `.${name}`);
  return element.localName + id + classes.join("");
}

function around(element) {
  const rect = element.getBoundingClientRect();
  const found = [];
  const before = element.previousElementSibling;
  const after = element.nextElementSibling;
  if (before?.getClientRects().length) {
    const other = before.getBoundingClientRect();
    const margin = parseFloat(getComputedStyle(before).marginBottom) || 0;
    found.push({ side: "above", gap: rect.top - other.bottom, margin, handle: named(before).handle ?? null });
  }
  if (after?.getClientRects().length) {
    const other = after.getBoundingClientRect();
    const margin = parseFloat(getComputedStyle(after).marginTop) || 0;
    found.push({ side: "below", gap: other.top - rect.bottom, margin, handle: named(after).handle ?? null });
  }
  return found.filter((one) => one.gap >= -0.5 && one.handle !== undefined);
}

// The first opaque color behind an element.
function backgroundOf(element) {
  for (let at = element; at; at = at.parentElement) {
    const color = getComputedStyle(at).backgroundColor;
    if (color !== "rgba(0, 0, 0, 0)" && color !== "transparent") return color;
  }
  return "rgb(255, 255, 255)";
}

// A family that is there makes a text as wide as before, whatever is after it.
const pen = document.createElement("canvas").getContext("2d");
const widths = new Map();
function fontUsed(style) {
  const families = style.fontFamily.split(",").map((name) => name.trim());
  const generic = ["serif", "sans-serif", "monospace", "cursive", "fantasy", "system-ui", "ui-serif"];
  const width = (family) => {
    pen.font = `${style.fontStyle} ${style.fontWeight} 40px ${family}`;
    return pen.measureText("mmmmiiiilWQ@7 ").width;
  };
  for (const family of families) {
    if (generic.includes(family)) return family;
    if (!widths.has(family)) {
      widths.set(family, ["serif", "monospace"].every((end) => width(`${family}, ${end}`) !== width(end)));
    }
    if (widths.get(family)) return family.replace(/^["']|["']$/g, "");
  }
  return families.at(-1) ?? "";
}

function apart(one, other) {
  const gap = (start, length, from, size) => Math.max(from - (start + length), start - (from + size));
  return {
    across: gap(one.x, one.width, other.x, other.width),
    down: gap(one.y, one.height, other.y, other.height),
  };
}

// In its own tab the page draws the mark itself; in the frame the desk does, over it.
let ownMark = null;
function drawMark(element) {
  if (window.top !== window || !element) {
    ownMark?.host.remove();
    ownMark = null;
    return;
  }
  if (!ownMark) {
    const host = document.createElement("fingerpost-mark");
    host.style.cssText = "all: initial; position: fixed; inset: 0; pointer-events: none; z-index: 2147483647";
    const box = document.createElement("div");
    box.style.cssText = "position: absolute; outline: 2px dashed #b4541a; background: #b4541a22; font: 12px system-ui";
    const name = document.createElement("span");
    name.style.cssText = "position: absolute; bottom: 100%; left: 0; background: #1d2730; color: #fff; padding: 2px 7px; white-space: nowrap";
    box.append(name);
    host.attachShadow({ mode: "closed" }).append(box);
    document.documentElement.append(host);
    ownMark = { host, box, name };
  }
  const rect = element.getBoundingClientRect();
  Object.assign(ownMark.box.style, {
    left: `${rect.left}px`, top: `${rect.top}px`, width: `${rect.width}px`, height: `${rect.height}px`,
  });
  ownMark.name.textContent = `${label(element)} ${Math.round(rect.width)} × ${Math.round(rect.height)}`;
}
