// An element's name for people: `h2.today`.

/** @param {Element} element */
function label(element) {
  const id = element.id ? `#${element.id}` : "";
  const classes = [...element.classList].filter((name) => !name.startsWith("fingerpost")).map((name) => `.${name}`);
  return element.localName + id + classes.join("");
}
