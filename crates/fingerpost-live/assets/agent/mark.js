// The mark over an element. In its own tab the page draws it itself; in the frame the desk does, over it.

function makeMark() {
  /** @type {{ host: HTMLElement, box: HTMLElement, name: HTMLElement } | null} */
  let mark = null;

  function made() {
    const host = document.createElement("fingerpost-mark");
    host.style.cssText = "all: initial; position: fixed; inset: 0; pointer-events: none; z-index: 2147483647";
    const box = document.createElement("div");
    box.style.cssText = "position: absolute; outline: 2px dashed #b4541a; background: #b4541a22; font: 12px system-ui";
    const name = document.createElement("span");
    name.style.cssText = "position: absolute; bottom: 100%; left: 0; background: #1d2730; color: #fff; padding: 2px 7px; white-space: nowrap";
    box.append(name);
    host.attachShadow({ mode: "closed" }).append(box);
    document.documentElement.append(host);
    return { host, box, name };
  }

  /** @param {Element | null} element */
  function draw(element) {
    if (window.top !== window || !element) {
      mark?.host.remove();
      mark = null;
      return;
    }
    mark ??= made();
    const rect = element.getBoundingClientRect();
    Object.assign(mark.box.style, {
      left: `${rect.left}px`,
      top: `${rect.top}px`,
      width: `${rect.width}px`,
      height: `${rect.height}px`,
    });
    mark.name.textContent = `${label(element)} ${Math.round(rect.width)} × ${Math.round(rect.height)}`;
  }

  return { draw };
}
