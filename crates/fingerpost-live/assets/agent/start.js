// The agent: the desk's small part in each page of the site.
//
// It keeps the page and its source together (which element is which), says what is pointed at and how
// large it is, and puts changes into the page without a reload. It asks the desk for nothing and holds no
// token: docs/api.md has the messages.
//
// The page gets one script, whose body these files are (src/assets.rs). Each file has functions that are given what
// they need, and nothing else at its top but constants. Here they are put together.

(() => {
  const script = /** @type {HTMLScriptElement} */ (document.currentScript);
  /** @type {Told} */
  const told = JSON.parse(script.dataset.told ?? "{}");
  script.remove();

  const { say, answerWith } = makeMessages(told);
  const elements = makeElements(told, say);
  const measure = makeMeasure(elements, makeFonts());
  const pointing = makePointing(measure, say);
  const states = makeStates(say);
  const writing = makeWriting(elements, pointing, say);
  const painting = makePainting();
  const shown = makeShown();
  const embedded = makeEmbedded(told, elements, shown);
  const sheets = makeSheets(told, elements, shown, embedded, say);
  const markup = makeMarkup(told, elements, shown, embedded, say);

  /** @type {(message: { environment: string, held: boolean, text?: string }) => Promise<void>} */
  async function assume({ environment, held, text }) {
    states.setTextSize(text);
    if (shown.assume(environment, held)) {
      embedded.refreshSchemes();
      await sheets.swapAll();
      await embedded.refreshStyles();
      await embedded.refreshAllMedia();
    }
    say({ kind: "assumed" });
    say({ kind: "moved" });
  }

  // The page as the files have it, without the draft, and back.
  /** @type {(message: { on: boolean }) => Promise<void>} */
  async function showBefore({ on }) {
    if (!shown.setBefore(on)) return;
    await sheets.swapAll();
    await markup.patch();
    say({ kind: "moved" });
  }

  answerWith({
    hello: () => say({ kind: "here", version: told.version, title: document.title }),
    point: ({ on }) => pointing.set(on),
    look: ({ of, ask }) => {
      const element = elements.meant(of);
      if (element) say({ kind: "measured", ask, at: measure.measured(element) });
      else say({ kind: "gone", ask, of });
    },
    mark: ({ of, ask }) => {
      const rects = /** @type {ElementName[]} */ (of).flatMap((name) => {
        const element = elements.meant(name);
        return element ? [measure.rectOf(element)] : [];
      });
      say({ kind: "marked", ask, rects: rects.slice(0, 400) });
    },
    behind: async ({ of, ask }) => {
      const element = elements.meant(of);
      if (element) say({ kind: "behind", ask, painted: await painting.painted(element) });
    },
    show: ({ of }) => elements.meant(of)?.scrollIntoView({ block: "center", inline: "nearest", behavior: "instant" }),
    states: ({ of, states: held }) => states.holdIn(elements.meant(of), held),
    aside: ({ of, how }) => states.setAside(elements.meant(of), how),
    write: ({ of, on }) => writing.write(elements.meant(of), on),
    markup: ({ of, ask }) => say({ kind: "markup", ask, markup: markupWith(elements.meant(of)) }),
    assume,
    before: showBefore,
    change: ({ version, files }) => sheets.change(version, files, markup.patch),
    preview: ({ path, way }) => sheets.preview(path, way),
    distance: ({ from, to, ask }) => {
      const [one, other] = [elements.meant(from), elements.meant(to)];
      if (one && other) say({ kind: "apart", ask, apart: distance(measure.rectOf(one), measure.rectOf(other)) });
    },
    go: ({ path }) => location.assign(path),
  });
})();
