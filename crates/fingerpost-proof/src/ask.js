// Runs in the browser: every longhand of every element, and which selectors match it.
const selectors = arguments[0];
const root = document.documentElement;
const size = { width: innerWidth, height: innerHeight };
const elements = [...document.querySelectorAll("*")];
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
