// What the desk asks its server for: parts of its page, and changes.

const body = document.body;

/** What the server said of this desk. */
export const told = {
  token: body.dataset.token,
  page: body.dataset.page,
  origin: body.dataset.pageOrigin,
  path: body.dataset.path,
  readOnly: body.dataset.readOnly !== undefined,
};
// The token is in no element for longer than this.
delete body.dataset.token;

const status = document.querySelector("#said");

/** How long a message stays: one that says what was done, one that says what went wrong, one with something to press. */
const STAYS = { done: 5000, problem: 12000, choice: 60000 };

let timer;
/**
 * Says something on the screen, and to screen readers; with ways on, each a button.
 * @param {string} text
 * @param {boolean} isProblem
 * @param {{ label: string, follow: () => void }[]} ways
 */
export function tell(text, isProblem = false, ways = []) {
  status.textContent = text;
  status.classList.toggle("bad", isProblem);
  for (const { label, follow } of ways) {
    const button = document.createElement("button");
    button.type = "button";
    button.textContent = capital(label);
    button.addEventListener("click", () => {
      status.textContent = "";
      follow();
    });
    status.append(" ", button);
  }
  leaveAfter(ways.length > 0 ? STAYS.choice : isProblem ? STAYS.problem : STAYS.done);
}

/** @param {number} stays */
function leaveAfter(stays) {
  clearTimeout(timer);
  timer = setTimeout(() => (status.textContent = ""), stays);
}

/**
 * Says what should be known of something that was done: all at once, and as long as a problem is said.
 * @param {string[]} warnings
 */
export function warn(warnings = []) {
  if (warnings.length === 0) return;
  tell(warnings.map(sentence).join(" "));
  leaveAfter(STAYS.problem);
}

/** @param {string} words */
function sentence(words) {
  // A selector or a file at the beginning stays as it is.
  const isWord = /^[a-z]+ /.test(words);
  return `${isWord ? capital(words) : words}.`;
}

/** @param {string} words */
const capital = (words) => words.charAt(0).toUpperCase() + words.slice(1);

// What was read is put away by a click.
status.addEventListener("click", (event) => {
  if (event.target === status) status.textContent = "";
});

let followEdits = (_edits) => {};
/**
 * Who makes the edits that advice is made of.
 * @param {(edits: object[]) => void} back
 */
export function onAdvice(back) {
  followEdits = back;
}

function queryOf(params) {
  const known = Object.entries(params).filter(([, value]) => value !== undefined && value !== null && value !== "");
  return new URLSearchParams(known).toString();
}

// A press is a click only where what is pressed stays until it is released, so parts that come meanwhile wait. A release outside
// of the window is never heard: they don't wait longer than this.
const LONGEST_PRESS = 600;

let released = Promise.resolve();
addEventListener(
  "pointerdown",
  () => {
    released = new Promise((resolve) => {
      // The click comes after the release.
      const soon = () => setTimeout(resolve);
      addEventListener("pointerup", soon, { capture: true, once: true });
      addEventListener("pointercancel", soon, { capture: true, once: true });
      setTimeout(resolve, LONGEST_PRESS);
    });
  },
  { capture: true },
);

/** A part of the desk's page, as markup; a refusal is a part too. */
export async function part(name, params = {}, signal = undefined) {
  const answer = await fetch(`/part/${name}?${queryOf(params)}`, { signal });
  const html = await answer.text();
  await released;
  return html;
}

/** What the API says, as JSON. */
async function get(name, params) {
  const answer = await fetch(`/api/${name}?${queryOf(params)}`);
  return answer.json();
}

/**
 * A question.
 * @param {AskParams} params
 */
export function ask(params) {
  return get("ask", params);
}

/**
 * The widths at which to look at a page.
 * @param {{ page: string }} params
 */
export function askWidths(params) {
  return get("widths", params);
}

/** A change. Gives the answer; null where it is refused, which is said. */
export async function send(name, what = {}) {
  const answer = await fetch(`/${name}`, {
    method: "POST",
    headers: { "content-type": "application/json", "fingerpost-token": told.token },
    body: JSON.stringify(what),
  });
  if (answer.headers.get("content-type")?.startsWith("text/html")) return answer.text();
  const reply = await answer.json().catch(() => ({ error: { message: "the desk's server does not answer" } }));
  if (reply.error) {
    const advice = (reply.error.advice ?? []).filter((one) => one.do === "edit");
    const ways = advice.map(({ label, edits }) => ({ label, follow: () => followEdits(edits) }));
    tell(reply.error.message, true, ways);
    return null;
  }
  return reply;
}

/** Calls back with each event; the browser connects again by itself. */
export function listen(back) {
  const stream = new EventSource("/api/events");
  let wasLost = false;
  stream.onmessage = (event) => back(JSON.parse(event.data));
  stream.onerror = () => {
    wasLost = true;
    tell("The desk's server is not there. Your changes are kept in the draft.", true);
  };
  stream.onopen = () => {
    if (wasLost) location.reload();
  };
}
