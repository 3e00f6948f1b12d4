// The agent: the desk's small part in each page of the site.
//
// It keeps the page and its source together (which element is which), says what is pointed at and how
// large it is, and puts changes into the page without a reload. It asks the desk for nothing and holds no
// token: docs/api.md has the messages.
(() => {
  "use strict";
  const script = document.currentScript;
  const told = JSON.parse(script.dataset.told);
  script.remove();

  const PROTOCOL = told.fingerpost;
  const HANDLE = "data-fingerpost-handle";
  const HELD = "data-fingerpost-held";
  const ASIDE = "data-fingerpost-aside";
  const ASKED = "data-fingerpost-asked";
  const desk = window.top !== window ? window.top : window.opener;

  // ---- which element is which -------------------------------------------------------------------

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

  // ---- talking ----------------------------------------------------------------------------------

  function say(message) {
    if (desk) desk.postMessage({ fingerpost: PROTOCOL, page: told.page, ...message }, told.desk);
  }

  const answers = {
    hello: () => say({ kind: "here", version: told.version, title: document.title }),
    point: ({ on }) => setPointing(on),
    look: ({ of, ask }) => {
      const element = meant(of);
      if (element) say({ kind: "measured", ask, at: measured(element) });
      else say({ kind: "gone", of });
    },
    mark: ({ of, ask }) => {
      const found = of.map((name) => meant(name)).filter(Boolean);
      say({ kind: "marked", ask, rects: found.slice(0, 400).map(rectOf) });
    },
    show: ({ of }) => meant(of)?.scrollIntoView({ block: "center", inline: "nearest", behavior: "instant" }),
    hold: ({ of, states }) => hold(meant(of), states),
    aside: ({ of, how }) => setAside(meant(of), how),
    write: ({ of, on }) => write(meant(of), on),
    markup: ({ of, ask }) => say({ kind: "markup", ask, markup: markupWith(meant(of)) }),
    pretend: ({ at, held, text }) => pretend(at, held, text),
    before: ({ on }) => showBefore(on),
    change: ({ version, files }) => change(version, files),
    preview: ({ path, way }) => preview(path, way),
    distance: ({ from, to, ask }) => {
      const [one, other] = [meant(from), meant(to)];
      if (one && other) say({ kind: "apart", ask, apart: apart(rectOf(one), rectOf(other)) });
    },
    go: ({ path }) => location.assign(path),
  };

  window.addEventListener("message", (event) => {
    if (event.origin !== told.desk || event.source !== desk) return;
    const message = event.data;
    if (message?.fingerpost !== PROTOCOL || !Object.hasOwn(answers, message.kind)) return;
    answers[message.kind](message);
  });

  // ---- measuring --------------------------------------------------------------------------------

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

  // A family that is there makes a text as wide as before, whatever stands behind it.
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

  // In a tab of its own the page draws the mark itself; in the frame the desk does, over it.
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

  // ---- pointing ---------------------------------------------------------------------------------

  let pointing = false;
  let under = null;

  function setPointing(on) {
    pointing = on;
    under = null;
    drawMark(null);
  }

  function pointedAt(event) {
    const found = event.composedPath().find((node) => node.nodeType === Node.ELEMENT_NODE);
    return found?.getRootNode() === document ? found : event.target;
  }

  for (const kind of ["pointermove", "pointerover"]) {
    window.addEventListener(
      kind,
      (event) => {
        if (!pointing) return;
        const element = pointedAt(event);
        if (!(element instanceof Element) || element === under) return;
        under = element;
        drawMark(element);
        say({ kind: "pointed", at: measured(element) });
      },
      { capture: true, passive: true },
    );
  }

  for (const kind of ["pointerdown", "pointerup", "mousedown", "mouseup", "click", "dblclick", "auxclick"]) {
    window.addEventListener(
      kind,
      (event) => {
        if (!pointing) return;
        event.preventDefault();
        event.stopImmediatePropagation();
        const element = pointedAt(event);
        if (kind === "click" && element instanceof Element) {
          say({ kind: "chosen", at: measured(element), sent: performance.timeOrigin + event.timeStamp });
        }
      },
      { capture: true },
    );
  }

  window.addEventListener("keydown", (event) => {
    if (pointing && event.key === "Escape") say({ kind: "escape" });
  });

  for (const kind of ["scroll", "resize"]) {
    window.addEventListener(kind, () => say({ kind: "moved" }), { capture: true, passive: true });
  }

  // ---- holding, setting aside, larger text ------------------------------------------------------

  const own = new CSSStyleSheet();
  let textSize = "";
  let isAlone = false;
  let isAside = false;

  // A sheet of our own is there only while it does something.
  function refreshOwn() {
    const rules = [];
    if (textSize) rules.push(`:root { font-size: ${Number(textSize)}% !important }`);
    if (isAside) rules.push(`[${ASIDE}=hide] { display: none !important }`);
    if (isAlone) {
      rules.push("body * { visibility: hidden !important }");
      rules.push(`[${ASIDE}=alone], [${ASIDE}=alone] * { visibility: visible !important }`);
    }
    own.replaceSync(rules.join("\n"));
    const rest = [...document.adoptedStyleSheets].filter((sheet) => sheet !== own);
    document.adoptedStyleSheets = rules.length ? [...rest, own] : rest;
  }

  // Whoever is hovered, pressed or holds the focus, its containers are too.
  const SPREADS = { hover: "hover", active: "active", focus: "focus-within", "focus-visible": "focus-within" };

  function hold(element, states) {
    for (const held of document.querySelectorAll(`[${HELD}]`)) held.removeAttribute(HELD);
    if (!element) return;
    const add = (to, state) => {
      const words = new Set((to.getAttribute(HELD) ?? "").split(" ").filter(Boolean));
      to.setAttribute(HELD, [...words.add(state)].join(" "));
    };
    for (const state of states) {
      add(element, state);
      if (!SPREADS[state]) continue;
      for (let at = element; at; at = at.parentElement) add(at, SPREADS[state]);
    }
  }

  function setAside(element, how) {
    if (how === "back") {
      for (const one of document.querySelectorAll(`[${ASIDE}]`)) one.removeAttribute(ASIDE);
    } else {
      element?.setAttribute(ASIDE, how);
    }
    isAside = document.querySelector(`[${ASIDE}=hide]`) !== null;
    isAlone = document.querySelector(`[${ASIDE}=alone]`) !== null;
    refreshOwn();
    say({ kind: "moved" });
  }

  // ---- writing on the page ----------------------------------------------------------------------

  let writing = null;

  function write(element, on) {
    if (writing) {
      writing.removeAttribute("contenteditable");
      writing = null;
    }
    if (!on || !element) return;
    setPointing(false);
    writing = element;
    element.setAttribute("contenteditable", "plaintext-only");
    element.focus();
    const range = document.createRange();
    range.selectNodeContents(element);
    getSelection().removeAllRanges();
    getSelection().addRange(range);
  }

  document.addEventListener("input", (event) => {
    if (writing && event.target === writing) {
      say({ kind: "typed", of: named(writing), text: writing.textContent });
    }
  });
  window.addEventListener(
    "keydown",
    (event) => {
      if (!writing || (event.key !== "Escape" && event.key !== "Enter")) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      write(null, false);
      say({ kind: "written" });
    },
    { capture: true },
  );

  // What the browser shows, for an element that a script made.
  function markupWith(element) {
    if (!element) return "";
    element.setAttribute(ASKED, "");
    const markup = `<!doctype html>${document.documentElement.outerHTML}`;
    element.removeAttribute(ASKED);
    return markup;
  }

  // ---- surroundings -----------------------------------------------------------------------------

  let pretended = { at: null, held: false };
  let isBefore = false;
  const written = new WeakMap(); // <style> or media attribute → what the page has there

  const isSheet = (link) => link.relList.contains("stylesheet") && link.href;

  function ofSite(url) {
    return new URL(url, document.baseURI).origin === location.origin;
  }

  const OWN_PARAMETERS = ["fingerpost-at", "fingerpost-held", "fingerpost-before", "fingerpost-state"];

  function shownUrl(href) {
    const url = new URL(href, document.baseURI);
    for (const name of OWN_PARAMETERS) url.searchParams.delete(name);
    if (isBefore) url.searchParams.set("fingerpost-before", "");
    if (pretended.at !== null || pretended.held) {
      url.searchParams.set("fingerpost-at", pretended.at ?? "");
      if (pretended.held) url.searchParams.set("fingerpost-held", "");
    }
    return url;
  }

  async function pretend(at, held, text) {
    textSize = text ?? "";
    refreshOwn();
    const same = pretended.at === (at || null) && pretended.held === held;
    pretended = { at: at || null, held };
    if (!same) {
      await Promise.all([...document.querySelectorAll("link")].filter(isSheet).map((link) => swap(link)));
      await Promise.all([...document.querySelectorAll("style")].map(embedded));
      await Promise.all([...document.querySelectorAll("link[media], style[media], source[media]")].map(media));
    }
    say({ kind: "pretended" });
    say({ kind: "moved" });
  }

  // The page as the files have it, without the draft.
  async function showBefore(on) {
    if (isBefore === on) return;
    isBefore = on;
    await Promise.all([...document.querySelectorAll("link")].filter(isSheet).map((link) => swap(link)));
    await patch();
    say({ kind: "moved" });
  }

  async function embedded(style) {
    const handle = handles.get(style);
    if (handle === undefined) return;
    if (pretended.at === null && !pretended.held) {
      if (written.has(style)) style.textContent = written.get(style);
      written.delete(style);
      return;
    }
    const query = new URLSearchParams({ page: told.page, handle, at: pretended.at ?? "" });
    if (pretended.held) query.set("held", "");
    const answer = await fetch(`/.fingerpost/embedded?${query}`);
    if (!answer.ok) return;
    if (!written.has(style)) written.set(style, style.textContent);
    const shown = await answer.text();
    if (shown !== style.textContent) style.textContent = shown;
  }

  const mediaWritten = new WeakMap();
  async function media(element) {
    const was = mediaWritten.get(element) ?? element.getAttribute("media");
    if (pretended.at === null) {
      element.setAttribute("media", was);
      mediaWritten.delete(element);
      return;
    }
    mediaWritten.set(element, was);
    const query = new URLSearchParams({ query: was, at: pretended.at });
    const answer = await fetch(`/.fingerpost/media?${query}`);
    if (answer.ok) element.setAttribute("media", await answer.text());
  }

  // ---- changes ----------------------------------------------------------------------------------

  let state = told.version;

  // The new sheet is there before the old one goes, so that nothing flashes.
  function swap(link) {
    if (!ofSite(link.href)) return Promise.resolve();
    return new Promise((done) => {
      const fresh = link.cloneNode();
      const url = shownUrl(link.href);
      url.searchParams.set("fingerpost-state", String(state));
      fresh.href = url.href;
      const finish = () => {
        link.remove();
        done();
      };
      fresh.addEventListener("load", finish, { once: true });
      fresh.addEventListener("error", finish, { once: true });
      if (handles.has(link)) know(fresh, handles.get(link));
      if (mediaWritten.has(link)) mediaWritten.set(fresh, mediaWritten.get(link));
      link.after(fresh);
    });
  }

  // A step of a value: set in the browser's own sheet at once, where that is what the source says it is.
  function setQuickly(file) {
    const found = sheetsOf(document.styleSheets, file.path.split("?")[0]);
    return found.length > 0 && found.every((sheet) => setIn(sheet, file.quick));
  }

  function sheetsOf(list, path) {
    const found = [];
    for (const sheet of list) {
      if (sheet.href && ofSite(sheet.href) && new URL(sheet.href).pathname === path) found.push(sheet);
      if (sheet.href && !ofSite(sheet.href)) continue;
      const imports = [...sheet.cssRules].filter((rule) => rule instanceof CSSImportRule && rule.styleSheet);
      found.push(...sheetsOf(imports.map((rule) => rule.styleSheet), path));
    }
    return found;
  }

  const GROUPS = { media: CSSMediaRule, supports: CSSSupportsRule, layer: CSSLayerBlockRule, container: CSSContainerRule };

  // The rules that were found last, by their way: a framework has thousands.
  const found = new WeakMap();

  function ruleIn(sheet, rules) {
    const known = found.get(sheet) ?? new Map();
    found.set(sheet, known);
    const key = JSON.stringify(rules);
    if (!known.has(key)) known.set(key, lookFor(sheet, rules));
    return known.get(key);
  }

  function lookFor(sheet, rules) {
    let at = sheet;
    for (const { selector, at: group, number } of rules) {
      const text = selector && asBrowser(selector);
      const alike = [...at.cssRules].filter((rule) =>
        selector ? rule instanceof CSSStyleRule && rule.selectorText === text : rule instanceof GROUPS[group],
      );
      at = alike[number];
      if (!at) return undefined;
    }
    return at;
  }

  function setIn(sheet, { rules, property, was, value, important }) {
    const at = ruleIn(sheet, rules);
    if (!at) return false;
    const shown = at.style.getPropertyValue(property);
    if (shown !== "" && shown === valueAsBrowser(property, value)) return true;
    if (shown !== valueAsBrowser(property, was)) return false;
    at.style.removeProperty(property);
    at.style.setProperty(property, value, important ? "important" : "");
    return true;
  }

  const scratch = new CSSStyleSheet();
  function asBrowser(selector) {
    scratch.replaceSync(`${selector} {}`);
    return scratch.cssRules[0]?.selectorText;
  }
  function valueAsBrowser(property, value) {
    scratch.replaceSync(`a { ${property}: ${value} }`);
    return scratch.cssRules[0]?.style.getPropertyValue(property);
  }

  // A value while it is being written, before the server has answered.
  function preview(path, way) {
    if (pretended.at !== null || pretended.held || isBefore) return;
    for (const sheet of sheetsOf(document.styleSheets, path)) setIn(sheet, way);
    sayPainted({ preview: true });
  }

  function sayPainted(more) {
    const channel = new MessageChannel();
    channel.port1.onmessage = () => say({ kind: "painted", at: performance.timeOrigin + performance.now(), ...more });
    requestAnimationFrame(() => channel.port2.postMessage(null));
  }

  // What was set quickly is read as a whole when there is time.
  const later = new Map();
  function swapLater(file) {
    clearTimeout(later.get(file.path));
    later.set(file.path, setTimeout(() => {
      later.delete(file.path);
      for (const link of linksOf(file)) swap(link);
    }, 8000));
  }

  function linksOf(file) {
    const links = [...document.querySelectorAll("link")].filter(isSheet);
    const own = links.filter((link) => new URL(link.href).pathname === file.path.split("?")[0]);
    // A sheet that another one imports comes with that one.
    return own.length ? own : links;
  }

  async function change(version, files) {
    if (version <= state) return;
    state = version;
    const work = [];
    const sheets = files.filter((file) => file.kind === "sheet");
    for (const file of sheets) {
      if (file.quick && pretended.at === null && !pretended.held && !isBefore && setQuickly(file)) swapLater(file);
      else work.push(...linksOf(file).map((link) => swap(link)));
    }
    if (files.some((file) => file.kind === "page" && file.path.split("?")[0] === location.pathname)) {
      work.push(patch());
    }
    for (const file of files.filter((one) => one.kind === "other")) refreshImages(file.path);
    await Promise.all(work);
    say({ kind: "changed", version });
    say({ kind: "moved" });
    sayPainted({ version });
  }

  function refreshImages(path) {
    for (const image of document.images) {
      const url = new URL(image.src, document.baseURI);
      if (url.pathname !== path) continue;
      url.searchParams.set("fingerpost-state", String(state));
      image.src = url.href;
    }
  }

  // ---- markup: what differs between two states of the source is put into the page ----------------

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
    const live = new Map();
    try {
      await patchElement(base, now, base.root, now.root, live);
    } catch {
      return location.reload();
    }
    base = now;
    elements.clear();
    for (const [element, handle] of now.of) {
      const shown = live.get(element);
      if (shown) know(shown, handle);
    }
    if (pretended.at !== null || pretended.held) {
      await Promise.all([...document.querySelectorAll("style")].map(embedded));
    }
  }

  const shownFor = (tree, element) => elements.get(tree.of.get(element));

  async function patchElement(old, now, was, is, live) {
    const shown = shownFor(old, was);
    if (!shown) return;
    live.set(is, shown);
    if (print(old, was) === print(now, is)) {
      const [from, to] = [was.querySelectorAll("*"), is.querySelectorAll("*")];
      from.forEach((element, at) => {
        const one = shownFor(old, element);
        if (one) live.set(to[at], one);
      });
      return;
    }
    for (const one of [...was.attributes]) if (!is.hasAttribute(one.name)) shown.removeAttribute(one.name);
    for (const one of [...is.attributes]) {
      if (was.getAttribute(one.name) !== one.value) shown.setAttribute(one.name, one.value);
    }
    if (is.localName === "style") {
      written.delete(shown);
      if (shown.textContent !== is.textContent) shown.textContent = is.textContent;
      return;
    }
    await patchChildren(old, now, was, is, shown, live);
  }

  // Pairs the children that are alike, then those between them by what they are.
  async function patchChildren(old, now, was, is, shown, live) {
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
      if (!kept.has(at)) shownNode(old, node, texts)?.remove();
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
        there = put(now, node, live);
        last ? last.after(there) : shown.prepend(there);
      } else if (node.nodeType === Node.ELEMENT_NODE) {
        await patchElement(old, now, one, node, live);
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

  function put(tree, node, live) {
    const copy = document.importNode(node, true);
    if (node.nodeType === Node.ELEMENT_NODE) {
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
})();
