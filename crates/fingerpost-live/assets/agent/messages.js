// Messages between the page and the desk: docs/api.md has them all.

/**
 * What the desk told the agent about this page.
 * @typedef {{ fingerpost: number, page: string, version: number, desk: string, implied: Implied[] }} Told
 */
/**
 * An element without a tag in the source: its parent's handle, its name, its own handle.
 * @typedef {[parent: number, tag: string, handle: number]} Implied
 */
/**
 * How a message names an element: by its handle, or by a number where a script made it.
 * @typedef {{ handle?: number, made?: number }} ElementName
 */
/** @typedef {(message: { kind: string, [part: string]: unknown }) => void} Say */

/**
 * The way to the desk: in the window around this one, or the one that opened it.
 * @param {Told} told
 */
function makeMessages(told) {
  /** @type {Window | null} */
  const desk = window.top !== window ? window.top : window.opener;

  /** @type {Say} */
  function say(message) {
    const size = [innerWidth, innerHeight];
    desk?.postMessage({ fingerpost: told.fingerpost, page: told.page, size, ...message }, told.desk);
  }

  /**
   * Answers what the desk asks, by the kind of each message.
   * @param {Record<string, (message: any) => unknown>} answers
   */
  function answerWith(answers) {
    window.addEventListener("message", (event) => {
      if (event.origin !== told.desk || event.source !== desk) return;
      const message = event.data;
      if (message?.fingerpost !== told.fingerpost || !Object.hasOwn(answers, message.kind)) return;
      answers[message.kind](message);
    });
  }

  return { say, answerWith };
}
