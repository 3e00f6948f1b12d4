// What is painted behind a text: the colors that its contrast is measured against.
//
// From the canvas upwards each layer is put over what is below it. A gradient or an image has many colors; the
// text is over some of them, so all count, and the desk takes the weakest.

// An image is looked at in this many columns and rows.
const SAMPLES = 12;

const COLOR = /(?:rgba?|hsla?|hwb|lab|lch|oklab|oklch|color)\([^()]*\)/g;

/**
 * The first text that is directly in an element.
 * @param {Element} element
 */
function textIn(element) {
  const isText = (/** @type {Node} */ node) => node.nodeType === Node.TEXT_NODE && node.nodeValue?.trim();
  return [...element.childNodes].find(isText);
}

/**
 * Points on the first lines of a text, as far as they are in view.
 * @param {Node} text
 */
function pointsOf(text) {
  const range = document.createRange();
  range.selectNodeContents(text);
  const rects = [...range.getClientRects()].filter((rect) => rect.width >= 1 && rect.height >= 1).slice(0, 3);
  return rects
    .flatMap((rect) => [0.1, 0.5, 0.9].map((part) => [rect.left + rect.width * part, rect.top + rect.height / 2]))
    .filter(([x, y]) => x >= 0 && y >= 0 && x < innerWidth && y < innerHeight);
}

/**
 * An element and those around it, the outermost first.
 * @param {Element} element
 */
function withAncestors(element) {
  const all = [];
  for (let at = /** @type {Element | null} */ (element); at; at = at.parentElement) all.unshift(at);
  return all;
}

/**
 * What is painted at a point, the lowest first, up to the element of the text.
 * @param {Element} element
 * @param {number} x
 * @param {number} y
 */
function stackAt(element, x, y) {
  const all = document.elementsFromPoint(x, y);
  const around = all.findIndex((one) => one === element || element.contains(one));
  // Something that takes no clicks is not found there; then its containers are what counts.
  if (around < 0) return withAncestors(element);
  const own = all.indexOf(element);
  const below = all.slice(own < 0 ? around : own);
  return (below[0] === element ? below : [element, ...below]).reverse();
}

/** @param {Element} element */
function opacityOf(element) {
  return withAncestors(element).reduce((opacity, one) => opacity * Number(getComputedStyle(one).opacity), 1);
}

// Whether the canvas under the page is that of the dark scheme.
function isDark() {
  const scheme = getComputedStyle(document.documentElement).colorScheme;
  if (!/\bdark\b/.test(scheme)) return false;
  return !/\blight\b/.test(scheme) || matchMedia("(prefers-color-scheme: dark)").matches;
}

/**
 * The layers of a list of images, cut at the commas outside of parentheses.
 * @param {string} images
 */
function layersOf(images) {
  if (images === "none") return [];
  const layers = [];
  let depth = 0;
  let start = 0;
  for (let at = 0; at < images.length; at += 1) {
    if (images[at] === "(") depth += 1;
    if (images[at] === ")") depth -= 1;
    if (images[at] === "," && depth === 0) {
      layers.push(images.slice(start, at).trim());
      start = at + 1;
    }
  }
  layers.push(images.slice(start).trim());
  return layers;
}

/**
 * The colors of an image; null where it can't be read.
 * @param {string} url
 */
async function sample(url) {
  try {
    const image = new Image();
    image.src = url;
    await image.decode();
    const pen = /** @type {OffscreenCanvasRenderingContext2D} */ (new OffscreenCanvas(SAMPLES, SAMPLES).getContext("2d"));
    pen.drawImage(image, 0, 0, SAMPLES, SAMPLES);
    const { data } = pen.getImageData(0, 0, SAMPLES, SAMPLES);
    const colors = [];
    for (let at = 0; at < data.length; at += 4) colors.push([...data.slice(at, at + 4)].map((one) => one / 255));
    return distinct(colors);
  } catch {
    return null;
  }
}

function makePainting() {
  const { channels } = makeBrush();
  /** @type {Map<string, Promise<Channels[] | null>>} */
  const samples = new Map();

  /**
   * @param {string} url
   * @param {Set<string>} notes
   */
  async function sampled(url, notes) {
    const found = samples.get(url) ?? sample(url);
    samples.set(url, found);
    const colors = await found;
    if (colors) return colors;
    notes.add("an image that can't be read here");
    return [[0, 0, 0, 0]];
  }

  /**
   * @param {string} image
   * @param {Set<string>} notes
   * @returns {Promise<Channels[]>}
   */
  async function colorsOfImage(image, notes) {
    const url = image.match(/^url\("(.*)"\)$/);
    if (url) return sampled(url[1], notes);
    const stops = image.match(COLOR);
    if (/gradient\(/.test(image) && stops) return between(stops.map(channels));
    notes.add("an image that is neither a URL nor a gradient");
    return [[0, 0, 0, 0]];
  }

  /**
   * @param {Element[]} stack
   * @param {Set<string>} notes
   */
  async function colorsOf(stack, notes) {
    let colors = [channels(isDark() ? "#121212" : "#fff")];
    for (const element of stack) {
      const style = getComputedStyle(element);
      if (style.visibility !== "visible") continue;
      const opacity = opacityOf(element);
      /** @param {Channels[]} layers */
      const put = (layers) => {
        const faded = layers.map(([r, g, b, a]) => [r, g, b, a * opacity]);
        colors = distinct(colors.flatMap((below) => faded.map((layer) => over(layer, below))));
      };
      put([channels(style.backgroundColor)]);
      for (const image of layersOf(style.backgroundImage).reverse()) put(await colorsOfImage(image, notes));
      if (element instanceof HTMLImageElement) put(await sampled(element.currentSrc || element.src, notes));
      if (/^(VIDEO|CANVAS|IFRAME|OBJECT|EMBED)$/.test(element.nodeName)) notes.add(`what ${label(element)} shows`);
      if (style.mixBlendMode !== "normal") notes.add(`the blend mode of ${label(element)}`);
      if (style.filter !== "none" || style.backdropFilter !== "none") notes.add(`the filter of ${label(element)}`);
    }
    return colors;
  }

  /**
   * The color of an element's text and the colors after it; null where it shows no text.
   * @param {Element} element
   */
  async function painted(element) {
    const text = textIn(element);
    if (!text) return null;
    const points = pointsOf(text);
    /** @type {Set<string>} */
    const notes = new Set();
    const stacks = points.length ? points.map(([x, y]) => stackAt(element, x, y)) : [withAncestors(element)];
    const behind = [];
    for (const stack of stacks) behind.push(...(await colorsOf(stack, notes)));
    if (!points.length) notes.add("everything but its ancestors, because the text is out of view");
    const [r, g, b, a] = channels(getComputedStyle(element).color);
    const color = [r, g, b, a * opacityOf(element)];
    const pairs = distinct(behind).map((one) => ({ text: asText(over(color, one)), behind: asText(one) }));
    return { pairs, notes: [...notes] };
  }

  return { painted };
}
