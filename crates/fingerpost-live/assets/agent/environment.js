// An environment that the browser does not have, and the page without its draft.

let assumed = { at: null, held: false };
let isBefore = false;
const written = new WeakMap(); // <style> or <meta> → what the page has there

const isSheet = (link) => link.relList.contains("stylesheet") && link.href;

function ofSite(url) {
  return new URL(url, document.baseURI).origin === location.origin;
}

const OWN_PARAMETERS = ["fingerpost-at", "fingerpost-held", "fingerpost-before", "fingerpost-state"];

function shownUrl(href) {
  const url = new URL(href, document.baseURI);
  for (const name of OWN_PARAMETERS) url.searchParams.delete(name);
  if (isBefore) url.searchParams.set("fingerpost-before", "");
  if (assumed.at !== null || assumed.held) {
    url.searchParams.set("fingerpost-at", assumed.at ?? "");
    if (assumed.held) url.searchParams.set("fingerpost-held", "");
  }
  return url;
}

async function assume(at, held, text) {
  textSize = text ?? "";
  refreshOwn();
  const same = assumed.at === (at || null) && assumed.held === held;
  assumed = { at: at || null, held };
  if (!same) {
    schemes();
    await Promise.all([...document.querySelectorAll("link")].filter(isSheet).map((link) => swap(link)));
    await Promise.all([...document.querySelectorAll("style")].map(embedded));
    await Promise.all([...document.querySelectorAll("link[media], style[media], source[media]")].map(media));
  }
  say({ kind: "assumed" });
  say({ kind: "moved" });
}

// A page whose <meta> takes both color schemes is shown in the assumed one.
function schemes() {
  const scheme = assumed.at?.match(/prefers-color-scheme=(light|dark)/)?.[1];
  for (const meta of document.querySelectorAll("meta[name=color-scheme]")) {
    const was = written.get(meta) ?? meta.content;
    written.set(meta, was);
    const isBoth = /\blight\b/.test(was) && /\bdark\b/.test(was);
    const shown = scheme && isBoth ? scheme : was;
    if (meta.content !== shown) meta.content = shown;
  }
}

// The page as the files have it, without the draft.
async function showBefore(on) {
  if (isBefore === on) return;
  isBefore = on;
  await Promise.all([...document.querySelectorAll("link")].filter(isSheet).map((link) => swap(link)));
  await patch();
  say({ kind: "moved" });
}

async function embedded(style) {
  const handle = handles.get(style);
  if (handle === undefined) return;
  if (assumed.at === null && !assumed.held) {
    if (written.has(style)) style.textContent = written.get(style);
    written.delete(style);
    return;
  }
  const query = new URLSearchParams({ page: told.page, handle, at: assumed.at ?? "" });
  if (assumed.held) query.set("held", "");
  const answer = await fetch(`/.fingerpost/embedded?${query}`);
  if (!answer.ok) return;
  if (!written.has(style)) written.set(style, style.textContent);
  const shown = await answer.text();
  if (shown !== style.textContent) style.textContent = shown;
}

const mediaWritten = new WeakMap();
async function media(element) {
  const was = mediaWritten.get(element) ?? element.getAttribute("media");
  if (assumed.at === null) {
    element.setAttribute("media", was);
    mediaWritten.delete(element);
    return;
  }
  mediaWritten.set(element, was);
  const query = new URLSearchParams({ query: was, at: assumed.at });
  const answer = await fetch(`/.fingerpost/media?${query}`);
  if (answer.ok) element.setAttribute("media", await answer.text());
}
