// What is painted behind a text: the colors that its contrast is measured against.
//
// From the canvas upwards each layer is put over what is below it. A gradient or an image has many colors; the
// text is over some of them, so all count, and the desk takes the weakest.

const MOST_COLORS = 24; // of one layer: more say nothing new
const SAMPLES = 12; // an image is looked at in this many columns and rows

const brush = document.createElement("canvas").getContext("2d", { willReadFrequently: true });

// Any color of CSS as red, green, blue and alpha, from 0 to 1.
function channels(color) {
  brush.clearRect(0, 0, 1, 1);
  brush.fillStyle = "#0000";
  brush.fillStyle = color;
  brush.fillRect(0, 0, 1, 1);
  return [...brush.getImageData(0, 0, 1, 1).data].map((one) => one / 255);
}

function over([r, g, b, a], [red, green, blue]) {
  return [r * a + red * (1 - a), g * a + green * (1 - a), b * a + blue * (1 - a), 1];
}

const inWords = ([r, g, b]) => `rgb(${[r, g, b].map((one) => Math.round(one * 255)).join(", ")})`;

// Different colors only, and of very many some that are far apart in the order in which they come.
function distinct(colors) {
  const all = [...new Map(colors.map((color) => [color.join(), color])).values()];
  if (all.length <= MOST_COLORS) return all;
  const light = ([r, g, b]) => 0.2126 * r + 0.7152 * g + 0.0722 * b;
  all.sort((one, other) => light(one) - light(other));
  return Array.from({ length: MOST_COLORS }, (_, at) => all[Math.round((at * (all.length - 1)) / (MOST_COLORS - 1))]);
}

/** The color of an element's text and the colors after it; null where it shows no text. */
async function painted(element) {
  const holder = textHolder(element);
  if (!holder) return null;
  const points = pointsOf(holder.text);
  const notes = new Set();
  const behind = [];
  for (const stack of points.length ? points.map(([x, y]) => stackAt(holder.element, x, y)) : [ancestors(holder.element)]) {
    behind.push(...(await colorsOf(stack, notes)));
  }
  if (!points.length) notes.add("everything but its ancestors, because the text is out of view");
  const [r, g, b, a] = channels(getComputedStyle(holder.element).color);
  const text = [r, g, b, a * opacityOf(holder.element)];
  const all = distinct(behind);
  return {
    pairs: all.map((color) => ({ text: inWords(over(text, color)), behind: inWords(color) })),
    notes: [...notes],
  };
}

// The first text that stands directly in an element.
function textHolder(element) {
  const own = [...element.childNodes].find((node) => node.nodeType === Node.TEXT_NODE && node.data.trim());
  return own ? { text: own, element } : null;
}

// Points on the first lines of a text, as far as they are in view.
function pointsOf(text) {
  const range = document.createRange();
  range.selectNodeContents(text);
  const rects = [...range.getClientRects()].filter((rect) => rect.width >= 1 && rect.height >= 1).slice(0, 3);
  return rects
    .flatMap((rect) => [0.1, 0.5, 0.9].map((part) => [rect.left + rect.width * part, rect.top + rect.height / 2]))
    .filter(([x, y]) => x >= 0 && y >= 0 && x < innerWidth && y < innerHeight);
}

// What is painted at a point, the lowest first, up to the element of the text.
function stackAt(element, x, y) {
  const all = document.elementsFromPoint(x, y);
  const at = all.findIndex((one) => one === element || element.contains(one));
  // Something that takes no clicks is not found there; then its containers are what counts.
  if (at < 0) return ancestors(element);
  const below = all.slice(all.indexOf(element) < 0 ? at : all.indexOf(element));
  return (below[0] === element ? below : [element, ...below]).reverse();
}

function ancestors(element) {
  const all = [];
  for (let at = element; at; at = at.parentElement) all.unshift(at);
  return all;
}

function opacityOf(element) {
  let opacity = 1;
  for (let at = element; at; at = at.parentElement) opacity *= Number(getComputedStyle(at).opacity);
  return opacity;
}

async function colorsOf(stack, notes) {
  let colors = [channels(isDark() ? "#121212" : "#fff")];
  for (const element of stack) {
    const style = getComputedStyle(element);
    if (style.visibility !== "visible") continue;
    const opacity = opacityOf(element);
    const put = (layers) => {
      const faded = layers.map(([r, g, b, a]) => [r, g, b, a * opacity]);
      colors = distinct(colors.flatMap((below) => faded.map((layer) => over(layer, below))));
    };
    put([channels(style.backgroundColor)]);
    for (const image of layersOf(style.backgroundImage).reverse()) put(await colorsOfImage(image, notes));
    if (element.nodeName === "IMG") put(await sampled(element.currentSrc || element.src, notes));
    if (/^(VIDEO|CANVAS|IFRAME|OBJECT|EMBED)$/.test(element.nodeName)) notes.add(`what ${label(element)} shows`);
    if (style.mixBlendMode !== "normal") notes.add(`the blend mode of ${label(element)}`);
    if (style.filter !== "none" || style.backdropFilter !== "none") notes.add(`the filter of ${label(element)}`);
  }
  return colors;
}

// Whether the canvas under the page is that of the dark scheme.
function isDark() {
  const scheme = getComputedStyle(document.documentElement).colorScheme;
  if (!/\bdark\b/.test(scheme)) return false;
  return !/\blight\b/.test(scheme) || matchMedia("(prefers-color-scheme: dark)").matches;
}

// The layers of a list of images, cut at the commas outside of parentheses.
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

const COLOR = /(?:rgba?|hsla?|hwb|lab|lch|oklab|oklch|color)\([^()]*\)/g;

function colorsOfImage(image, notes) {
  const url = image.match(/^url\("(.*)"\)$/);
  if (url) return sampled(url[1], notes);
  const stops = image.match(COLOR);
  if (/gradient\(/.test(image) && stops) return between(stops.map(channels));
  notes.add("an image that is neither a URL nor a gradient");
  return [[0, 0, 0, 0]];
}

// Between two stops of a gradient every color is painted: some of them count.
function between(stops) {
  const steps = [0, 0.25, 0.5, 0.75];
  const parts = stops.slice(1).flatMap((stop, at) => steps.map((part) => stops[at].map((one, i) => one + (stop[i] - one) * part)));
  return distinct([...parts, stops.at(-1)]);
}

const samples = new Map(); // URL → the colors of the image

function sampled(url, notes) {
  if (!samples.has(url)) samples.set(url, sample(url));
  return samples.get(url).then((colors) => {
    if (colors) return colors;
    notes.add("an image that can't be read here");
    return [[0, 0, 0, 0]];
  });
}

async function sample(url) {
  try {
    const image = new Image();
    image.src = url;
    await image.decode();
    const pen = new OffscreenCanvas(SAMPLES, SAMPLES).getContext("2d");
    pen.drawImage(image, 0, 0, SAMPLES, SAMPLES);
    const { data } = pen.getImageData(0, 0, SAMPLES, SAMPLES);
    const colors = [];
    for (let at = 0; at < data.length; at += 4) colors.push([...data.slice(at, at + 4)].map((one) => one / 255));
    return distinct(colors);
  } catch {
    return null;
  }
}
