// Changes of sheets and of other files: swapped without a flash, or one value set in the browser's own sheet.

// What was set in the browser's own sheet is read as a whole when there is time.
const READ_AFTER = 8000;

/** @typedef {{ kind: "sheet" | "page" | "other", path: string, quick?: Way }} ChangedFile */

/**
 * @param {Told} told
 * @param {Elements} elements
 * @param {Shown} shown
 * @param {Embedded} embedded
 * @param {Say} say
 */
function makeSheets(told, elements, shown, embedded, say) {
  const browserSheets = makeBrowserSheets();
  /** @type {Map<string, number>} */
  const later = new Map();
  let version = told.version;

  /** @param {HTMLLinkElement} link */
  const isSheet = (link) => link.relList.contains("stylesheet") && link.href !== "";
  const links = () => [...document.querySelectorAll("link")].filter(isSheet);
  /** @param {ChangedFile} file */
  const pathOf = (file) => file.path.split("?")[0];

  // The new sheet is there before the old one goes, so that nothing flashes.
  /** @param {HTMLLinkElement} link */
  function swap(link) {
    if (!isOfSite(link.href)) return Promise.resolve();
    return new Promise((/** @type {(value: void) => void} */ done) => {
      const fresh = /** @type {HTMLLinkElement} */ (link.cloneNode());
      const url = shown.url(link.href);
      url.searchParams.set("fingerpost-state", String(version));
      fresh.href = url.href;
      const finish = () => {
        link.remove();
        done();
      };
      fresh.addEventListener("load", finish, { once: true });
      fresh.addEventListener("error", finish, { once: true });
      const handle = elements.handleOf(link);
      if (handle !== undefined) elements.know(fresh, handle);
      embedded.carryMedia(link, fresh);
      link.after(fresh);
    });
  }

  const swapAll = () => Promise.all(links().map(swap));

  /** @param {ChangedFile} file */
  function linksOf(file) {
    const all = links();
    const own = all.filter((link) => new URL(link.href).pathname === pathOf(file));
    // A sheet that another one imports comes with that one.
    return own.length ? own : all;
  }

  /** @param {ChangedFile} file */
  function setQuickly(file) {
    const { quick } = file;
    if (!quick || shown.isBefore()) return false;
    const found = sheetsOf(document.styleSheets, pathOf(file));
    return found.length > 0 && found.every((sheet) => browserSheets.setIn(sheet, quick));
  }

  /** @param {ChangedFile} file */
  function swapLater(file) {
    clearTimeout(later.get(file.path));
    const work = () => {
      later.delete(file.path);
      for (const link of linksOf(file)) swap(link);
    };
    later.set(file.path, window.setTimeout(work, READ_AFTER));
  }

  /** @param {string} path */
  function refreshImages(path) {
    for (const image of document.images) {
      const url = new URL(image.src, document.baseURI);
      if (url.pathname !== path) continue;
      url.searchParams.set("fingerpost-state", String(version));
      image.src = url.href;
    }
  }

  /** @param {Record<string, unknown>} more */
  function sayPainted(more) {
    const channel = new MessageChannel();
    channel.port1.onmessage = () => say({ kind: "painted", at: performance.timeOrigin + performance.now(), ...more });
    requestAnimationFrame(() => channel.port2.postMessage(null));
  }

  /**
   * A value while it is being written, before the server has answered.
   * @param {string} path
   * @param {Way} way
   */
  function preview(path, way) {
    if (shown.isBefore()) return;
    for (const sheet of sheetsOf(document.styleSheets, path)) browserSheets.setIn(sheet, way);
    sayPainted({ preview: true });
  }

  /**
   * Puts a change of files into the page.
   * @param {number} next
   * @param {ChangedFile[]} files
   * @param {() => Promise<void>} patchMarkup
   */
  async function change(next, files, patchMarkup) {
    if (next <= version) return;
    version = next;
    /** @type {Promise<void>[]} */
    const work = [];
    for (const file of files) {
      if (file.kind === "other") refreshImages(file.path);
      if (file.kind === "page" && pathOf(file) === location.pathname) work.push(patchMarkup());
      if (file.kind !== "sheet") continue;
      if (setQuickly(file)) swapLater(file);
      else work.push(...linksOf(file).map(swap));
    }
    await Promise.all(work);
    say({ kind: "changed", version: next });
    say({ kind: "moved" });
    sayPainted({ version: next });
  }

  return { swapAll, preview, change };
}
