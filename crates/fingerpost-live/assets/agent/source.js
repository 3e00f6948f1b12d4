// A parsed source of the page: which of its elements has which handle, and which of its parts are the same.

/** @typedef {{ root: Element, of: Map<Element, number>, prints: Map<Node, string>, version: number }} Source */

/**
 * Parses a source that the desk serves, and takes the handles off it.
 * @param {string} text
 * @returns {Source}
 */
function parseSource(text) {
  const page = new DOMParser().parseFromString(text, "text/html");
  const script = /** @type {HTMLScriptElement | null} */ (page.querySelector("script[data-told]"));
  script?.remove();
  /** @type {{ version?: number, implied?: Implied[] }} */
  const { version = 0, implied = [] } = JSON.parse(script?.dataset.told ?? "{}");
  const root = page.documentElement;
  /** @type {Map<Element, number>} */
  const of = new Map([[root, 0]]);
  for (const element of [root, ...root.querySelectorAll("*")]) {
    const handle = element.getAttribute(HANDLE);
    if (handle === null) continue;
    of.set(element, Number(handle));
    element.removeAttribute(HANDLE);
  }
  const back = new Map([...of].map(([element, handle]) => [handle, element]));
  for (const [parent, tag, handle] of implied) {
    const above = back.get(parent);
    const found = above && [...above.children].find((child) => child.localName === tag && !of.has(child));
    if (!found) continue;
    of.set(found, handle);
    back.set(handle, found);
  }
  return { root, of, prints: new Map(), version };
}

/**
 * Two nodes with the same print are the same source.
 * @param {Source} source
 * @param {Node} node
 * @returns {string}
 */
function printOf(source, node) {
  if (!(node instanceof Element)) return `${node.nodeType}:${node.nodeValue}`;
  const known = source.prints.get(node);
  if (known !== undefined) return known;
  const attributes = [...node.attributes].map((one) => `${one.name}=${one.value}`).join("\u0001");
  const inside = [...node.childNodes].map((child) => printOf(source, child)).join("\u0002");
  const print = `${node.nodeName}\u0003${attributes}\u0004${inside}\u0005`;
  source.prints.set(node, print);
  return print;
}
