// One value set in the browser's own sheet, where that is what the source says it is.

/**
 * The way to a declaration: the rules around it from the outside, each the so-manieth of those that are alike.
 * @typedef {{ selector?: string, at?: "media" | "supports" | "layer" | "container", number: number }} RuleStep
 */
/** @typedef {{ rules: RuleStep[], property: string, was: string, value: string, important: boolean }} Way */

const GROUPS = { media: CSSMediaRule, supports: CSSSupportsRule, layer: CSSLayerBlockRule, container: CSSContainerRule };

/** @param {string} url */
function isOfSite(url) {
  return new URL(url, document.baseURI).origin === location.origin;
}

/**
 * The sheets of that path, imported ones too.
 * @param {Iterable<CSSStyleSheet>} list
 * @param {string} path
 * @returns {CSSStyleSheet[]}
 */
function sheetsOf(list, path) {
  const found = [];
  for (const sheet of list) {
    if (sheet.href && !isOfSite(sheet.href)) continue;
    if (sheet.href && new URL(sheet.href).pathname === path) found.push(sheet);
    const imports = [...sheet.cssRules].map((rule) => (rule instanceof CSSImportRule ? rule.styleSheet : null));
    found.push(...sheetsOf(imports.filter((one) => one !== null), path));
  }
  return found;
}

function makeBrowserSheets() {
  const scratch = new CSSStyleSheet();
  // The rules that were found last, by their way: a framework has thousands.
  /** @type {WeakMap<CSSStyleSheet, Map<string, any>>} */
  const known = new WeakMap();

  /** @param {string} selector */
  function selectorAsBrowser(selector) {
    scratch.replaceSync(`${selector} {}`);
    const [rule] = scratch.cssRules;
    return rule instanceof CSSStyleRule ? rule.selectorText : undefined;
  }

  /**
   * @param {string} property
   * @param {string} value
   */
  function valueAsBrowser(property, value) {
    scratch.replaceSync(`a { ${property}: ${value} }`);
    const [rule] = scratch.cssRules;
    return rule instanceof CSSStyleRule ? rule.style.getPropertyValue(property) : undefined;
  }

  /**
   * @param {CSSStyleSheet} sheet
   * @param {RuleStep[]} rules
   */
  function lookFor(sheet, rules) {
    /** @type {any} */
    let at = sheet;
    for (const { selector, at: group, number } of rules) {
      const text = selector && selectorAsBrowser(selector);
      /** @param {CSSRule} rule */
      const isAlike = (rule) =>
        selector ? rule instanceof CSSStyleRule && rule.selectorText === text : group && rule instanceof GROUPS[group];
      at = [...at.cssRules].filter(isAlike)[number];
      if (!at) return undefined;
    }
    return at;
  }

  /**
   * @param {CSSStyleSheet} sheet
   * @param {RuleStep[]} rules
   */
  function ruleIn(sheet, rules) {
    const ways = known.get(sheet) ?? new Map();
    known.set(sheet, ways);
    const key = JSON.stringify(rules);
    if (!ways.has(key)) ways.set(key, lookFor(sheet, rules));
    return ways.get(key);
  }

  /**
   * Sets a value; false where the sheet is not as the source says.
   * @param {CSSStyleSheet} sheet
   * @param {Way} way
   */
  function setIn(sheet, { rules, property, was, value, important }) {
    const rule = ruleIn(sheet, rules);
    if (!rule) return false;
    const now = rule.style.getPropertyValue(property);
    if (now !== "" && now === valueAsBrowser(property, value)) return true;
    if (now !== valueAsBrowser(property, was)) return false;
    rule.style.removeProperty(property);
    rule.style.setProperty(property, value, important ? "important" : "");
    return true;
  }

  return { setIn };
}
