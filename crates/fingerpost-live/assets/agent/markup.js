// Changes of markup: what differs between two states of the source is put into the page.

/**
 * The way from one source to the next. `shown` has which element of the page is which of the new source. What is
 * removed in one place and added, as it was, in another is moved.
 * @typedef {object} Work
 * @property {Source} old
 * @property {Source} now
 * @property {Map<Element, Element>} shown
 * @property {Map<string, Element[]>} removed by their prints
 * @property {{ node: Element, copy: Element }[]} added
 */
/** @typedef {{ source: Node[], shown: Node[] }} Texts */

/** @param {Node} element */
const textsOf = (element) => [...element.childNodes].filter((node) => node.nodeType === Node.TEXT_NODE);

/**
 * @param {Told} told
 * @param {Elements} elements
 * @param {Shown} shown
 * @param {Embedded} embedded
 * @param {Say} say
 */
function makeMarkup(told, elements, shown, embedded, say) {
  /** @param {string} url */
  const textAt = async (url) => (await fetch(url, { headers: { accept: "text/html" } })).text();
  // The source that this page was made from, asked for while it is still that.
  const first = textAt(shown.sourceUrl());
  /** @type {Source | null} */
  let base = null;
  let patching = Promise.resolve();

  function patch() {
    patching = patching.then(patchNow);
    return patching;
  }

  async function patchNow() {
    if (!base) {
      const found = parseSource(await first);
      // A change came between the two: the page is read anew.
      if (found.version !== told.version) return location.reload();
      base = found;
    }
    const now = parseSource(await textAt(shown.pageUrl()));
    /** @type {Work} */
    const work = { old: base, now, shown: new Map(), removed: new Map(), added: [] };
    try {
      patchElement(work, base.root, now.root);
      for (const one of work.added) moveInstead(work, one);
    } catch {
      return location.reload();
    }
    base = now;
    const fresh = [...now.of].flatMap(([element, handle]) => {
      const here = work.shown.get(element);
      return here ? [/** @type {[Element, number]} */ ([here, handle])] : [];
    });
    sayRenumbered(elements.renumber(fresh));
    if (shown.isAssuming()) await embedded.refreshStyles();
  }

  // The handles that elements have now, as runs: from here to there they are greater by so much. What is in none is gone.
  /** @param {Map<number, Element>} before */
  function sayRenumbered(before) {
    /** @type {[from: number, to: number, by: number][]} */
    const runs = [];
    for (const [handle, element] of [...before].sort(([one], [other]) => one - other)) {
      const now = elements.handleOf(element);
      if (now === undefined || elements.at(now) !== element) continue;
      const last = runs.at(-1);
      if (last && last[1] === handle - 1 && last[2] === now - handle) last[1] = handle;
      else runs.push([handle, handle, now - handle]);
    }
    say({ kind: "renumbered", runs });
  }

  /**
   * The element of the page for one of a source.
   * @param {Source} source
   * @param {Element} element
   */
  const shownFor = (source, element) => elements.at(source.of.get(element));

  /**
   * @param {Work} work
   * @param {Element} was
   * @param {Element} is
   */
  function patchElement(work, was, is) {
    const here = shownFor(work.old, was);
    if (!here) return;
    if (printOf(work.old, was) === printOf(work.now, is)) return keepAll(work, was, is);
    work.shown.set(is, here);
    for (const one of was.attributes) if (!is.hasAttribute(one.name)) here.removeAttribute(one.name);
    for (const one of is.attributes) {
      if (was.getAttribute(one.name) !== one.value) here.setAttribute(one.name, one.value);
    }
    if (is.localName === "style") {
      embedded.forget(here);
      if (here.textContent !== is.textContent) here.textContent = is.textContent;
      return;
    }
    patchChildren(work, was, is, here);
  }

  // An element whose source is the same, with all in it.
  /**
   * @param {Work} work
   * @param {Element} was
   * @param {Element} is
   */
  function keepAll(work, was, is) {
    const to = [is, ...is.querySelectorAll("*")];
    [was, ...was.querySelectorAll("*")].forEach((element, at) => {
      const here = shownFor(work.old, element);
      if (here) work.shown.set(to[at], here);
    });
  }

  /**
   * @param {Work} work
   * @param {{ node: Element, copy: Element }} added
   */
  function moveInstead(work, { node, copy }) {
    const was = work.removed.get(printOf(work.now, node))?.shift();
    const here = was && shownFor(work.old, was);
    if (!was || !here) return;
    copy.replaceWith(here);
    keepAll(work, was, node);
  }

  // Pairs the children that are alike, then those between them by what they are: position now → position before.
  /**
   * @param {Work} work
   * @param {Node[]} from
   * @param {Node[]} to
   */
  function partnersOf(work, from, to) {
    const pairs = paired(from.map((node) => printOf(work.old, node)), to.map((node) => printOf(work.now, node)));
    const partner = new Map(pairs.map(([one, other]) => [other, one]));
    let free = 0;
    to.forEach((node, at) => {
      const own = partner.get(at);
      if (own !== undefined) {
        free = own + 1;
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
    return partner;
  }

  /**
   * @param {Work} work
   * @param {Element} was
   * @param {Element} is
   * @param {Element} here
   */
  function patchChildren(work, was, is, here) {
    // Comments are in no picture, and scripts seldom keep them.
    /** @param {Node} node */
    const counts = (node) => node.nodeType === Node.ELEMENT_NODE || node.nodeType === Node.TEXT_NODE;
    const [from, to] = [[...was.childNodes].filter(counts), [...is.childNodes].filter(counts)];
    /** @type {Texts} */
    const texts = { source: textsOf(was), shown: textsOf(here) };
    const partner = partnersOf(work, from, to);
    const kept = new Set(partner.values());
    from.forEach((node, at) => {
      if (!kept.has(at)) remove(work, node, shownNode(work.old, node, texts));
    });
    /** @type {ChildNode | null} */
    let last = null;
    for (const [at, node] of to.entries()) {
      const own = partner.get(at);
      const one = own === undefined ? null : from[own];
      let there = one && shownNode(work.old, one, texts);
      if (one && !there) {
        // A script removed it: it stays away, unless the source has another one now.
        if (printOf(work.old, one) === printOf(work.now, node)) continue;
        throw new Error("what changed is not in the page");
      }
      if (!one || !there) {
        there = add(work, node);
        last ? last.after(there) : here.prepend(there);
      } else if (node instanceof Element) {
        patchElement(work, /** @type {Element} */ (one), node);
      } else if (one.nodeValue !== node.nodeValue && there.nodeValue !== node.nodeValue) {
        there.nodeValue = node.nodeValue;
      }
      last = /** @type {ChildNode} */ (there);
    }
  }

  /**
   * @param {Source} source
   * @param {Node} node
   * @param {Texts} texts
   * @returns {Node | null}
   */
  function shownNode(source, node, texts) {
    if (node instanceof Element) return shownFor(source, node) ?? null;
    if (node.nodeType !== Node.TEXT_NODE || texts.shown.length !== texts.source.length) return null;
    return texts.shown[texts.source.indexOf(node)] ?? null;
  }

  /**
   * @param {Work} work
   * @param {Node} node
   * @param {Node | null} here
   */
  function remove(work, node, here) {
    here?.parentNode?.removeChild(here);
    if (!here || !(node instanceof Element)) return;
    const key = printOf(work.old, node);
    work.removed.set(key, [...(work.removed.get(key) ?? []), node]);
  }

  /**
   * @param {Work} work
   * @param {Node} node
   */
  function add(work, node) {
    const copy = document.importNode(node, true);
    if (node instanceof Element && copy instanceof Element) {
      work.added.push({ node, copy });
      work.shown.set(node, copy);
      const inside = copy.querySelectorAll("*");
      node.querySelectorAll("*").forEach((element, at) => work.shown.set(element, inside[at]));
    }
    return copy;
  }

  return { patch };
}
