// The field of a value: completion, the theme's colors, alpha, and values by their parts.

import { part } from "./link.js";
import { subject } from "./column.js";

const FUNCTIONS = /^(?:repeating-)?(?:linear|radial|conic)-gradient$/i;

/** The value cut at its top level: parts, and what is between them. Gradients are cut inside, too. */
export function cut(text) {
  const pieces = [];
  let depth = 0;
  let word = "";
  const close = (gap) => {
    if (word) pieces.push({ text: word, part: true });
    word = "";
    if (gap) pieces.push({ text: gap, part: false });
  };
  for (let at = 0; at < text.length; at += 1) {
    const one = text[at];
    if (one === "(" && FUNCTIONS.test(word)) {
      pieces.push({ text: `${word}(`, part: false });
      word = "";
      continue;
    }
    if (one === "(") depth += 1;
    if (one === ")" && depth === 0) {
      close(")");
      continue;
    }
    if (one === ")") depth -= 1;
    if (depth === 0 && /[\s,/]/.test(one)) close(one);
    else word += one;
  }
  close("");
  return pieces;
}

/** A field for each part of a value, with a color control where it is a color. */
export function byParts(field, set) {
  const box = document.createElement("div");
  box.className = "parts";
  const pieces = cut(field.value);
  const put = () => set(pieces.map((piece) => piece.text).join(""));
  for (const piece of pieces) {
    if (!piece.part) {
      if (piece.text.trim()) box.append(piece.text);
      continue;
    }
    const input = document.createElement("input");
    input.value = piece.text;
    input.size = Math.max(3, piece.text.length);
    input.className = "one-part";
    input.setAttribute("aria-label", `part ${piece.text}`);
    input.addEventListener("input", () => {
      piece.text = input.value;
      put();
    });
    box.append(input);
    const color = hexOf(piece.text);
    if (!color) continue;
    const pick = document.createElement("input");
    pick.type = "color";
    pick.value = color;
    pick.setAttribute("aria-label", `pick a color for ${piece.text}`);
    pick.addEventListener("input", () => {
      piece.text = likeBefore(pick.value, piece.text);
      input.value = piece.text;
      put();
    });
    box.append(pick);
  }
  return box;
}

const pen = document.createElement("canvas").getContext("2d");

/** A color as the native control takes it; undefined where the text is none. */
export function hexOf(text) {
  if (!text || !CSS.supports("color", text) || /^(inherit|initial|unset|revert|revert-layer|currentcolor)$/i.test(text)) {
    return undefined;
  }
    pen.fillStyle = "#000";
  pen.fillStyle = text;
  const shown = String(pen.fillStyle);
  if (shown.startsWith("#")) return shown.slice(0, 7);
  const numbers = shown.match(/[\d.]+/g)?.slice(0, 3).map(Number);
  return numbers && `#${numbers.map((one) => Math.round(one).toString(16).padStart(2, "0")).join("")}`;
}

const two = (number) => Math.round(number).toString(16).padStart(2, "0");

/** The alpha that a color is written with, from 0 to 1. */
export function alphaOf(text) {
  const hex = text.match(/^#(?:[\da-f]{3}([\da-f])|[\da-f]{6}([\da-f]{2}))$/i);
  if (hex) return parseInt(hex[1] ? hex[1] + hex[1] : hex[2], 16) / 255;
  const written = text.match(/(?:\/|,(?=[^,]*\)$)(?<=,.*,.*,))\s*([\d.]+)(%?)\s*\)$/);
  return written ? Number(written[1]) / (written[2] ? 100 : 1) : 1;
}

/** A picked color in the notation of the one before, with its alpha or another one. */
export function likeBefore(hex, before, alpha = alphaOf(before)) {
  const [r, g, b] = [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16));
  const round = Math.round(alpha * 100) / 100;
  const name = before.match(/^(rgba?|hsla?)\(/i)?.[1];
  if (!name) return round < 1 ? hex + two(alpha * 255) : hex;
  const commas = before.includes(",");
  const parts = /^hsl/i.test(name) ? hsl(r, g, b) : [r, g, b];
  const legacy = name.replace(/a$/i, "");
  const called = commas && round < 1 ? `${legacy}a` : legacy;
  const end = round < 1 ? `${commas ? ", " : " / "}${round}` : "";
  return `${called}(${parts.join(commas ? ", " : " ")}${end})`;
}

function hsl(...channels) {
  const [r, g, b] = channels.map((one) => one / 255);
  const [max, min] = [Math.max(r, g, b), Math.min(r, g, b)];
  const [light, wide] = [(max + min) / 2, max - min];
  const rich = wide === 0 ? 0 : wide / (1 - Math.abs(2 * light - 1));
  let turn = 0;
  if (wide !== 0 && max === r) turn = ((g - b) / wide) % 6;
  else if (wide !== 0 && max === g) turn = (b - r) / wide + 2;
  else if (wide !== 0) turn = (r - g) / wide + 4;
  return [Math.round((turn * 60 + 360) % 360), `${Math.round(rich * 100)}%`, `${Math.round(light * 100)}%`];
}

/** What helps with a field, under it: the palette, alpha, parts. */
export async function open(field, set) {
  const control = field.closest(".control");
  if (!control || control.parentElement.querySelector(".helps")) return;
  document.querySelectorAll(".helps").forEach((one) => one.remove());
  const helps = document.createElement("div");
  helps.className = "helps";
  const put = (value) => {
    field.value = value;
    set(value);
  };
  control.after(helps);
  const isColor = hexOf(field.value) || /color$/.test(field.dataset.property);
  if (isColor) {
    helps.append(alphaControl(field, put));
    if ("EyeDropper" in window) helps.append(fromScreen(field, put));
    const palette = document.createElement("div");
    palette.innerHTML = await part("palette", subject());
    palette.addEventListener("click", (event) => {
      const button = event.target.closest("[data-value]");
      if (!button) return;
      event.stopPropagation();
      put(button.dataset.value);
    });
    helps.append(palette);
  } else if (cut(field.value).filter((piece) => piece.part).length > 1) {
    helps.append(byParts(field, put));
  } else {
    helps.remove();
  }
}

function alphaControl(field, put) {
  const label = document.createElement("label");
  label.className = "alpha";
  label.textContent = "Alpha ";
  const range = document.createElement("input");
  range.type = "range";
  range.min = "0";
  range.max = "1";
  range.step = "0.01";
  range.value = String(alphaOf(field.value));
  // A variable has its alpha where it is defined.
  range.disabled = !hexOf(field.value);
  range.addEventListener("input", () => {
    const hex = hexOf(field.value);
    if (hex) put(likeBefore(hex, field.value, Number(range.value)));
  });
  label.append(range);
  return label;
}

function fromScreen(field, put) {
  const button = document.createElement("button");
  button.type = "button";
  button.textContent = "From the screen";
  button.addEventListener("click", async () => {
    const picked = await new EyeDropper().open().catch(() => null);
    if (picked) put(likeBefore(picked.sRGBHex, field.value));
  });
  return button;
}

let asking = null;
/** What can be written next, for a field of a value. */
export async function offer(field) {
  asking?.abort();
  asking = new AbortController();
  const { property } = field.dataset;
  const html = await part("offers", subject({ text: `${property}: ${field.value}` }), asking.signal).catch(() => null);
  if (html === null) return;
  const list = document.querySelector("#values");
  list.innerHTML = html;
  for (const option of list.querySelectorAll("option")) option.value = option.value.slice(property.length + 2);
}
