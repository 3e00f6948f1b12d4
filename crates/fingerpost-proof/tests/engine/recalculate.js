// All sheets off and on again, and one computed value read, which forces the styles of the whole page to be
// worked out. The color needs no layout.
const [selector, rounds] = arguments;
const element = document.querySelector(selector);
const color = () => getComputedStyle(element).color;
const sheets = [...document.styleSheets];
const times = [];
for (let round = 0; round < rounds; round += 1) {
  for (const sheet of sheets) sheet.disabled = true;
  color();
  for (const sheet of sheets) sheet.disabled = false;
  const begun = performance.now();
  color();
  times.push(performance.now() - begun);
}
return [color(), times];
