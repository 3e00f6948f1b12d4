//! Edits that are understood and can't be made: what they would swallow, change to nothing, or put where it can't stand.

use super::refused;

#[test]
fn what_would_swallow_what_stands_behind_it() {
    refused(&[
        (
            "condition pages/home.html css/skerry.css:533 '(max-width: 40rem) {'",
            2,
            "'(max-width: 40rem) {': a bracket is never closed",
        ),
        (
            "enclose pages/home.html css/skerry.css:255 '@media ('",
            2,
            "'@media (': a bracket is never closed",
        ),
        (
            "at-rule pages/home.html '@keyframes fade { to { opacity: 0 }'",
            2,
            "'@keyframes fade { to { opacity: 0 }': a bracket is never closed",
        ),
        (
            "at-rule pages/home.html fade",
            2,
            "'fade': the sheet ends inside a rule; expected { after the selector",
        ),
        (
            "enclose pages/home.html css/skerry.css:255 @import",
            2,
            "'@import': expected @media, @supports, @container, @layer, @scope or @starting-style with what belongs to it",
        ),
        (
            "markup pages/home.html h2.today '<!-- x' --inner",
            2,
            "this markup can't be put in: a comment, a tag, or an element such as <script> or <textarea> is never closed, and would swallow what comes after it: <!-- x",
        ),
        (
            "set pages/home.html h2.today color 'red /* x'",
            2,
            "'red /* x' is not one value: a comment is never closed; give the value alone",
        ),
        (
            "set pages/home.html h2.today background 'url(x'",
            2,
            "'url(x' is not one value: url(x is never closed; give the value alone",
        ),
        (
            "set pages/home.html h2.today content '\"x'",
            2,
            "'\"x' is not one value: the string \"x is never closed; give the value alone",
        ),
        (
            "set pages/home.html .hero-title color 'red</style>' --into page",
            2,
            "color: red</style> is not valid: '<' does not fit color; expected nothing more",
        ),
        (
            "rule pages/home.html h2.today 'color: red } p { color: blue'",
            2,
            "'color: red } p { color: blue': '}' closes nothing",
        ),
        (
            "selector pages/home.html css/skerry.css:255 --add '.x /* y'",
            2,
            "'.x /* y' is not a valid selector: a comment is never closed",
        ),
        (
            "insert pages/home.html h2.today '<textarea>' --side after",
            2,
            "this markup can't be put in: a comment, a tag, or an element such as <script> or <textarea> is never closed, and would swallow what comes after it: <textarea>",
        ),
        (
            "text pages/home.html style 'x </style> y'",
            2,
            "pages/home.html:10:3: the text would end the element early",
        ),
    ]);
}

#[test]
fn changes_that_would_change_nothing() {
    refused(&[
        (
            "set pages/home.html h2.today color 'var(--brass)'",
            1,
            "color is already var(--brass), at css/skerry.css:256:3",
        ),
        (
            "enable pages/home.html h2.today color",
            1,
            "nothing would change: no rule that matches h2.panel-title.today contains a commented-out declaration of color",
        ),
        (
            "convert-color pages/home.html .note padding hsl",
            1,
            "nothing would change: '.5em .75em' contains no color",
        ),
        (
            "step pages/home.html .sailings margin-top +1",
            1,
            "nothing sets margin-top on section.panel.sailings: it has its initial value. There is no declaration to change",
        ),
        (
            "new-sheet pages/home.html css/base.css",
            1,
            "nothing would change: css/base.css is there and linked already",
        ),
        (
            "rename pages/home.html class nothing something",
            1,
            "nothing would change: nothing in the site is called .nothing",
        ),
        (
            "attribute pages/home.html .hero nothing --remove",
            1,
            "nothing would change: it has no attribute nothing",
        ),
        (
            "class pages/home.html h2.today +today",
            1,
            "nothing would change: class is 'panel-title today' already",
        ),
        (
            "class pages/home.html h2.today -nothing",
            1,
            "nothing would change: class is 'panel-title today' already",
        ),
        (
            "text pages/home.html figcaption x --from nothing",
            1,
            "nothing would change: the element does not contain the text 'nothing'",
        ),
        (
            "text pages/home.html .hero words",
            2,
            "pages/home.html:29:5: the element has several texts; name the one to change: 'Six islands, one boat', 'Across the sound in forty minutes, with tea on board.', 'See the fares', 'Timetable'",
        ),
    ]);
}

#[test]
fn elements_that_can_not_stand_there() {
    refused(&[
        (
            "move-element pages/home.html main h2.today --side last",
            2,
            "pages/home.html:38:9: an element can't be moved beside or into itself",
        ),
        (
            "move-element pages/home.html h2.today h2.today --side after",
            2,
            "pages/home.html:38:9: an element can't be moved beside or into itself",
        ),
        (
            "wrap pages/home.html h2.today '<br>'",
            2,
            "pages/home.html:38:9: <br> can't contain anything",
        ),
        (
            "insert pages/home.html '.brand img' '<p>x</p>' --side first",
            2,
            "<img>: the element can't have content",
        ),
        (
            "wrap pages/home.html h2.today '<p'",
            2,
            "'<p' is not the name of an element; expected one, or a start tag such as <div class=\"wide\">",
        ),
    ]);
}
