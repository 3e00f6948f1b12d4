// Colors as numbers: red, green, blue and alpha, from 0 to 1.

// So many of one layer count: more say nothing new.
const MOST_COLORS = 24;

/** @typedef {number[]} Channels */

function makeBrush() {
  const options = { willReadFrequently: true };
  const brush = /** @type {CanvasRenderingContext2D} */ (document.createElement("canvas").getContext("2d", options));

  /**
   * Any color of CSS.
   * @param {string} color
   * @returns {Channels}
   */
  function channels(color) {
    brush.clearRect(0, 0, 1, 1);
    brush.fillStyle = "#0000";
    brush.fillStyle = color;
    brush.fillRect(0, 0, 1, 1);
    return [...brush.getImageData(0, 0, 1, 1).data].map((one) => one / 255);
  }

  return { channels };
}

/**
 * A color over an opaque one.
 * @param {Channels} top
 * @param {Channels} below
 */
function over([r, g, b, a], [red, green, blue]) {
  return [r * a + red * (1 - a), g * a + green * (1 - a), b * a + blue * (1 - a), 1];
}

/** @param {Channels} color */
const asText = ([r, g, b]) => `rgb(${[r, g, b].map((one) => Math.round(one * 255)).join(", ")})`;

/**
 * Different colors only, and of very many some that are far apart in the order of their lightness.
 * @param {Channels[]} colors
 */
function distinct(colors) {
  const all = [...new Map(colors.map((color) => [color.join(), color])).values()];
  if (all.length <= MOST_COLORS) return all;
  /** @type {(color: Channels) => number} */
  const light = ([r, g, b]) => 0.2126 * r + 0.7152 * g + 0.0722 * b;
  all.sort((one, other) => light(one) - light(other));
  return Array.from({ length: MOST_COLORS }, (_, at) => all[Math.round((at * (all.length - 1)) / (MOST_COLORS - 1))]);
}

/**
 * Between two stops of a gradient every color is painted: some of them count.
 * @param {Channels[]} stops
 */
function between(stops) {
  const steps = [0, 0.25, 0.5, 0.75];
  const parts = stops.slice(1).flatMap((stop, at) => steps.map((part) => stops[at].map((one, i) => one + (stop[i] - one) * part)));
  return distinct([...parts, ...stops.slice(-1)]);
}
