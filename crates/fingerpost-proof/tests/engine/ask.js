// Runs in the browser: every longhand of every element, and which selectors match it.
const [selectors, inPrint] = arguments;
const root = document.documentElement;
const holds = (query) => matchMedia(query).matches;

// The size that media queries see, which in print is not the window's.
function measure(feature) {
  let [low, high] = [0, 8192];
  while (high - low > 0.0001) {
    const middle = (low + high) / 2;
    if (holds(`(min-${feature}: ${middle}px)`)) low = middle; else high = middle;
  }
  // The engine counts in 64ths of a px and is lenient by one.
  return Math.abs(low - Math.round(low)) < 0.02 ? Math.round(low) : low;
}

// Every element, those of a shadow tree between their host and its own children.
function inOrder(root) {
  return [...root.children].flatMap((element) => [
    element,
    ...(element.shadowRoot ? inOrder(element.shadowRoot) : []),
    ...inOrder(element),
  ]);
}

function collect() {
  const size = {
    width: measure("width"),
    height: measure("height"),
    dark: holds("(prefers-color-scheme: dark)"),
    print: holds("print"),
    pointing: ["hover", "any-hover", "pointer", "any-pointer"].map((feature) => [
      feature,
      ["none", "hover", "coarse", "fine"].find((value) => holds(`(${feature}: ${value})`)),
    ]),
  };
  const elements = inOrder(document);
  const refused = [];
  selectors.forEach((selector, at) => {
    try { root.matches(selector); } catch { refused.push(at); }
  });
  const taken = selectors.map((_, at) => at).filter((at) => !refused.includes(at));
  const matches = elements.map((element) => taken.filter((at) => element.matches(selectors[at])));
  // Without boxes, lengths come back as computed.
  const had = root.getAttribute("style");
  root.style.setProperty("display", "none", "important");
  const properties = [...getComputedStyle(root)].filter((name) => !name.startsWith("--"));
  const values = elements.map((element) => {
    const style = getComputedStyle(element);
    return properties.map((name) => style.getPropertyValue(name));
  });
  if (had === null) root.removeAttribute("style"); else root.setAttribute("style", had);
  return JSON.stringify({
    ...size,
    properties,
    refused,
    elements: elements.map((element, at) => ({
      tag: element.localName,
      values: values[at],
      matches: matches[at],
    })),
  });
}

if (!inPrint) return collect();
matchMedia("print").addEventListener("change", (event) => {
  if (event.matches) window.collected = collect();
});
