// Changes of markup: what differs between two states of the source is put into the page.

let base = null;

const textOf = async (url) => (await fetch(url, { headers: { accept: "text/html" } })).text();

// The source that this page was made from, asked for while it is still that.
const first = textOf(location.href);

function parsed(text) {
  const page = new DOMParser().parseFromString(text, "text/html");
  const own = page.querySelector("script[data-told]");
  own?.remove();
  const { version = 0, implied = [] } = own ? JSON.parse(own.dataset.told) : {};
  return { root: page.documentElement, version, implied };
}

function sourceNow() {
  const url = new URL(location.href);
  if (isBefore) url.searchParams.set("fingerpost-before", "");
  return textOf(url);
}

// Takes the handles off a parsed source and remembers them beside it.
function number({ root, implied }) {
  const of = new Map();
  for (const element of [root, ...root.querySelectorAll("*")]) {
    const handle = element.getAttribute(HANDLE);
    if (handle === null) continue;
    of.set(element, Number(handle));
    element.removeAttribute(HANDLE);
  }
  of.set(root, 0);
  const back = new Map([...of].map(([element, handle]) => [handle, element]));
  for (const [parent, tag, handle] of implied) {
    const above = back.get(parent);
    const found = above && [...above.children].find((child) => child.localName === tag && !of.has(child));
    if (!found) continue;
    of.set(found, handle);
    back.set(handle, found);
  }
  return { root, of, prints: new Map() };
}

// Two nodes with the same print are the same source.
function print(tree, node) {
  if (node.nodeType !== Node.ELEMENT_NODE) return `${node.nodeType}:${node.data}`;
  const known = tree.prints.get(node);
  if (known !== undefined) return known;
  const attributes = [...node.attributes].map((one) => `${one.name}=${one.value}`).join("\u0001");
  const inside = [...node.childNodes].map((child) => print(tree, child)).join("\u0002");
  const made = `${node.nodeName}\u0003${attributes}\u0004${inside}\u0005`;
  tree.prints.set(node, made);
  return made;
}

let patching = Promise.resolve();
function patch() {
  patching = patching.then(patchNow);
  return patching;
}

async function patchNow() {
  if (!base) {
    const found = parsed(await first);
    // A change came between the two: the page is read anew.
    if (found.version !== told.version) return location.reload();
    base = number(found);
  }
  const now = number(parsed(await sourceNow()));
  // `live`: which element of the page is which of the new source. What is taken out in one place and put in, as it was,
  // in another is moved.
  const work = { old: base, now, live: new Map(), removed: new Map(), added: [] };
  try {
    await patchElement(work, base.root, now.root);
    for (const one of work.added) moveInstead(work, one);
  } catch {
    return location.reload();
  }
  const { live } = work;
  base = now;
  const before = new Map(elements);
  elements.clear();
  for (const [element, handle] of now.of) {
    const shown = live.get(element);
    if (shown) know(shown, handle);
  }
  sayRenumbered(before);
  if (assumed.at !== null || assumed.held) {
    await Promise.all([...document.querySelectorAll("style")].map(embedded));
  }
}

// The handles that elements have now, as runs: from here to there they are greater by so much. What is in none is gone.
function sayRenumbered(before) {
  const runs = [];
  for (const [handle, element] of [...before].sort(([one], [other]) => one - other)) {
    const now = handles.get(element);
    if (elements.get(now) !== element) continue;
    const last = runs.at(-1);
    if (last && last[1] === handle - 1 && last[2] === now - handle) last[1] = handle;
    else runs.push([handle, handle, now - handle]);
  }
  say({ kind: "renumbered", runs });
}

const shownFor = (tree, element) => elements.get(tree.of.get(element));

async function patchElement(work, was, is) {
  const { old, now } = work;
  const shown = shownFor(old, was);
  if (!shown) return;
  if (print(old, was) === print(now, is)) return keepAll(work, was, is);
  work.live.set(is, shown);
  for (const one of [...was.attributes]) if (!is.hasAttribute(one.name)) shown.removeAttribute(one.name);
  for (const one of [...is.attributes]) {
    if (was.getAttribute(one.name) !== one.value) shown.setAttribute(one.name, one.value);
  }
  if (is.localName === "style") {
    written.delete(shown);
    if (shown.textContent !== is.textContent) shown.textContent = is.textContent;
    return;
  }
  await patchChildren(work, was, is, shown);
}

// An element whose source is the same, with all in it.
function keepAll({ old, live }, was, is) {
  const [from, to] = [[was, ...was.querySelectorAll("*")], [is, ...is.querySelectorAll("*")]];
  from.forEach((element, at) => {
    const shown = shownFor(old, element);
    if (shown) live.set(to[at], shown);
  });
}

function moveInstead(work, { node, copy }) {
  const was = work.removed.get(print(work.now, node))?.shift();
  if (!was) return;
  copy.replaceWith(shownFor(work.old, was));
  keepAll(work, was, node);
}

// Pairs the children that are alike, then those between them by what they are.
async function patchChildren(work, was, is, shown) {
  const { old, now } = work;
  // Comments are in no picture, and scripts seldom keep them.
  const counts = (node) => node.nodeType === Node.ELEMENT_NODE || node.nodeType === Node.TEXT_NODE;
  const [from, to] = [[...was.childNodes].filter(counts), [...is.childNodes].filter(counts)];
  const texts = { source: from.filter((node) => node.nodeType === 3), shown: textsOf(shown) };
  const pairs = paired(from.map((node) => print(old, node)), to.map((node) => print(now, node)));
  const partner = new Map(pairs.map(([one, other]) => [other, one]));
  let free = 0;
  to.forEach((node, at) => {
    if (partner.has(at)) {
      free = partner.get(at) + 1;
      return;
    }
    const next = pairs.find(([, other]) => other > at)?.[0] ?? from.length;
    for (let one = free; one < next; one += 1) {
      if (from[one].nodeName !== node.nodeName) continue;
      partner.set(at, one);
      free = one + 1;
      break;
    }
  });
  const kept = new Set(partner.values());
  from.forEach((node, at) => {
    if (!kept.has(at)) takeOut(work, node, shownNode(old, node, texts));
  });
  let last = null;
  for (const [at, node] of to.entries()) {
    const one = partner.has(at) ? from[partner.get(at)] : null;
    let there = one && shownNode(old, one, texts);
    if (one && !there) {
      // A script took it away: it stays away, unless the source has another one now.
      if (print(old, one) === print(now, node)) continue;
      throw new Error("what changed is not in the page");
    }
    if (!there) {
      there = put(work, node);
      last ? last.after(there) : shown.prepend(there);
    } else if (node.nodeType === Node.ELEMENT_NODE) {
      await patchElement(work, one, node);
    } else if (one.data !== node.data && there.data !== node.data) {
      there.data = node.data;
    }
    last = there;
  }
}

const textsOf = (element) => [...element.childNodes].filter((node) => node.nodeType === 3);

function shownNode(tree, node, texts) {
  if (node.nodeType === Node.ELEMENT_NODE) return shownFor(tree, node) ?? null;
  if (node.nodeType !== 3 || texts.shown.length !== texts.source.length) return null;
  return texts.shown[texts.source.indexOf(node)] ?? null;
}

function takeOut({ old, removed }, node, shown) {
  shown?.remove();
  if (!shown || node.nodeType !== Node.ELEMENT_NODE) return;
  const key = print(old, node);
  removed.set(key, [...(removed.get(key) ?? []), node]);
}

function put({ live, added }, node) {
  const copy = document.importNode(node, true);
  if (node.nodeType === Node.ELEMENT_NODE) {
    added.push({ node, copy });
    live.set(node, copy);
    const inside = copy.querySelectorAll("*");
    node.querySelectorAll("*").forEach((element, at) => live.set(element, inside[at]));
  }
  return copy;
}

// The longest common run of two lists, as pairs; what both begin and end with is taken off first.
function paired(one, other) {
  let start = 0;
  while (start < one.length && start < other.length && one[start] === other[start]) start += 1;
  let end = 0;
  const room = Math.min(one.length, other.length) - start;
  while (end < room && one[one.length - 1 - end] === other[other.length - 1 - end]) end += 1;
  const pairs = Array.from({ length: start }, (_, at) => [at, at]);
  const [rows, columns] = [one.length - start - end, other.length - start - end];
  if (rows * columns > 0 && rows * columns < 250000) {
    const table = Array.from({ length: rows + 1 }, () => new Uint16Array(columns + 1));
    for (let i = rows - 1; i >= 0; i -= 1) {
      for (let j = columns - 1; j >= 0; j -= 1) {
        const same = one[start + i] === other[start + j];
        table[i][j] = same ? table[i + 1][j + 1] + 1 : Math.max(table[i + 1][j], table[i][j + 1]);
      }
    }
    for (let [i, j] = [0, 0]; i < rows && j < columns; ) {
      if (one[start + i] === other[start + j]) pairs.push([start + i++, start + j++]);
      else if (table[i + 1][j] >= table[i][j + 1]) i += 1;
      else j += 1;
    }
  }
  for (let at = end; at > 0; at -= 1) pairs.push([one.length - at, other.length - at]);
  return pairs;
}
