// The desk: what keys, clicks and fields lead to.

import * as frame from "./frame.js";
import * as column from "./column.js";
import * as trying from "./trying.js";
import * as values from "./values.js";
import { ask, askWidths, part, tell } from "./link.js";

const by = (id) => document.querySelector(`#${id}`);

// ---- find ---------------------------------------------------------------------------------------

let searching = null;
async function search(text) {
  searching?.abort();
  const own = new AbortController();
  searching = own;
  if (by("find").hidden) await column.goTo("find");
  if (own.signal.aborted) return;
  const html = await part("search", column.subject({ text }), own.signal).catch(() => null);
  if (html === null || own.signal.aborted) return;
  const results = by("results");
  if (results) results.innerHTML = html;
}

by("ask").addEventListener("input", (event) => search(event.target.value));
by("ask").addEventListener("keydown", (event) => {
  if (event.key === "Enter" || event.key === "ArrowDown") {
    event.preventDefault();
    const first = by("results")?.querySelector(".hit");
    if (event.key === "Enter") first?.click();
    else first?.focus();
  }
  if (event.key === "Escape") {
    event.target.value = "";
    search("");
    event.target.blur();
  }
});

let resting = null;
frame.on("pointed", (message, source) => {
  frame.showMark("pointed", message.at);
  clearTimeout(resting);
  if (source === frame.view()) resting = setTimeout(() => column.askAhead(message.at.of), 50);
});
frame.on("chosen", (message, source) => {
  frame.workIn(source);
  frame.point(false);
  column.goTo("why", false);
  column.choose(message.at.of, { at: message.at });
});
frame.on("escape", () => frame.point(false));
frame.on("written", () => by("on-page")?.setAttribute("aria-pressed", "false"));
frame.on("typed", (message) => {
  // Only while the desk itself has asked for it.
  if (writing === null || message.of.handle !== writing) return;
  trying.edit({ text: { text: message.text } }, { element: `@${writing}`, key: `text ${writing}` });
});
frame.on("here", (message, source, isMain) => {
  if (isMain) column.refresh();
});
let writing = null;
frame.on("renumbered", ({ runs }, source) => {
  if (source === frame.view() && writing !== null) writing = frame.renumbered(writing, runs) ?? null;
});

by("point").addEventListener("click", () => frame.point());
by("page").addEventListener("change", (event) => {
  location.search = new URLSearchParams({ page: event.target.value }).toString();
});

// ---- clicks in the column -----------------------------------------------------------------------

const columnElement = document.querySelector(".column");
columnElement.addEventListener("click", async (event) => {
  const button = event.target.closest("button");
  if (!button) return;
  const data = button.dataset;
  if (data.step) return column.goTo(data.step);
  if (data.look) return column.lookAt(data.look);
  if (data.handle !== undefined) {
    return column.choose({ handle: Number(data.handle), ...(data.pseudo && { pseudo: data.pseudo }) });
  }
  if (data.selector && data.property) {
    await column.chooseBy(data.selector);
    return column.openProperty(data.property);
  }
  if (data.property && !data.do) return column.openProperty(data.property);
  if (data.sheets !== undefined) {
    await column.goTo("why", false);
    return column.lookAt("sheets");
  }
  if (data.change) return change(button, new FormData());
  if (data.do && Object.hasOwn(doing, data.do)) return doing[data.do](data, button);
  if (button.id === "save-all") return trying.save();
  if (button.id === "on-page") return writeOnPage(button);
});

// An edit that the markup of a button or a form has, with `$name` where the value of that field goes.
function change({ dataset }, fields) {
  const valueOf = (text) => (text.startsWith("$") && fields.has(text.slice(1)) ? fields.get(text.slice(1)).trim() : text);
  const filled = JSON.parse(dataset.change, (_, value) => {
    if (typeof value === "string") return valueOf(value);
    if (value === null || typeof value !== "object" || Array.isArray(value)) return value;
    return Object.fromEntries(Object.entries(value).map(([name, inner]) => [valueOf(name), inner]));
  });
  const into = dataset.goes === undefined ? JSON.parse(dataset.into ?? '"sources"') : by("into").value;
  return trying.edit(filled, { into, alone: dataset.alone !== undefined });
}

const doing = {
  disable: ({ property, at }) => trying.edit({ disable: { property } }, { into: at }),
  remove: ({ property, at }) => trying.edit({ "remove-declaration": { property } }, { into: at }),
  class: (data) => trying.edit({ class: { changes: [data.class] } }),
  duplicate: () => trying.edit({ duplicate: {} }),
  "remove-element": () => trying.edit({ "remove-element": {} }),
  unwrap: () => trying.edit({ unwrap: {} }),
  move: ({ side }) => move(side),
  script: ({ edits }) => trying.script(JSON.parse(edits)),
  unsave: () => trying.unsave(),
  discard: () => trying.draft({ do: "discard" }),
  "save-file": ({ file }) => trying.save({ files: [file] }),
  reapply: ({ id }) => trying.draft({ do: "reapply", change: Number(id) }),
  "discard-edit": ({ id }) => trying.draft({ do: "discard", change: Number(id) }),
  "save-edit": ({ id }) => trying.save({ changes: [Number(id)] }),
};

function move(side) {
  const around = by("element").querySelector("[data-chosen]")?.dataset ?? {};
  const beside = { before: around.previous, after: around.next, out: around.parent }[side];
  if (beside === undefined) return tell("There is nothing to move it past.");
  trying.edit({ "move-element": { to: `@${beside}`, side: side === "out" ? "after" : side } });
}

function writeOnPage(button) {
  const isOn = button.getAttribute("aria-pressed") !== "true";
  button.setAttribute("aria-pressed", String(isOn));
  writing = isOn ? column.chosen?.handle ?? null : null;
  frame.send({ kind: "write", of: column.chosen, on: isOn });
}

columnElement.addEventListener("change", (event) => {
  const field = event.target;
  if (field.dataset.do === "switch") trying.draft({ do: "switch", change: Number(field.dataset.id), on: field.checked });
});

// ---- values -------------------------------------------------------------------------------------

function setValue(field, value) {
  const { property, at, way, path } = field.dataset;
  if (way) {
    const known = JSON.parse(way);
    const was = field.dataset.shown ?? known.was;
    frame.sendAll({ kind: "preview", path, way: { ...known, was, value } });
    if (CSS.supports(property, value)) field.dataset.shown = value;
  }
  const key = `${property} ${at} ${column.subject().element}`;
  return trying.edit({ set: { property, value } }, { into: at, key }).then((reply) => {
    if (reply === null && way && field.dataset.shown) {
      const known = JSON.parse(way);
      frame.sendAll({ kind: "preview", path, way: { ...known, was: field.dataset.shown, value: known.was } });
      field.dataset.shown = known.was;
    }
    return reply;
  });
}

columnElement.addEventListener("input", (event) => {
  const field = event.target;
  if (field.matches("input.edits")) {
    if (field.value.trim()) setValue(field, field.value);
    values.offer(field);
  }
  if (field.matches("input.picks")) {
    const text = field.closest(".control").querySelector("input.edits");
    text.value = values.likeBefore(field.value, text.value);
    setValue(text, text.value);
  }
  if (field.name === "declaration") offer(field);
  if (field.name === "class") offerClasses(field);
});

columnElement.addEventListener("focusin", (event) => {
  const field = event.target;
  if (field.matches("input.edits")) values.open(field, (value) => setValue(field, value));
});

columnElement.addEventListener("keydown", (event) => {
  const field = event.target;
  if (field.matches("input.edits, .one-part") && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
    const next = trying.stepped(field.value, field.selectionStart, event.key === "ArrowUp", event);
    if (!next) return;
    event.preventDefault();
    field.value = next.text;
    field.setSelectionRange(next.caret, next.caret);
    if (field.matches(".edits")) setValue(field, next.text);
    else field.dispatchEvent(new Event("input"));
  }
  if (field.matches("input.edits") && event.key === "Escape") {
    event.stopPropagation();
    field.value = field.dataset.was;
    setValue(field, field.value);
    field.blur();
  }
  if (field.matches(".hit") && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
    event.preventDefault();
    event.stopPropagation();
    const all = [...field.closest("section, #results").querySelectorAll(".hit")];
    all[all.indexOf(field) + (event.key === "ArrowDown" ? 1 : -1)]?.focus();
  }
});

let offering = null;
async function offer(field) {
  offering?.abort();
  offering = new AbortController();
  const html = await part("offers", column.subject({ text: field.value }), offering.signal).catch(() => null);
  if (html !== null) by("offers").innerHTML = html;
}

async function offerClasses(field) {
  const answer = await ask({ question: "suggest class", beginning: field.value, ...column.subject() });
  const options = (answer.classes ?? []).slice(0, 40).map((found) => {
    const option = document.createElement("option");
    option.value = found.name;
    return option;
  });
  by("classes")?.replaceChildren(...options);
}

// ---- moving by drag -----------------------------------------------------------------------------

let dragged = null;
columnElement.addEventListener("dragstart", (event) => {
  dragged = event.target.closest?.(".movable .hit")?.dataset.handle ?? null;
});
columnElement.addEventListener("dragover", (event) => {
  if (dragged !== null && event.target.closest(".movable .hit")) event.preventDefault();
});
columnElement.addEventListener("drop", (event) => {
  const target = event.target.closest(".movable .hit");
  if (dragged === null || !target || target.dataset.handle === dragged) return;
  event.preventDefault();
  const box = target.getBoundingClientRect();
  const side = event.clientY < box.top + box.height / 2 ? "before" : "after";
  trying.edit({ "move-element": { to: `@${target.dataset.handle}`, side } }, { element: `@${dragged}` });
  dragged = null;
});

// ---- forms --------------------------------------------------------------------------------------

const forms = {
  "new-declaration": (data) => {
    const [property, ...rest] = data.get("declaration").replace(/;\s*$/, "").split(":");
    if (!rest.length) return tell("Expected a declaration, such as color: navy.", true);
    const value = rest.join(":").trim();
    return trying.edit({ set: { property: property.trim(), value } }, { into: by("into").value });
  },
  "new-rule": (data) => {
    const rule = { declarations: data.get("declarations") };
    if (data.get("selector").trim()) rule.selector = data.get("selector").trim();
    // A rule has no place yet: it goes into a sheet, the override sheet where there is one.
    const sheet = by("into").querySelector("[value=overrides]:not([data-new])") ? "overrides" : "page";
    const into = ["overrides", "page"].includes(by("into").value) ? by("into").value : sheet;
    return trying.edit({ rule }, { into });
  },
  "new-class": (data) => trying.edit({ class: { changes: [`+${data.get("class").replace(/^\./, "")}`] } }),
  "new-text": (data) => trying.edit({ text: { text: data.get("text") } }),
  "new-attribute": (data, submitter) => {
    const attribute = { name: data.get("name") };
    if (submitter?.value === "off") attribute.remove = true;
    else attribute.value = data.get("value");
    return trying.edit({ attribute });
  },
  wrap: (data) => trying.edit({ wrap: { tag: data.get("tag") } }),
  source: (data) => trying.edit({ markup: { source: data.get("source") } }),
  paste: (data) => trying.edit({ insert: { source: data.get("source"), side: data.get("side") } }),
  "whynot-form": async (data) => {
    by("whynot-answer").innerHTML = "<p class=quiet>Looking …</p>";
    by("whynot-answer").innerHTML = await part("whynot", column.subject({ text: data.get("text") }));
  },
};

columnElement.addEventListener("submit", (event) => {
  event.preventDefault();
  const form = event.target;
  // What was taken is out of the fields; what was refused stays there, to be mended.
  Promise.resolve(sent(form, new FormData(form), event.submitter)).then((reply) => reply && form.reset());
});

function sent(form, data, submitter) {
  if (form.matches(".adds")) {
    const { property } = form.dataset;
    const value = data.get("value").trim();
    return value && trying.edit({ set: { property, value } }, { into: data.get("into") });
  }
  if (form.dataset.change) return change(form, data);
  return Object.hasOwn(forms, form.id) && forms[form.id](data, submitter);
}

// ---- environment -------------------------------------------------------------------------------

for (const id of ["medium", "scheme", "motion", "pixels", "text-size"]) {
  by(id).addEventListener("change", () => {
    frame.assume();
    column.refresh();
  });
}
for (const box of document.querySelectorAll("input[name=state]")) {
  box.addEventListener("change", () => {
    const states = [...document.querySelectorAll("input[name=state]:checked")].map((one) => one.value);
    frame.setStates(column.chosen, states);
    column.refresh();
  });
}
let settling = null;
frame.onResize(() => {
  clearTimeout(settling);
  settling = setTimeout(() => column.refresh(), 120);
});
document.addEventListener("shown", () => {
  if (frame.states()) frame.send({ kind: "states", of: column.chosen, states: frame.states().split(" ") });
});

async function widths() {
  const answer = await askWidths({ page: frame.pageOf() });
  frame.offerWidths(answer.widths ?? []);
}

// ---- keys ---------------------------------------------------------------------------------------

by("undo").addEventListener("click", () => trying.draft({ do: "undo" }));
by("redo").addEventListener("click", () => trying.draft({ do: "redo" }));
by("before").addEventListener("click", before);
by("own-tab").addEventListener("click", () => frame.openTab());
by("show-keys").addEventListener("click", () => by("keys").showModal());

async function before() {
  const isOn = by("before").getAttribute("aria-pressed") !== "true";
  by("before").setAttribute("aria-pressed", String(isOn));
  document.body.classList.toggle("before", isOn);
  frame.sendAll({ kind: "before", on: isOn });
}

let measuringFrom = null;
const keys = {
  p: () => frame.point(),
  "/": () => by("ask").focus(),
  1: () => column.goTo("find"),
  2: () => column.goTo("why"),
  3: () => column.goTo("try"),
  4: () => column.goTo("save"),
  ArrowLeft: () => column.stepTo("parent"),
  ArrowRight: () => column.stepTo("child"),
  ArrowUp: () => column.stepTo("previous"),
  ArrowDown: () => column.stepTo("next"),
  "[": () => column.back(-1),
  "]": () => column.back(1),
  v: () => frame.send({ kind: "show", of: column.chosen }),
  h: () => frame.send({ kind: "aside", of: column.chosen, how: "hide" }),
  H: () => frame.send({ kind: "aside", of: column.chosen, how: "alone" }),
  c: () => {
    measuringFrom = column.chosen;
    frame.point(true);
    tell("Point at the element to measure to.");
  },
  b: () => before(),
  u: () => trying.draft({ do: "undo" }),
  U: () => trying.draft({ do: "redo" }),
  "?": () => by("keys").showModal(),
  Escape: () => {
    frame.point(false);
    frame.send({ kind: "aside", how: "back" });
  },
};

frame.on("pointed", async (message) => {
  if (!measuringFrom) return;
  const answer = await frame.ask({ kind: "distance", from: measuringFrom, to: message.at.of });
  const { across, down } = answer?.apart ?? {};
  if (across !== undefined) tell(`${Math.round(Math.max(0, across))} px across, ${Math.round(Math.max(0, down))} px down to ${message.at.label}`);
});
frame.on("chosen", () => (measuringFrom = null));

document.addEventListener("keydown", (event) => {
  if ((event.ctrlKey || event.metaKey) && event.key === "s") {
    event.preventDefault();
    return trying.save();
  }
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  // With Shift the arrow keys move the element itself.
  const sides = { ArrowUp: "before", ArrowDown: "after", ArrowLeft: "out" };
  const side = event.shiftKey ? sides[event.key] : undefined;
  const isWriting = event.target.matches("input:not([type=checkbox], [type=color]), textarea, select");
  if (isWriting || (event.target.matches("summary") && event.key.startsWith("Arrow"))) return;
  if (!Object.hasOwn(keys, event.key)) return;
  event.preventDefault();
  if (side) return move(side);
  keys[event.key]();
});

column.goTo("find");
column.showSave();
widths();
frame.greet();
document.body.dataset.ready = "";
