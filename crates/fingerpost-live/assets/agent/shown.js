// What the page shows: with the draft or without it, and in which assumed environment.

const OWN_PARAMETERS = ["fingerpost-at", "fingerpost-held", "fingerpost-before", "fingerpost-state"];

/** @typedef {ReturnType<typeof makeShown>} Shown */

function makeShown() {
  let isBefore = false;
  /** @type {string | null} */
  let environment = null;
  let isHeld = false;

  /** @param {boolean} on */
  function setBefore(on) {
    const isNew = isBefore !== on;
    isBefore = on;
    return isNew;
  }

  /**
   * @param {string} assumed
   * @param {boolean} held
   */
  function assume(assumed, held) {
    const isNew = environment !== (assumed || null) || isHeld !== held;
    environment = assumed || null;
    isHeld = held;
    return isNew;
  }

  const isAssuming = () => environment !== null || isHeld;

  // The URL under which the desk serves a sheet as it is shown now.
  /** @param {string} href */
  function url(href) {
    const shown = new URL(href, document.baseURI);
    for (const name of OWN_PARAMETERS) shown.searchParams.delete(name);
    if (isBefore) shown.searchParams.set("fingerpost-before", "");
    if (isAssuming()) {
      shown.searchParams.set("fingerpost-at", environment ?? "");
      if (isHeld) shown.searchParams.set("fingerpost-held", "");
    }
    return shown;
  }

  // The page's own source as it is shown now.
  function pageUrl() {
    const shown = new URL(location.href);
    if (isBefore) shown.searchParams.set("fingerpost-before", "");
    return shown.href;
  }

  // The page's own source as it came: a server is not asked again, which may answer otherwise by now.
  function sourceUrl() {
    const { origin, pathname, search } = location;
    return `${origin}${pathname}${search}${search ? "&" : "?"}fingerpost-again`;
  }

  return {
    setBefore,
    assume,
    isAssuming,
    url,
    pageUrl,
    sourceUrl,
    isBefore: () => isBefore,
    isHeld: () => isHeld,
    environment: () => environment,
  };
}
