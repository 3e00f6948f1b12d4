// Which element is which: the handles of the source, removed before a script of the page can see them.

const HANDLE = "data-fingerpost-handle";

/** @typedef {ReturnType<typeof makeElements>} Elements */

/**
 * @param {Told} told
 * @param {Say} say
 */
function makeElements(told, say) {
  /** @type {Map<number, Element>} */
  const byHandle = new Map();
  /** @type {WeakMap<Element, number>} */
  const handles = new WeakMap();
  // What a script made has a number instead.
  /** @type {Map<number, Element>} */
  const made = new Map();
  /** @type {WeakMap<Element, number>} */
  const numbers = new WeakMap();
  let waiting = told.implied;

  /**
   * @param {Element} element
   * @param {number} handle
   */
  function know(element, handle) {
    byHandle.set(handle, element);
    handles.set(element, handle);
  }

  /** @param {Element} element */
  function takeHandle(element) {
    const handle = element.getAttribute(HANDLE);
    if (handle === null) return;
    element.removeAttribute(HANDLE);
    know(element, Number(handle));
  }

  /** @param {Node} root */
  function takeHandles(root) {
    if (!(root instanceof Element)) return;
    takeHandle(root);
    for (const element of root.querySelectorAll(`[${HANDLE}]`)) takeHandle(element);
  }

  /** @param {MutationRecord[]} changes */
  function takeAll(changes) {
    for (const change of changes) for (const node of change.addedNodes) takeHandles(node);
  }

  // Elements without a tag, such as a <tbody> that the parser put in.
  function settle() {
    waiting = waiting.filter(([parent, tag, handle]) => {
      const above = byHandle.get(parent);
      const found = above && [...above.children].find((child) => child.localName === tag && !handles.has(child));
      if (found) know(found, handle);
      return !found;
    });
  }

  // The parser reports before it runs a script, so no script of the page sees a handle.
  const reading = new MutationObserver(takeAll);
  know(document.documentElement, 0);
  takeHandles(document.documentElement);
  reading.observe(document, { childList: true, subtree: true });
  document.addEventListener("DOMContentLoaded", () => {
    takeAll(reading.takeRecords());
    settle();
    reading.disconnect();
    say({ kind: "here", version: told.version, title: document.title });
  });

  /**
   * @param {Element} element
   * @returns {ElementName}
   */
  function named(element) {
    if (waiting.length) settle();
    const handle = handles.get(element);
    if (handle !== undefined) return { handle };
    const number = numbers.get(element) ?? made.size + 1;
    numbers.set(element, number);
    made.set(number, element);
    return { made: number };
  }

  /** @param {ElementName | null | undefined} name */
  function meant(name) {
    if (!name) return undefined;
    if (waiting.length) settle();
    return name.handle !== undefined ? byHandle.get(name.handle) : made.get(name.made ?? 0);
  }

  /**
   * Forgets all handles for others; gives those that were.
   * @param {Iterable<[element: Element, handle: number]>} fresh
   */
  function renumber(fresh) {
    const before = new Map(byHandle);
    byHandle.clear();
    for (const [element, handle] of fresh) know(element, handle);
    return before;
  }

  return {
    know,
    named,
    meant,
    renumber,
    /** @param {number | undefined} handle */
    at: (handle) => (handle === undefined ? undefined : byHandle.get(handle)),
    /** @param {Element} element */
    handleOf: (element) => handles.get(element),
  };
}
