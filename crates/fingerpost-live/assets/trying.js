// Trying: edits are sent as they are made, one after the other, and the page is told what changed.

import * as frame from "./frame.js";
import * as column from "./column.js";
import { listen, onAdvice, part, send, tell, warn } from "./link.js";

let version = 0;
let last = null; // the last edit: what it was about, and its number
let queue = Promise.resolve();

/**
 * Makes a change. `key` is the same for the steps of one value, which are one change; one that is made `alone` is about
 * no element.
 * @param {Change} change
 * @param {{ into?: string, element?: string, key?: string | null, alone?: boolean }} options
 */
export function edit(change, { into = "sources", element = undefined, key = null, alone = false } = {}) {
  if (key) newest.set(key, change);
  const makeIt = () => {
    // A later value of the same field is waiting already.
    if (key && newest.get(key) !== change) return undefined;
    return editNow(change, into, alone ? null : element, key);
  };
  queue = queue.then(makeIt).catch((error) => tell(String(error), true));
  return queue;
}
const newest = new Map();

async function editNow(change, into, element, key) {
  const { page, element: chosen, environment, states } = column.subject();
  const intent = { page, change };
  // Several elements at once, where the selector of Try names them.
  const isOpen = !document.querySelector("#try").hidden;
  const each = element === undefined && isOpen ? document.querySelector("#each")?.value.trim() : "";
  const of = each || (element === undefined ? chosen : element);
  if (of) intent.element = of;
  if (each) intent.each = true;
  if (into !== "sources") intent.into = into;
  const replaces = key && last?.key === key ? last.change : undefined;
  const reply = await send("api/edit", { intent, replaces, environment, states });
  if (!reply) {
    // What is shown is what the draft has.
    column.refresh();
    return null;
  }
  last = reply.change === null ? null : { key, change: reply.change };
  apply(reply);
  warn(reply.warnings);
  if (reply.change === null) clearMoved();
  else showMoved(reply.change);
  return reply;
}

/** Several edits, all or none: what a piece of advice is made of. */
export async function script(edits) {
  const { environment } = column.subject();
  const reply = await send("api/script", { edits, environment });
  if (!reply) return;
  last = null;
  await apply(reply);
  warn(reply.warnings);
  showMoved(reply.change);
}

onAdvice(script);

async function apply({ version: now, files }) {
  if (now <= version) return;
  column.forgetAhead();
  version = now;
  frame.sendAll({ kind: "change", version: now, files });
}

// The page is painted first; then the column follows.
frame.on("painted", (message, source, isMain) => {
  if (!isMain || message.preview) return;
  frame.setStates(column.chosen, frame.states().split(" ").filter(Boolean));
  column.refresh();
  column.showSave();
});
frame.on("here", (message) => {
  version = Math.max(version, message.version);
});

listen((event) => {
  if (event.event === "trouble") return tell(event.message, true);
  if (event.event !== "changed") return;
  const names = event.files.map((file) => file.file).join(", ");
  if (event.from_disk) tell(`Changed on disk: ${names}`);
  if (event.version > version) last = null;
  apply(event);
  column.showSave();
});

// What else it changes takes longer to know; only the last answer counts.
let asking = null;
let wait = null;
function showMoved(id) {
  clearTimeout(wait);
  asking?.abort();
  const moved = document.querySelector("#moved");
  moved.dataset.waits = "";
  wait = setTimeout(async () => {
    asking = new AbortController();
    const html = await part("effect", { edit: id, page: frame.pageOf(), environment: frame.environment() }, asking.signal).catch(() => null);
    if (html === null) return;
    delete moved.dataset.waits;
    moved.innerHTML = html;
    const handles = moved.querySelector("[data-handles]")?.dataset.handles ?? "";
    frame.markOthers(handles.split(" ").filter(Boolean).map(Number));
  }, 150);
}

function clearMoved() {
  clearTimeout(wait);
  asking?.abort();
  document.querySelector("#moved").replaceChildren();
  frame.markOthers([]);
}

/** What a step did, with its notes, as a person reads it. */
function sentence({ summary, notes = [] }) {
  const first = summary.charAt(0).toUpperCase() + summary.slice(1);
  return [first, ...notes].join(". ");
}

/** @param {DraftStep} what */
export async function draft(what) {
  last = null;
  const reply = await send("api/draft", what);
  if (!reply) return;
  tell(sentence(reply));
  await apply(reply);
  column.showSave();
  clearMoved();
  if (!reply.files.length) column.refresh();
}

/** @param {WhatToSave} what */
export async function save(what = "all") {
  last = null;
  const reply = await send("api/save", what);
  if (!reply) return;
  tell(sentence(reply));
  await apply(reply);
  column.showSave();
}

export async function unsave() {
  last = null;
  const reply = await send("api/unsave");
  if (!reply) return;
  tell(sentence(reply));
  await apply(reply);
  column.showSave();
}

// ---- stepping values ----------------------------------------------------------------------------

const FINE = new Set(["em", "rem", "ch", "ex", "lh", "fr", "s", "turn", ""]);

/** The value with the number at the caret one step further; null where none is there. */
export function stepped(text, caret, up, event) {
  for (const found of text.matchAll(/(?<![\w#])-?(?:\d+\.?\d*|\.\d+)(?=([a-z%]*))/gi)) {
    const end = found.index + found[0].length;
    const unit = found[1].toLowerCase();
    if (caret < found.index || caret > end + unit.length) continue;
    const isCount = unit === "" && /^-?\d+$/.test(found[0]);
    const one = FINE.has(unit) && !isCount ? 0.1 : 1;
    const by = one * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1) * (up ? 1 : -1);
    const digits = Math.max(decimals(found[0]), decimals(String(by)));
    const next = Number((Number(found[0]) + by).toFixed(digits));
    return { text: text.slice(0, found.index) + next + text.slice(end), caret: found.index + String(next).length };
  }
  return null;
}

const decimals = (text) => (text.includes("e-") ? 3 : (text.split(".")[1]?.length ?? 0));
