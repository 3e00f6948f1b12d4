// The agent: the desk's small part in each page of the site.
//
// It keeps the page and its source together (which element is which), says what is pointed at and how
// large it is, and puts changes into the page without a reload. It asks the desk for nothing and holds no
// token: docs/api.md has the messages.
//
// These files are one script, in one function, in the order in which src/assets.rs has them.

const script = document.currentScript;
const told = JSON.parse(script.dataset.told);
script.remove();

const PROTOCOL = told.fingerpost;
const HANDLE = "data-fingerpost-handle";
const HELD = "data-fingerpost-held";
const ASIDE = "data-fingerpost-aside";
const ASKED = "data-fingerpost-asked";
const desk = window.top !== window ? window.top : window.opener;
