// Messages: what the desk asks, and what answers it.

function say(message) {
  if (desk) desk.postMessage({ fingerpost: PROTOCOL, page: told.page, size: [innerWidth, innerHeight], ...message }, told.desk);
}

const answers = {
  hello: () => say({ kind: "here", version: told.version, title: document.title }),
  point: ({ on }) => setPointing(on),
  look: ({ of, ask }) => {
    const element = meant(of);
    if (element) say({ kind: "measured", ask, at: measured(element) });
    else say({ kind: "gone", of });
  },
  mark: ({ of, ask }) => {
    const found = of.map((name) => meant(name)).filter(Boolean);
    say({ kind: "marked", ask, rects: found.slice(0, 400).map(rectOf) });
  },
  behind: async ({ of, ask }) => {
    const element = meant(of);
    if (element) say({ kind: "behind", ask, painted: await painted(element) });
  },
  show: ({ of }) => meant(of)?.scrollIntoView({ block: "center", inline: "nearest", behavior: "instant" }),
  states: ({ of, states }) => holdIn(meant(of), states),
  aside: ({ of, how }) => setAside(meant(of), how),
  write: ({ of, on }) => write(meant(of), on),
  markup: ({ of, ask }) => say({ kind: "markup", ask, markup: markupWith(meant(of)) }),
  assume: ({ environment, held, text }) => assume(environment, held, text),
  before: ({ on }) => showBefore(on),
  change: ({ version, files }) => change(version, files),
  preview: ({ path, way }) => preview(path, way),
  distance: ({ from, to, ask }) => {
    const [one, other] = [meant(from), meant(to)];
    if (one && other) say({ kind: "apart", ask, apart: apart(rectOf(one), rectOf(other)) });
  },
  go: ({ path }) => location.assign(path),
};

window.addEventListener("message", (event) => {
  if (event.origin !== told.desk || event.source !== desk) return;
  const message = event.data;
  if (message?.fingerpost !== PROTOCOL || !Object.hasOwn(answers, message.kind)) return;
  answers[message.kind](message);
});
