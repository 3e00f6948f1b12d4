// Sheets in the page itself, media attributes and color schemes, as the assumed environment has them.

/** @typedef {ReturnType<typeof makeEmbedded>} Embedded */

/**
 * @param {Told} told
 * @param {Elements} elements
 * @param {Shown} shown
 */
function makeEmbedded(told, elements, shown) {
  // What the page has there itself.
  /** @type {WeakMap<Element, string>} */
  const styles = new WeakMap();
  /** @type {WeakMap<Element, string>} */
  const schemes = new WeakMap();
  /** @type {WeakMap<Element, string>} */
  const media = new WeakMap();

  /** @param {Element} style */
  async function refreshStyle(style) {
    const handle = elements.handleOf(style);
    if (handle === undefined) return;
    if (!shown.isAssuming()) {
      const own = styles.get(style);
      if (own !== undefined) style.textContent = own;
      styles.delete(style);
      return;
    }
    const query = new URLSearchParams({ page: told.page, handle: String(handle), at: shown.environment() ?? "" });
    if (shown.isHeld()) query.set("held", "");
    const answer = await fetch(`/.fingerpost/embedded?${query}`);
    if (!answer.ok) return;
    if (!styles.has(style)) styles.set(style, style.textContent ?? "");
    const text = await answer.text();
    if (text !== style.textContent) style.textContent = text;
  }

  /** @param {Element} element */
  async function refreshMedia(element) {
    const own = media.get(element) ?? element.getAttribute("media") ?? "";
    const environment = shown.environment();
    if (environment === null) {
      element.setAttribute("media", own);
      media.delete(element);
      return;
    }
    media.set(element, own);
    const query = new URLSearchParams({ query: own, at: environment });
    const answer = await fetch(`/.fingerpost/media?${query}`);
    if (answer.ok) element.setAttribute("media", await answer.text());
  }

  // A page whose <meta> takes both color schemes is shown in the assumed one.
  function refreshSchemes() {
    const scheme = shown.environment()?.match(/prefers-color-scheme=(light|dark)/)?.[1];
    for (const meta of /** @type {NodeListOf<HTMLMetaElement>} */ (document.querySelectorAll("meta[name=color-scheme]"))) {
      const own = schemes.get(meta) ?? meta.content;
      schemes.set(meta, own);
      const isBoth = /\blight\b/.test(own) && /\bdark\b/.test(own);
      const content = scheme && isBoth ? scheme : own;
      if (meta.content !== content) meta.content = content;
    }
  }

  const refreshStyles = () => Promise.all([...document.querySelectorAll("style")].map(refreshStyle));
  const refreshAllMedia = () =>
    Promise.all([...document.querySelectorAll("link[media], style[media], source[media]")].map(refreshMedia));

  /**
   * A sheet that takes the place of another one has its media attribute.
   * @param {Element} from
   * @param {Element} to
   */
  function carryMedia(from, to) {
    const own = media.get(from);
    if (own !== undefined) media.set(to, own);
  }

  return {
    refreshSchemes,
    refreshStyles,
    refreshAllMedia,
    carryMedia,
    /** @param {Element} style */
    forget: (style) => styles.delete(style),
  };
}
