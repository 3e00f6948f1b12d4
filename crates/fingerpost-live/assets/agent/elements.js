// Which element is which: the handles of the source, taken off before a script of the page can see them.

const elements = new Map(); // handle → element
const handles = new WeakMap(); // element → handle
const made = new Map(); // number → element that a script made
const numbers = new WeakMap();
let waiting = told.implied;

function know(element, handle) {
  elements.set(handle, element);
  handles.set(element, handle);
}

function takeHandle(element) {
  const handle = element.getAttribute(HANDLE);
  if (handle === null) return;
  element.removeAttribute(HANDLE);
  know(element, Number(handle));
}

function takeHandles(root) {
  if (root.nodeType !== Node.ELEMENT_NODE) return;
  takeHandle(root);
  for (const element of root.querySelectorAll(`[${HANDLE}]`)) takeHandle(element);
}

// The parser reports before it runs a script, so no script of the page sees a handle.
const reading = new MutationObserver((changes) => {
  for (const change of changes) for (const node of change.addedNodes) takeHandles(node);
});
know(document.documentElement, 0);
takeHandles(document.documentElement);
reading.observe(document, { childList: true, subtree: true });

// Elements without a tag, such as a <tbody> that the parser put in.
function settle() {
  waiting = waiting.filter(([parent, tag, handle]) => {
    const above = elements.get(parent);
    const isIt = (child) => child.localName === tag && !handles.has(child);
    const found = above && [...above.children].find(isIt);
    if (found) know(found, handle);
    return !found;
  });
}

document.addEventListener("DOMContentLoaded", () => {
  for (const change of reading.takeRecords()) for (const node of change.addedNodes) takeHandles(node);
  settle();
  reading.disconnect();
  say({ kind: "here", page: told.page, version: told.version, title: document.title });
});

// How a message names an element: by its handle, or by a number where a script made it.
function named(element) {
  if (waiting.length) settle();
  if (handles.has(element)) return { handle: handles.get(element) };
  if (!numbers.has(element)) {
    numbers.set(element, made.size + 1);
    made.set(made.size + 1, element);
  }
  return { made: numbers.get(element) };
}

function meant(name) {
  if (!name) return undefined;
  if (waiting.length) settle();
  return name.handle !== undefined ? elements.get(name.handle) : made.get(name.made);
}
