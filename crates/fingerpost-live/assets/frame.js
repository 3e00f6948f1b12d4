// The live page in its frame: its size and environment, the marks over it, and the messages to its agent.

import { told, tell } from "./link.js";

const PROTOCOL = 1;
const live = document.querySelector("#live");
const glass = document.querySelector("#sheet-of-glass");
const floor = document.querySelector("#floor");
const marks = document.querySelector("#marks");
const strip = document.querySelector("#strip-of-widths");
const field = (id) => document.querySelector(`#${id}`);

const views = new Map(); // a page's window → its name; the desk's own frame first
const heard = new Map(); // kind → functions
const asked = new Map(); // number → what waits for the answer
let tab = null;

/** Calls back for each message of a kind. */
export function on(kind, back) {
  heard.set(kind, [...(heard.get(kind) ?? []), back]);
}

window.addEventListener("message", (event) => {
  if (event.origin !== told.origin || event.data?.fingerpost !== PROTOCOL) return;
  const message = event.data;
  if (message.kind === "here") views.set(event.source, message.page);
  if (!views.has(event.source)) return;
  if (event.source === tab) measureTab(message.size);
  const waits = message.ask !== undefined && asked.get(message.ask);
  if (waits) {
    asked.delete(message.ask);
    waits(message);
    return;
  }
  const isMain = event.source === live.contentWindow || event.source === tab;
  for (const back of heard.get(message.kind) ?? []) back(message, event.source, isMain);
});

/** Sends a message to a page; to the one in the frame without a window. */
export function send(message, to = view()) {
  to?.postMessage({ fingerpost: PROTOCOL, ...message }, told.origin);
}

/** Sends a message to every page that is shown. */
export function sendAll(message) {
  for (const one of views.keys()) {
    if (one.closed) views.delete(one);
    else send(message, one);
  }
}

/** Asks a page, and those inside it, whether they are there: what they said while this script was loading is lost. */
export function greet(page = view()) {
  send({ kind: "hello" }, page);
  for (let at = 0; at < page.length; at += 1) greet(page[at]);
}

let number = 0;
/** Sends a message and waits for its answer; null where none comes. */
export function ask(message, to = view()) {
  number += 1;
  const own = number;
  return new Promise((done) => {
    asked.set(own, done);
    setTimeout(() => asked.delete(own) && done(null), 2000);
    send({ ...message, ask: own }, to);
  });
}

let current = null;
/** The page that is worked in: that of the frame, or a page inside of it. */
export function view() {
  return current && !current.closed && views.has(current) ? current : (tab ?? live.contentWindow);
}
export function workIn(source) {
  current = source;
}
export function pageOf(source = view()) {
  return views.get(source) ?? told.page;
}

/** The handle that an element has after a change of the markup; undefined where it is gone. */
export function renumbered(handle, runs) {
  const run = runs.find(([from, to]) => from <= handle && handle <= to);
  return run && handle + run[2];
}

let tabSize = null;

/** Opens the page in its own tab; this window is the desk's then. */
export function openTab() {
  if (tab && !tab.closed) return tab.focus();
  tab = window.open(live.src, "fingerpost-page");
  if (!tab) return tell("The browser does not let the desk open a tab.", true);
  current = null;
  document.body.classList.add("apart");
  showMark("chosen", null);
  const watch = setInterval(() => {
    if (!tab.closed) return;
    clearInterval(watch);
    views.delete(tab);
    tab = null;
    tabSize = null;
    document.body.classList.remove("apart");
    layOut();
    for (const back of resized) back();
  }, 500);
}

function measureTab([width, height]) {
  const same = tabSize?.width === width && tabSize?.height === height;
  tabSize = { width, height };
  if (!same) for (const back of resized) back();
}

export function go(path) {
  current = null;
  views.clear();
  live.src = told.origin + path;
  for (const frame of strip.querySelectorAll("iframe")) frame.src = live.src;
}

// ---- size ---------------------------------------------------------------------------------------

const size = { width: null, height: null };

/** The size in CSS px that the page has. */
export function viewport() {
  if (tab && tabSize) return tabSize;
  return {
    width: size.width ?? Math.max(320, Math.round(floor.clientWidth - 30)),
    height: size.height ?? Math.max(200, Math.round(floor.clientHeight - 2)),
  };
}

const resized = [];
export function onResize(back) {
  resized.push(back);
}

export function resize(width, height) {
  if (width !== undefined) size.width = width;
  if (height !== undefined) size.height = height;
  layOut();
  for (const back of resized) back();
}

function layOut() {
  const { width, height } = viewport();
  const scale = Math.min(1, (floor.clientWidth - 28) / width, size.height ? floor.clientHeight / height : 1);
  live.style.width = `${width}px`;
  live.style.height = `${height}px`;
  sharpen(live);
  glass.style.width = `${width}px`;
  glass.style.height = `${height}px`;
  glass.style.transform = scale < 1 ? `scale(${scale})` : "";
  glass.style.setProperty("--scale", String(scale));
  glass.style.marginRight = scale < 1 ? `${-(1 - scale) * width}px` : "";
  glass.style.marginBottom = scale < 1 ? `${-(1 - scale) * height}px` : "";
  if (document.activeElement !== field("width")) field("width").value = width;
  if (document.activeElement !== field("height")) field("height").value = height;
  for (const button of document.querySelectorAll("#widths button")) {
    button.setAttribute("aria-pressed", String(Number(button.value) === width));
  }
  if (!strip.hidden) fitStrip();
}
new ResizeObserver(() => layOut()).observe(floor);

field("width").addEventListener("change", (event) => resize(Number(event.target.value) || null));
field("height").addEventListener("change", (event) => resize(undefined, Number(event.target.value) || null));
field("turn").addEventListener("click", () => {
  const { width, height } = viewport();
  resize(height, width);
});

const grip = field("grip");
grip.addEventListener("pointerdown", (event) => {
  event.preventDefault();
  grip.setPointerCapture(event.pointerId);
  const begin = { x: event.clientX, width: viewport().width };
  const scale = Number(getComputedStyle(glass).getPropertyValue("--scale")) || 1;
  // The page is in the middle: it grows on both sides.
  const move = (moved) => resize(Math.max(200, Math.round(begin.width + (2 * (moved.clientX - begin.x)) / scale)));
  const end = () => {
    grip.removeEventListener("pointermove", move);
    document.body.classList.remove("dragging");
  };
  // The page takes no part, or it would keep what moves over it to itself.
  document.body.classList.add("dragging");
  grip.addEventListener("pointermove", move);
  for (const kind of ["pointerup", "pointercancel"]) grip.addEventListener(kind, end, { once: true });
});
grip.addEventListener("keydown", (event) => {
  const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
  if (!by) return;
  event.preventDefault();
  event.stopPropagation();
  resize(Math.max(200, viewport().width + by * (event.shiftKey ? 50 : 10)));
});

// A frame that is zoomed in and shown smaller again has more pixels to each CSS px: its page takes the images and
// the media queries for that resolution.
function sharpen(frame, scale = 1) {
  const by = pixels() / devicePixelRatio;
  frame.style.zoom = by === 1 ? "" : by;
  frame.style.transform = scale === by ? "" : `scale(${scale / by})`;
}

// The pixels of the screen for each CSS px that are asked for.
function pixels() {
  const wanted = parseFloat(field("pixels").value);
  return field("pixels").value === REAL[3] || !wanted ? devicePixelRatio : wanted;
}

/** Offers widths to look at: those at which the theme itself changes. */
export function offerWidths(widths) {
  const all = [{ width: null }, ...widths];
  field("widths").replaceChildren(
    ...all.map(({ name, width, height }) => {
      const button = document.createElement("button");
      button.type = "button";
      button.textContent = width ?? "fit";
      button.title = name ? `${name}: ${width}${height ? ` × ${height}` : ""}` : width ? "between two breakpoints of the theme" : "as large as there is room";
      button.dataset.named = name ?? "";
      button.value = width ?? "";
      button.addEventListener("click", () => resize(width, height ?? null));
      return button;
    }),
  );
  layOut();
}

field("strip").addEventListener("click", (event) => {
  const isOn = strip.hidden;
  event.currentTarget.setAttribute("aria-pressed", String(isOn));
  strip.hidden = !isOn;
  glass.hidden = isOn;
  const widths = [...document.querySelectorAll("#widths button")].map((one) => Number(one.value)).filter(Boolean);
  const chosen = [...new Set([360, ...widths, 1280])].sort((a, b) => a - b).slice(0, 4);
  strip.replaceChildren(...(isOn ? chosen.map(stripFrame) : []));
  if (isOn) fitStrip();
});

function stripFrame(width) {
  const figure = document.createElement("figure");
  const caption = document.createElement("figcaption");
  caption.textContent = `${width} px`;
  const frame = document.createElement("iframe");
  frame.title = `The live page at ${width} px`;
  frame.src = live.src;
  frame.style.width = `${width}px`;
  figure.append(caption, frame);
  return figure;
}

function fitStrip() {
  const widths = [...strip.querySelectorAll("iframe")].map((frame) => parseFloat(frame.style.width));
  const all = widths.reduce((sum, width) => sum + width, 0);
  const scale = Math.min(1, (floor.clientWidth - 24 - 16 * widths.length) / all);
  strip.querySelectorAll("figure").forEach((figure, at) => {
    const frame = figure.querySelector("iframe");
    figure.style.width = `${widths[at] * scale}px`;
    sharpen(frame, scale);
    frame.style.height = `${(floor.clientHeight - 40) / scale}px`;
  });
}

// ---- environment -------------------------------------------------------------------------------

let held = [];

const CHOICES = ["medium", "scheme", "motion", "pixels"];
const USUAL = ["screen", "prefers-color-scheme=light", "prefers-reduced-motion=no-preference", "1x"];

// The environment that the browser itself has: what is chosen begins there.
const is = (query) => matchMedia(query).matches;
const REAL = [
  "screen",
  `prefers-color-scheme=${is("(prefers-color-scheme: dark)") ? "dark" : "light"}`,
  `prefers-reduced-motion=${is("(prefers-reduced-motion: reduce)") ? "reduce" : "no-preference"}`,
  `${[1, 2, 3].includes(devicePixelRatio) ? devicePixelRatio : 1}x`,
];
const EXACT = REAL.with(3, `${devicePixelRatio}x`);
CHOICES.forEach((id, at) => (field(id).value = REAL[at]));

const chosenBut = (others) => CHOICES.map((id) => field(id).value).filter((value, at) => value && value !== others[at]);

/** The environment as questions take it: the one that is seen. */
export function environment() {
  const { width, height } = viewport();
  return [`${width}x${height}`, ...chosenBut(USUAL)].join("; ");
}

// What the served sheets have to assume: all of it, as soon as one differs from what the browser has.
const isAssuming = () => chosenBut(REAL).length > 0 || held.length > 0;
const assumed = () => CHOICES.map((id, at) => (field(id).value === REAL[at] ? EXACT[at] : field(id).value));

export const states = () => held.join(" ");

export function assume() {
  const others = chosenBut(REAL).filter((part) => !part.startsWith("prefers-color-scheme"));
  const more = others.length + (field("text-size").value ? 1 : 0);
  field("more-count").textContent = more ? ` ${more}` : "";
  layOut();
  const at = isAssuming() ? assumed().join("; ") : "";
  sendAll({ kind: "assume", environment: at, held: held.length > 0, text: field("text-size").value });
}

/** Puts an element into states; without any, out of them. */
export function setStates(of, wanted) {
  const had = held.length > 0;
  held = wanted;
  field("held-count").textContent = wanted.length ? ` ${wanted.length}` : "";
  if (had !== wanted.length > 0) assume();
  send({ kind: "states", of, states: wanted });
}

on("here", (message, source, isMain) => {
  if (isAssuming() || field("text-size").value) assume();
  if (isMain) current = null;
  send({ kind: "point", on: isPointing }, source);
});

// ---- pointing and marks -------------------------------------------------------------------------

let isPointing = false;
export function point(isWanted = !isPointing) {
  isPointing = isWanted;
  field("point").setAttribute("aria-pressed", String(isWanted));
  document.body.classList.toggle("pointing", isWanted);
  sendAll({ kind: "point", on: isWanted });
  if (!isWanted) showMark("pointed", null);
}

const kept = new Map(); // what a mark is of → what was measured

/** Puts a mark on the page: `pointed`, `chosen`; nothing takes it off. */
export function showMark(kind, at) {
  kept.set(kind, at);
  marks.querySelectorAll(`[data-mark=${kind}]`).forEach((mark) => mark.remove());
  if (!at) return;
  marks.append(markAt(kind, at.rect, kind === "pointed" ? sayingOf(at) : null));
}

function markAt(kind, rect, saying) {
  const mark = document.createElement("div");
  mark.dataset.mark = kind;
  mark.style.transform = `translate(${rect.x}px, ${rect.y}px)`;
  mark.style.width = `${rect.width}px`;
  mark.style.height = `${rect.height}px`;
  if (saying) mark.append(saying);
  if (rect.y < 60) mark.classList.add("high");
  return mark;
}

function sayingOf(at) {
  const saying = document.createElement("div");
  saying.className = "saying";
  const name = document.createElement("strong");
  name.textContent = at.label;
  const rest = document.createElement("span");
  rest.textContent = `${round(at.rect.width)} × ${round(at.rect.height)} · ${at.fontSize} ${at.fontUsed}`;
  saying.append(name, spot(at.color, "text"), spot(at.background, "background"), rest);
  return saying;
}

function spot(color, title) {
  const one = document.createElement("i");
  one.style.backgroundColor = color;
  one.title = `${title} ${color}`;
  return one;
}

const round = (length) => Math.round(length * 10) / 10;

/** Marks other elements, such as those that a change moves as well. */
export async function markOthers(handles) {
  marks.querySelectorAll("[data-mark=other]").forEach((mark) => mark.remove());
  others = handles;
  if (!handles.length) return;
  const answer = await ask({ kind: "mark", of: handles.map((handle) => ({ handle })) });
  for (const rect of answer?.rects ?? []) marks.append(markAt("other", rect, null));
}
let others = [];

let isWaiting = false;
on("moved", (message, source) => {
  if (isWaiting || source !== view()) return;
  isWaiting = true;
  requestAnimationFrame(async () => {
    isWaiting = false;
    const chosen = kept.get("chosen");
    if (chosen) {
      const answer = await ask({ kind: "look", of: chosen.of }, source);
      if (answer?.at && kept.get("chosen") === chosen) showMark("chosen", answer.at);
    }
    showMark("pointed", null);
    if (others.length) markOthers(others);
  });
});

live.addEventListener("error", () => tell("The page does not load.", true));
