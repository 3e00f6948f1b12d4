//! The large page that benches ask about: about 10,000 elements in the classes of a grid
//! framework, in some hundred different styles; shared by the benches with `#[path]`.

use std::fmt::Write as _;

/// How many cards the page has; each is 19 elements.
const CARDS: usize = 526;

/// The variants of cards: with as many spaces as there are they make 24 kinds of cards.
const VARIANTS: [&str; 8] = [
    "primary",
    "secondary",
    "success",
    "danger",
    "warning",
    "info",
    "light",
    "dark",
];

/// How many steps of space the framework has.
const SPACES: usize = 6;

/// The page's HTML, with its sheet linked as `bootstrap.css`.
pub fn html() -> String {
    html_of(CARDS)
}

/// The same with another number of cards.
pub fn html_of(cards: usize) -> String {
    let mut html = String::from(
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n\
         <title>Large</title>\n<link rel=\"stylesheet\" href=\"bootstrap.css\">\n</head>\n\
         <body class=\"bg-light\">\n<main class=\"container py-4\" id=\"content\">\n<div class=\"row g-3\">\n",
    );
    for card in 0..cards {
        let (variant, space) = (VARIANTS[card % VARIANTS.len()], card % SPACES);
        let _ = write!(
            html,
            "<div class=\"col-12 col-md-6 col-lg-4\">\n  <article class=\"card h-100 shadow-sm border-{variant} m-{space}\" id=\"card-{card}\">\n    \
             <img class=\"card-img-top\" src=\"images/{card}.svg\" alt=\"Boat {card}\">\n    \
             <div class=\"card-body d-flex flex-column p-{space}\">\n      \
             <h2 class=\"card-title h5\">Crossing {card} <span class=\"badge text-bg-{variant}\">new</span></h2>\n      \
             <p class=\"card-text\">From the stone pier to the outer islands &amp; back, \
             with <em>tea</em> on <strong>board</strong>.</p>\n      \
             <ul class=\"list-group list-group-flush\">\n        \
             <li class=\"list-group-item\">Leaves at <time>07:{minute:02}</time></li>\n        \
             <li class=\"list-group-item active\" aria-current=\"true\">Arrives</li>\n        \
             <li class=\"list-group-item\"><a class=\"link-primary\" href=\"/pier/{card}\">Pier</a></li>\n      \
             </ul>\n      \
             <p class=\"mt-auto\"><a class=\"btn btn-{variant}\" href=\"/book/{card}\">Book</a> \
             <button class=\"btn btn-outline-{variant}\" type=\"button\" disabled>Later</button></p>\n    \
             </div>\n  </article>\n</div>\n",
            minute = card % 60,
        );
    }
    html.push_str("</div>\n</main>\n</body>\n</html>\n");
    html
}
