// Changes of sheets: swapped without a flash, or one value set in the browser's own sheet.

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
  if (isBefore) return;
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
    if (file.quick && !isBefore && setQuickly(file)) swapLater(file);
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
