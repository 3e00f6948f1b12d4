// Runs in the browser: what differs between a page as it was and as it is, in a window of some size, with all elements in
// some states as far as they can be.
const [path, keep, [width, height], named, pairs, done] = arguments;
// What is in one of these is in others.
const IMPLIED = { focus: ["focus-within"], "focus-visible": ["focus", "focus-within"] };
const states = [...new Set(named.flatMap((state) => [state, ...(IMPLIED[state] ?? [])]))];
// What was collected of the page as it was, for all edits.
window.known ??= new Map();

const canFocus = (element) =>
  element.hasAttribute("tabindex") ||
  (element.tabIndex >= 0 && !element.matches(":disabled, input[type=hidden]"));

/** Which elements can be in a state. A state is an attribute here, so that all of them can be in it at once. */
const those = {
  hover: () => true,
  active: () => true,
  focus: canFocus,
  "focus-visible": canFocus,
  "focus-within": (element) => canFocus(element) || [...element.querySelectorAll("*")].some(canFocus),
};

function rewrite(rules) {
  for (const rule of rules) {
    if (rule.styleSheet) rewrite(rule.styleSheet.cssRules);
    if (rule.selectorText?.includes(":")) {
      for (const state of states) {
        rule.selectorText = rule.selectorText.replaceAll(new RegExp(`:${state}(?![\\w-])`, "g"), `[data-in-${state}]`);
      }
    }
    if (rule.cssRules) rewrite(rule.cssRules);
  }
}

/** The browser's own rules for these states. They lose to every rule of the page. */
const BROWSER_RULES = `@layer browser {
  [data-in-focus-visible] { outline: auto 1px -webkit-focus-ring-color }
  a[href][data-in-active] { color: -webkit-activelink }
}`;

async function collect() {
  const frame = document.createElement("iframe");
  frame.style.cssText = `position: absolute; border: 0; width: ${width}px; height: ${height}px`;
  frame.src = path;
  const loaded = new Promise((resolve) => frame.addEventListener("load", resolve, { once: true }));
  document.body.append(frame);
  await loaded;
  const page = frame.contentDocument;
  const elements = [...page.querySelectorAll("*")];
  if (states.length > 0) {
    for (const state of states) {
      for (const element of elements.filter(those[state])) element.setAttribute(`data-in-${state}`, "");
    }
    for (const sheet of page.styleSheets) rewrite(sheet.cssRules);
    const own = page.createElement("style");
    own.textContent = BROWSER_RULES;
    page.documentElement.prepend(own);
  }
  page.documentElement.style.setProperty("display", "none", "important");
  const style = (element) => frame.contentWindow.getComputedStyle(element);
  const names = [...style(page.documentElement)].filter((name) => !name.startsWith("--"));
  const values = elements.map((element) => {
    const all = style(element);
    return names.map((name) => all.getPropertyValue(name));
  });
  frame.remove();
  return { names, values };
}

(async () => {
  const key = JSON.stringify([path, width, height, states]);
  if (keep) {
    if (!window.known.has(key)) window.known.set(key, await collect());
    return "{}";
  }
  const [before, after] = [window.known.get(key), await collect()];
  const found = {};
  for (const [old, now] of pairs) {
    const differing = {};
    before.names.forEach((name, at) => {
      const [was, is] = [before.values[old][at], after.values[now][at]];
      if (was !== is) differing[name] = [was, is];
    });
    if (Object.keys(differing).length > 0) found[now] = differing;
  }
  return JSON.stringify({ names: after.names, found });
})().then(done, (error) => done(`failed: ${error.stack}`));
