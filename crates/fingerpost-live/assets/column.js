// The column: the chosen element, and what the four steps show of it.

import * as frame from "./frame.js";
import { ask, part, send, tell } from "./link.js";

const element = document.querySelector("#element");
const sections = ["find", "why", "try", "save"].map((id) => document.querySelector(`#${id}`));
const lines = document.querySelector("#lines");
const filter = document.querySelector("#filter");
const all = document.querySelector("#all");

/** The element that is worked on, as messages name it. */
export let chosen = null;
let step = "find";
let look = "properties";
const past = [];
let pastAt = -1;

/** What a question is about. */
export function subject(more = {}) {
  const page = frame.pageOf();
  const of = chosen?.handle !== undefined ? `@${chosen.handle}${chosen.pseudo ?? ""}` : undefined;
  return { page, element: of, environment: frame.environment(), states: frame.states(), ...more };
}

/** Works on another element. `at` is what the page measured of it. */
export async function choose(of, { remember = true, at = null } = {}) {
  chosen = of;
  if (remember) {
    past.splice(pastAt + 1);
    past.push({ of, view: frame.view(), page: frame.pageOf() });
    if (past.length > 30) past.shift();
    pastAt = past.length - 1;
  }
  frame.markOthers([]);
  document.querySelector("#moved").replaceChildren();
  await refresh(at);
}

// After a change of the markup elements have other handles; what is gone gives way to the element around it.
frame.on("renumbered", ({ runs }, source) => {
  if (source !== frame.view()) return;
  const now = (handle) => frame.renumbered(handle, runs);
  if (chosen?.handle !== undefined) {
    const around = Number(element.querySelector("[data-chosen]")?.dataset.parent ?? 0);
    const handle = now(chosen.handle);
    chosen = handle === undefined ? { handle: now(around) ?? 0 } : { ...chosen, handle };
  }
  for (const one of past) {
    if (one.of.handle === undefined || one.view !== source) continue;
    one.of = { ...one.of, handle: now(one.of.handle) };
  }
  const kept = past.filter(({ of }) => of.handle !== undefined || of.made !== undefined);
  pastAt -= past.slice(0, pastAt + 1).filter((one) => !kept.includes(one)).length;
  past.splice(0, past.length, ...kept);
  forgetAhead();
});

/** Back to the element before, or forward again. */
export function back(by) {
  const to = past[pastAt + by];
  if (!to) return;
  pastAt += by;
  frame.workIn(to.view);
  choose(to.of, { remember: false });
}

/** The handle of a neighbor: `parent`, `child`, `previous`, `next`. */
export function stepTo(which) {
  const handle = element.querySelector("[data-chosen]")?.dataset[which];
  if (handle === undefined) return tell(`There is no ${which} element.`);
  choose({ handle: Number(handle) });
}

// What is pointed at is asked about ahead, so that it is there when it is chosen.
let ahead = null;

/** Asks for what Why shows of an element, for when it is chosen. */
export function askAhead(of) {
  if (of.handle === undefined || look !== "properties") return;
  const about = { ...subject(), element: `@${of.handle}`, ...shownProperties() };
  const key = JSON.stringify(about);
  if (ahead?.key === key) return;
  ahead = { key, trail: part("element", about), why: part("why", about) };
}

/** Forgets it: something changed. */
export function forgetAhead() {
  ahead = null;
}

const asked = (name) => (ahead?.key === JSON.stringify({ ...subject(), ...shownProperties() }) ? ahead[name] : null);

// Which properties Why shows.
function shownProperties() {
  const variables = lines.querySelector("#variables")?.open || undefined;
  return { text: filter.value, all: all.checked || undefined, variables };
}

let turn = 0;
/** Shows the chosen element as it is now. */
export async function refresh(at = null) {
  turn += 1;
  const own = turn;
  if (chosen?.made !== undefined) return showMade(own);
  const shown = chosen ?? { handle: 0 };
  const measuring = at ? Promise.resolve({ at }) : frame.ask({ kind: "look", of: shown });
  const [trail, body] = await Promise.all([asked("trail") ?? part("element", subject()), bodyOf()]);
  if (own !== turn) return;
  element.innerHTML = trail;
  body?.();
  const answer = await measuring;
  if (own !== turn || !answer?.at) return;
  if (chosen) frame.showMark("chosen", answer.at);
  showMeasure(answer.at);
  if (look === "space" && step === "why") await showSpace(answer.at);
  if (look === "properties" && step === "why") {
    showFont(answer.at);
    showContrast(own, shown);
  }
  document.dispatchEvent(new CustomEvent("shown"));
}

// The part of the open step; asked at once with the rest, put in when both are there.
async function bodyOf() {
  if (step === "find") {
    const html = await part("outline", subject());
    return () => {
      const results = document.querySelector("#results")?.innerHTML ?? "";
      sections[0].innerHTML = html;
      document.querySelector("#results").innerHTML = results;
      showPast();
    };
  }
  if (step === "why" && look === "properties") {
    const html = await (asked("why") ?? part("why", subject(shownProperties())));
    return () => putLines(html);
  }
  if (step === "why" && look === "sheets") {
    const html = await part("sheets", subject());
    return () => (document.querySelector("#sheets").innerHTML = html);
  }
  if (step === "try") {
    const html = await part("try", subject());
    return () => putFields(html);
  }
  if (step === "save") return () => showSave();
  return null;
}

let fieldsFor = null; // the element that the fields of Try are for

// What is written in the fields of Try and not sent stays there, and what is open stays open.
function putFields(html) {
  const section = sections[2];
  const of = JSON.stringify(chosen);
  const isSame = fieldsFor === of;
  fieldsFor = of;
  const active = document.activeElement;
  if (isSame && section.contains(active) && active.matches("input, textarea") && active.value) return;
  const fields = () => [...section.querySelectorAll("input, textarea, select")];
  const key = (field) => `${field.form?.id ?? ""} ${field.form?.dataset.change ?? ""} ${field.id} ${field.name}`;
  const isWritten = (field) => field.value !== (field.defaultValue ?? "");
  const kept = new Map(fields().filter((field) => isWritten(field) && (isSame || field.id === "into")).map((field) => [key(field), field.value]));
  const open = [...section.querySelectorAll("details")].map((details) => details.open);
  section.innerHTML = html;
  for (const field of fields()) if (kept.has(key(field))) field.value = kept.get(key(field));
  section.querySelectorAll("details").forEach((details, at) => (details.open = open[at] ?? false));
}

// Lines that are open stay open, and the field that is written in keeps the caret.
function putLines(html) {
  const open = [...lines.querySelectorAll("details[open][data-property]")].map((line) => line.dataset.property);
  const active = document.activeElement;
  const isWriting = lines.contains(active) && (active.matches("input") || active.closest(".helps"));
  const next = document.createElement("div");
  next.innerHTML = html;
  for (const property of open) {
    const line = next.querySelector(`details[data-property="${CSS.escape(property)}"]`);
    const was = lines.querySelector(`details[data-property="${CSS.escape(property)}"]`);
    if (!line || !was) continue;
    if (isWriting && was.contains(active)) {
      // The line itself goes over, with what is being written.
      was.querySelector("summary").replaceWith(line.querySelector("summary"));
      openContest(was);
      line.replaceWith(was.cloneNode(false));
      next.querySelector(`details[data-property="${CSS.escape(property)}"]`).dataset.keep = "";
      continue;
    }
    line.open = true;
    line.querySelector(".ladder-place").innerHTML = was.querySelector(".ladder-place").innerHTML;
    openContest(line);
  }
  if (!isWriting) return lines.replaceChildren(...next.childNodes);
  // Around the line that is written in, everything is replaced; it stays in the document.
  const keep = active.closest("details[data-property]");
  for (const line of next.querySelectorAll("details[data-property]")) {
    if (line.dataset.keep !== undefined) continue;
    const was = lines.querySelector(`details[data-property="${CSS.escape(line.dataset.property)}"]`);
    if (was && was !== keep) was.replaceWith(line);
  }
  const contrast = next.querySelector("#contrast");
  if (contrast) lines.querySelector("#contrast")?.replaceWith(contrast);
}

/** Fills an opened line with its contest. */
export async function openContest(line) {
  const html = await part("contest", subject({ text: line.dataset.property }));
  const place = line.querySelector(".ladder-place");
  if (!place) return;
  const active = document.activeElement;
  if (!place.contains(active)) {
    place.innerHTML = html;
    return;
  }
  // Around the field that is written in, everything is as it is now; the field keeps its caret.
  const fresh = document.createElement("div");
  fresh.innerHTML = html;
  const field = active.closest(".helps")?.previousElementSibling?.querySelector("input.edits") ?? active;
  const { at, property } = field.dataset;
  const twin = at && fresh.querySelector(`input[data-at="${at}"][data-property="${property}"]`);
  if (!twin) return;
  field.dataset.was = twin.dataset.was === field.value ? field.dataset.was : twin.dataset.was;
  for (const name of [".reason", ".result", ".who", ".picks"]) {
    const [old, now] = [place.querySelectorAll(name), fresh.querySelectorAll(name)];
    if (old.length === now.length) old.forEach((one, index) => one.replaceWith(now[index]));
  }
}

lines.addEventListener("toggle", (event) => {
  const line = event.target;
  if (line.open && line.dataset.property && !line.querySelector(".ladder")) openContest(line);
  if (line.id === "variables" && line.open && !line.querySelector(".line")) refresh();
}, true);

filter.addEventListener("input", () => refresh());
all.addEventListener("change", () => refresh());

// Which of the families that are asked for the browser has.
function showFont({ fontAsked, fontUsed }) {
  const value = lines.querySelector('[data-property="font-family"] .value');
  if (!value || !fontUsed) return;
  value.querySelector(".used")?.remove();
  const first = fontAsked.split(",")[0].trim().replace(/^["']|["']$/g, "");
  if (first === fontUsed) return;
  const used = document.createElement("span");
  used.className = "used quiet";
  used.textContent = ` in use: ${fontUsed}`;
  value.prepend(used, " · ");
  value.title = `${fontAsked}; in use: ${fontUsed}`;
}

// What the sources say of the contrast comes first; then what the browser paints behind the text counts.
async function showContrast(own, of) {
  if (!lines.querySelector("#contrast") || of.pseudo) return;
  const answer = await frame.ask({ kind: "behind", of });
  if (own !== turn || !answer?.painted) return;
  const html = await part("contrast", subject({ painted: JSON.stringify(answer.painted) })).catch(() => "");
  const line = lines.querySelector("#contrast");
  if (own !== turn || !html || !line) return;
  line.outerHTML = html;
}

function showMeasure(at) {
  const measure = document.querySelector("#measure");
  if (!measure) return;
  const round = (number) => Math.round(number * 10) / 10;
  measure.textContent = `${round(at.rect.width)} × ${round(at.rect.height)} px`;
}

async function showSpace(at) {
  const html = await part("space", subject({ measured: JSON.stringify(at) }));
  document.querySelector("#space").innerHTML = html;
}

// An element that a script made: what the browser shows is asked instead of the source.
async function showMade(own) {
  const answer = await frame.ask({ kind: "markup", of: chosen });
  if (!answer) return;
  const { page, environment, states } = subject();
  const html = await send("part/made", { page, environment, states, markup: answer.markup });
  if (own !== turn || html === null) return;
  element.innerHTML = "";
  goTo("why", false);
  lines.innerHTML = html;
  const seen = await frame.ask({ kind: "look", of: chosen });
  if (seen?.at) frame.showMark("chosen", seen.at);
}

function showPast() {
  const list = document.querySelector("#last");
  if (!list) return;
  const seen = [...past].reverse().filter(({ page }) => page === frame.pageOf()).slice(0, 6);
  list.replaceChildren(
    ...seen.map(({ of, label }) => {
      const item = /** @type {any} */ (document.createElement("li"));
      const button = document.createElement("button");
      button.className = "hit";
      button.type = "button";
      if (of.handle !== undefined) button.dataset.handle = of.handle;
      button.textContent = label ?? `element ${of.handle ?? ""}`;
      item.append(button);
      return item;
    }),
  );
}

document.addEventListener("shown", () => {
  const name = element.querySelector("h2")?.textContent;
  if (past[pastAt] && name) past[pastAt].label = name;
  showPast();
});

/** Opens a step. */
export function goTo(name, fresh = true) {
  step = name;
  for (const section of sections) section.hidden = section.id !== name;
  for (const button of document.querySelectorAll(".steps button")) {
    button.setAttribute("aria-pressed", String(button.dataset.step === name));
  }
  return fresh ? refresh() : undefined;
}

/** Opens one of the views of Why. */
export function lookAt(name) {
  look = name;
  for (const button of document.querySelectorAll(".modes button")) {
    button.setAttribute("aria-pressed", String(button.dataset.look === name));
  }
  for (const id of ["properties", "space", "sheets", "whynot"]) {
    document.querySelector(`#${id}`).hidden = id !== name;
  }
  return refresh();
}

/** Opens the line of a property in Why. */
export async function openProperty(name) {
  filter.value = "";
  look = "properties";
  step = "why";
  goTo("why", false);
  await lookAt("properties");
  let line = lines.querySelector(`details[data-property="${CSS.escape(name)}"]`);
  if (!line) {
    line = document.createElement("details");
    line.className = "line";
    line.dataset.property = name;
    const summary = document.createElement("summary");
    const code = document.createElement("code");
    code.className = "name";
    code.textContent = name;
    summary.append(code);
    const place = document.createElement("div");
    place.className = "ladder-place";
    line.append(summary, place);
    lines.prepend(line);
  }
  line.open = true;
  line.scrollIntoView({ block: "nearest" });
  line.querySelector("summary").focus();
}

let saving = null;
export function showSave() {
  clearTimeout(saving);
  saving = setTimeout(showSaveNow, step === "save" ? 0 : 120);
}

async function showSaveNow() {
  const html = await part("save");
  if (step === "save") sections[3].innerHTML = html;
  const holder = document.createElement("div");
  holder.innerHTML = html;
  const unsaved = Number(holder.querySelector("#count")?.dataset.unsaved ?? 0);
  document.querySelector("#unsaved").textContent = unsaved ? ` ${unsaved}` : "";
  document.title = `${unsaved ? `(${unsaved} not saved) ` : ""}${document.title.replace(/^\(\d+ not saved\) /, "")}`;
}

/** What another element of the page is: for hits that name a selector. */
export async function chooseBy(query) {
  const about = { page: frame.pageOf(), environment: frame.environment() };
  const { elements } = await ask({ question: "find", element: query, ...about });
  if (!elements?.length) return tell(`No element of this page matches ${query}.`);
  await choose({ handle: elements[0].index });
}
