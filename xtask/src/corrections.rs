//! Where the extract says something else than browsers' engines and the rest of the standards do.
//! Each entry has its reason; take one out when the extract has caught up.

/// Shorthands of a draft that are still longhands in the published standards and in engines.
pub const LONGHANDS_STILL: &[&str] = &[
    // CSS Text 4 splits it into text-align-all and text-align-last; CSS Text 3 has a longhand.
    "text-align",
    // Animations 2 splits it in two; Animations 1 and engines have a longhand.
    "animation-delay",
    // Borders 4 splits it in five; Backgrounds 3 and engines have a longhand.
    "box-shadow",
    "-webkit-box-shadow",
    // Overflow 4 makes them shorthands; engines have longhands.
    "overflow-clip-margin",
    "-webkit-line-clamp",
    // CSS Inline 3 makes it a shorthand; CSS 2 has a longhand.
    "vertical-align",
];

/// Other names that engines take, which the extract does not have: the prefixed ones that the
/// Compatibility standard does not list, and the old names of page breaks (Fragmentation 3 § 3.4).
pub const ALIASES: &[(&str, &str)] = &[
    ("-webkit-background-clip", "background-clip"),
    ("-webkit-border-after", "border-block-end"),
    ("-webkit-border-after-color", "border-block-end-color"),
    ("-webkit-border-after-style", "border-block-end-style"),
    ("-webkit-border-after-width", "border-block-end-width"),
    ("-webkit-border-before", "border-block-start"),
    ("-webkit-border-before-color", "border-block-start-color"),
    ("-webkit-border-before-style", "border-block-start-style"),
    ("-webkit-border-before-width", "border-block-start-width"),
    ("-webkit-border-end", "border-inline-end"),
    ("-webkit-border-end-color", "border-inline-end-color"),
    ("-webkit-border-end-style", "border-inline-end-style"),
    ("-webkit-border-end-width", "border-inline-end-width"),
    ("-webkit-border-start", "border-inline-start"),
    ("-webkit-border-start-color", "border-inline-start-color"),
    ("-webkit-border-start-style", "border-inline-start-style"),
    ("-webkit-border-start-width", "border-inline-start-width"),
    ("-webkit-clip-path", "clip-path"),
    ("-webkit-column-count", "column-count"),
    ("-webkit-column-gap", "column-gap"),
    ("-webkit-column-rule", "column-rule"),
    ("-webkit-column-rule-color", "column-rule-color"),
    ("-webkit-column-rule-style", "column-rule-style"),
    ("-webkit-column-rule-width", "column-rule-width"),
    ("-webkit-column-span", "column-span"),
    ("-webkit-column-width", "column-width"),
    ("-webkit-columns", "columns"),
    ("-webkit-font-feature-settings", "font-feature-settings"),
    ("-webkit-hyphenate-character", "hyphenate-character"),
    ("-webkit-logical-height", "block-size"),
    ("-webkit-logical-width", "inline-size"),
    ("-webkit-margin-after", "margin-block-end"),
    ("-webkit-margin-before", "margin-block-start"),
    ("-webkit-margin-end", "margin-inline-end"),
    ("-webkit-margin-start", "margin-inline-start"),
    ("-webkit-max-logical-height", "max-block-size"),
    ("-webkit-max-logical-width", "max-inline-size"),
    ("-webkit-min-logical-height", "min-block-size"),
    ("-webkit-min-logical-width", "min-inline-size"),
    ("-webkit-opacity", "opacity"),
    ("-webkit-padding-after", "padding-block-end"),
    ("-webkit-padding-before", "padding-block-start"),
    ("-webkit-padding-end", "padding-inline-end"),
    ("-webkit-padding-start", "padding-inline-start"),
    ("-webkit-print-color-adjust", "print-color-adjust"),
    ("-webkit-shape-image-threshold", "shape-image-threshold"),
    ("-webkit-shape-margin", "shape-margin"),
    ("-webkit-shape-outside", "shape-outside"),
    ("-webkit-text-emphasis", "text-emphasis"),
    ("-webkit-text-emphasis-color", "text-emphasis-color"),
    ("-webkit-text-emphasis-position", "text-emphasis-position"),
    ("-webkit-text-emphasis-style", "text-emphasis-style"),
    ("-webkit-user-select", "user-select"),
    ("page-break-after", "break-after"),
    ("page-break-before", "break-before"),
    ("page-break-inside", "break-inside"),
];

/// Initial values that the extract leaves out or words as prose.
pub const INITIAL: &[(&str, &str)] = &[
    ("-webkit-box-align", "stretch"),
    ("-webkit-box-flex", "0"),
    ("-webkit-box-ordinal-group", "1"),
    ("-webkit-box-orient", "horizontal"),
    ("-webkit-box-pack", "start"),
    ("-webkit-text-fill-color", "currentcolor"),
    ("-webkit-text-stroke-color", "currentcolor"),
    ("-webkit-text-stroke-width", "0"),
    // A longhand here; see above.
    ("animation-delay", "0s"),
    // Animations 1; level 2 has `auto` for timelines that are not time.
    ("animation-duration", "0s"),
    // A longhand here; see above.
    ("box-shadow", "none"),
    ("column-width", "auto"),
    ("flood-color", "black"),
    ("flood-opacity", "1"),
    ("lighting-color", "white"),
    ("overflow-clip-margin", "0px"),
    ("stop-color", "black"),
    ("stop-opacity", "1"),
    ("text-align", "start"),
    ("text-emphasis-color", "currentcolor"),
    ("vertical-align", "baseline"),
];

/// Properties whose grammar is written here.
pub const PROPERTY_SYNTAX: &[(&str, &str)] = &[
    // With the engines' older name of match-parent, which themes still write.
    (
        "text-align",
        "start | end | left | right | center | <string> | justify | match-parent | justify-all | \
         -webkit-match-parent | -webkit-left | -webkit-right | -webkit-center",
    ),
    // The extract writes the list without spaces, which no grammar reader takes.
    ("cursor", "[ <cursor-image> , ]* <cursor-predefined>"),
    // Gaps 1 lets every gap have its own rule; Multi-column 1 and engines have one.
    (
        "column-rule",
        "<'column-rule-width'> || <'column-rule-style'> || <'column-rule-color'>",
    ),
    ("column-rule-width", "<line-width>"),
    ("column-rule-style", "<line-style>"),
    ("column-rule-color", "<color>"),
    // The extract quotes a type as HTML.
    ("path-length", "none | <number [0,∞]>"),
    // The draft's delay split (`animation-delay-start`) is not in the published standard.
    ("animation-delay", "<time>#"),
    // The old flexible boxes (Flexible Box Layout of July 2009), which Compat § 3.4.1 keeps without a grammar.
    (
        "-webkit-box-align",
        "start | end | center | baseline | stretch",
    ),
    ("-webkit-box-flex", "<number>"),
    ("-webkit-box-ordinal-group", "<integer [1,∞]>"),
    (
        "-webkit-box-orient",
        "horizontal | vertical | inline-axis | block-axis",
    ),
    ("-webkit-box-pack", "start | end | center | justify"),
    // Borders 4 splits a shadow in five; Backgrounds 3 § 6.1 and engines don't.
    ("box-shadow", "none | <shadow>#"),
    // Text Decoration 3 § 4: no spread and no inset.
    (
        "text-shadow",
        "none | [ <color>? && [ <length>{2} <length [0,∞]>? ] ]#",
    ),
    // Which names a property keeps for itself, the standards say in prose.
    (
        "color-scheme",
        "normal | [ light | dark | <custom-ident except normal light dark only> ]+ && only?",
    ),
    (
        "container-name",
        "none | <custom-ident except none and or not>+",
    ),
    (
        "view-transition-class",
        "none | <custom-ident except none>+",
    ),
    // Will Change 1 § 3.
    (
        "will-change",
        "auto | [ scroll-position | contents | <custom-ident except auto none all will-change scroll-position contents> ]#",
    ),
    (
        "transition-property",
        "none | [ all | <custom-ident except none> ]#",
    ),
    // SVG 2 § 7 and § 13.5 say in prose that these can't be negative.
    ("r", "<length-percentage [0,∞]>"),
    ("rx", "<length-percentage [0,∞]> | auto"),
    ("ry", "<length-percentage [0,∞]> | auto"),
    ("stroke-width", "<length-percentage [0,∞]> | <number [0,∞]>"),
    (
        "stroke-dasharray",
        "none | [ <length-percentage [0,∞]> | <number [0,∞]> ]+#",
    ),
    ("stroke-miterlimit", "<number [0,∞]>"),
    // SVG 2 § 9.2 has a string; SVG Paths and engines have the function of Shapes 1.
    ("d", "none | <path()> | <string>"),
    // Interest Invokers say in prose that these can't be negative.
    ("interest-delay", "<'interest-delay-start'>{1,2}"),
    ("interest-delay-start", "normal | <time [0,∞]>"),
    ("interest-delay-end", "normal | <time [0,∞]>"),
    // Overflow 3 § 3.1: the old name of auto.
    (
        "overflow",
        "[ visible | hidden | clip | scroll | auto | overlay ]{1,2}",
    ),
    (
        "overflow-x",
        "visible | hidden | clip | scroll | auto | overlay",
    ),
    (
        "overflow-y",
        "visible | hidden | clip | scroll | auto | overlay",
    ),
    (
        "overflow-block",
        "visible | hidden | clip | scroll | auto | overlay",
    ),
    (
        "overflow-inline",
        "visible | hidden | clip | scroll | auto | overlay",
    ),
    // Writing Modes 4 § 3.2.1: the names of SVG 1.1.
    (
        "writing-mode",
        "horizontal-tb | vertical-rl | vertical-lr | sideways-rl | sideways-lr | lr | lr-tb | rl | rl-tb | tb | tb-rl",
    ),
];

/// Types whose grammar is missing, in prose, or written here for a reason.
pub const TYPE_SYNTAX: &[(&str, &str)] = &[
    // Two standards define these; both forms are valid.
    (
        "rect()",
        "<clip-rect> | rect( [ <length-percentage> | auto ]{4} [ round <'border-radius'> ]? )",
    ),
    ("clip-rect", "rect( <top> , <right> , <bottom> , <left> )"),
    ("scale()", "scale( [ <number> | <percentage> ]#{1,2} )"),
    ("scaleX()", "scaleX( [ <number> | <percentage> ] )"),
    ("scaleY()", "scaleY( [ <number> | <percentage> ] )"),
    // Generated Content for Paged Media has a narrower type of the same name for string-set.
    (
        "content-list",
        "[ <string> | <image> | <attr()> | contents | <quote> | <leader()> | <target> | <string()> \
         | <content()> | <counter> ]+",
    ),
    // Shapes 1 and engines take percentages for a circle's radius.
    (
        "circle()",
        "circle( [ <length-percentage [0,∞]> | <radial-extent> ]? [ at <position> ]? )",
    ),
    // With the engines' older name of stretch, which themes still write (Compatibility § 3.2.1).
    (
        "box-size",
        "<length-percentage [0,∞]> | stretch | -webkit-fill-available | contain | min-content | max-content | \
         fit-content | fit-content(<length-percentage [0,∞]>) | <calc-size()>",
    ),
    ("age", "child | young | old"),
    ("animation-action", "none | play | pause | reset"),
    ("arc-size", "large | small"),
    ("bottom", "<length> | auto"),
    (
        "cursor-predefined",
        "auto | default | none | context-menu | help | pointer | progress | wait | cell | crosshair | text | vertical-text | alias | copy | move | no-drop | not-allowed | grab | grabbing | e-resize | n-resize | ne-resize | nw-resize | s-resize | se-resize | sw-resize | w-resize | ew-resize | ns-resize | nesw-resize | nwse-resize | col-resize | row-resize | all-scroll | zoom-in | zoom-out",
    ),
    (
        "ellipse()",
        "ellipse( [ <length-percentage [0,∞]> | <radial-extent> ]{2}? [ at <position> ]? )",
    ),
    ("gender", "male | female | neutral"),
    ("id", "<id-selector>"),
    ("id-selector", "<hash-token>"),
    ("left", "<length> | auto"),
    // The extract ends in a type that it does not define; SVG 2 § 13.2 does.
    (
        "paint",
        "none | <color> | <url> [ none | <color> ]? | context-fill | context-stroke",
    ),
    ("right", "<length> | auto"),
    (
        "size-keyword",
        "auto | min-content | max-content | fit-content | stretch | content",
    ),
    ("target-name", "<string>"),
    ("timeline-range-center-subject", "<custom-ident>"),
    (
        "timeline-range-name",
        "cover | contain | entry | exit | entry-crossing | exit-crossing | scroll",
    ),
    ("top", "<length> | auto"),
    ("url-modifier", "<ident>"),
    ("url-set", "<image-set()>"),
    ("voice-family-name", "<string> | <custom-ident>+"),
    // The draft adds animation-delay-start; see above.
    (
        "single-animation",
        "<'animation-duration'> || <easing-function> || <'animation-delay'> || <single-animation-iteration-count> || <single-animation-direction> || <single-animation-fill-mode> || <single-animation-play-state> || [ none | <keyframes-name> ]",
    ),
    // Transitions 1 § 2.5: the first time is the duration, which can't be negative.
    (
        "single-transition",
        "<time [0,∞]> || <easing-function> || <time> || <transition-behavior-value> || [ none | <single-transition-property> ]",
    ),
    (
        "shadow",
        "<color>? && [ <length>{2} [ <length [0,∞]> <length>? ]? ] && inset?",
    ),
    // Filter Effects 1 § 6.1 says in prose that these can't be negative.
    ("blur()", "blur( <length [0,∞]>? )"),
    (
        "brightness()",
        "brightness( [ <number [0,∞]> | <percentage [0,∞]> ]? )",
    ),
    (
        "contrast()",
        "contrast( [ <number [0,∞]> | <percentage [0,∞]> ]? )",
    ),
    (
        "grayscale()",
        "grayscale( [ <number [0,∞]> | <percentage [0,∞]> ]? )",
    ),
    (
        "invert()",
        "invert( [ <number [0,∞]> | <percentage [0,∞]> ]? )",
    ),
    (
        "opacity()",
        "opacity( [ <number [0,∞]> | <percentage [0,∞]> ]? )",
    ),
    (
        "saturate()",
        "saturate( [ <number [0,∞]> | <percentage [0,∞]> ]? )",
    ),
    (
        "sepia()",
        "sepia( [ <number [0,∞]> | <percentage [0,∞]> ]? )",
    ),
    (
        "drop-shadow()",
        "drop-shadow( [ <color>? && [ <length>{2} <length [0,∞]>? ] ] )",
    ),
    // Easing 2 § 2.3 says in prose how many steps there must be.
    (
        "steps()",
        "steps( <integer [1,∞]> , [ jump-start | jump-end | jump-both | start | end ]? ) | steps( <integer [2,∞]> , jump-none )",
    ),
    // Lists 3 § 4.1, Grid 2 § 7.2 and § 8.3: names that can't be given.
    ("counter-name", "<custom-ident except none>"),
    ("line-names", "'[' <custom-ident except auto span>* ']'"),
    (
        "grid-line",
        "auto | <custom-ident except auto span> | [ [ <integer [-∞,-1]> | <integer [1,∞]> ] && <custom-ident except auto span>? ] | [ span && [ <integer [1,∞]> || <custom-ident except auto span> ] ]",
    ),
    (
        "single-transition-property",
        "all | <custom-ident except none>",
    ),
    ("keyframes-name", "<custom-ident except none> | <string>"),
    // Grid 2 § 7.2.3.2; level 3 would let tracks that fit their contents repeat.
    (
        "auto-repeat",
        "repeat( [ auto-fill | auto-fit ] , [ <line-names>? <fixed-size> ]+ <line-names>? )",
    ),
    // Counter Styles 3 § 3.1: these two need two symbols.
    (
        "symbols()",
        "symbols( [ cyclic | symbolic | fixed ]? [ <string> | <image> ]+ ) | symbols( [ alphabetic | numeric ] [ <string> | <image> ]{2,} )",
    ),
    // Images 3 § 3.2: a circle has one radius, an ellipse two.
    (
        "radial-gradient-syntax",
        "[ [ <radial-circle> | <radial-ellipse> ]? [ at <position> ]? || <color-interpolation-method> ]? , <color-stop-list>",
    ),
    (
        "radial-circle",
        "circle || [ <radial-extent> | <length [0,∞]> ]",
    ),
    (
        "radial-ellipse",
        "ellipse || [ <radial-extent> | <length-percentage [0,∞]>{2} ]",
    ),
    (
        "image-set-option",
        "[ <image> | <string> ] [ <resolution [0,∞]> || type( <string> ) ]?",
    ),
    // Compat § 3.3: gradients under their old names, which themes still write.
    (
        "gradient",
        "[ <linear-gradient()> | <repeating-linear-gradient()> | <radial-gradient()> | <repeating-radial-gradient()> | <conic-gradient()> | <repeating-conic-gradient()> | <-webkit-linear-gradient()> | <-webkit-repeating-linear-gradient()> | <-webkit-radial-gradient()> | <-webkit-repeating-radial-gradient()> | <-webkit-gradient()> ]",
    ),
    (
        "-webkit-linear-gradient()",
        "-webkit-linear-gradient( <-webkit-line>? , <color-stop-list> )",
    ),
    (
        "-webkit-repeating-linear-gradient()",
        "-webkit-repeating-linear-gradient( <-webkit-line>? , <color-stop-list> )",
    ),
    (
        "-webkit-line",
        "<angle> | [ left | right ] || [ top | bottom ]",
    ),
    (
        "-webkit-radial-gradient()",
        "-webkit-radial-gradient( <position>? , <-webkit-shape>? , <color-stop-list> )",
    ),
    (
        "-webkit-repeating-radial-gradient()",
        "-webkit-repeating-radial-gradient( <position>? , <-webkit-shape>? , <color-stop-list> )",
    ),
    (
        "-webkit-shape",
        "[ circle | ellipse ] || [ closest-side | closest-corner | farthest-side | farthest-corner | contain | cover ] | <length-percentage [0,∞]>{2}",
    ),
    (
        "-webkit-gradient()",
        "-webkit-gradient( [ linear , <-webkit-point> , <-webkit-point> | radial , <-webkit-point> , <number> , <-webkit-point> , <number> ] , [ from( <color> ) | to( <color> ) | color-stop( [ <number> | <percentage> ] , <color> ) ]# )",
    ),
    (
        "-webkit-point",
        "[ left | center | right | <number> | <percentage> ] [ top | center | bottom | <number> | <percentage> ]",
    ),
    // Color 5 § 6 has left the further arguments of its first draft to level 6.
    ("contrast-color()", "contrast-color( <color> )"),
    // Compat § 3.4.1: the names of the old flexible boxes.
    (
        "display-legacy",
        "inline-block | inline-table | inline-flex | inline-grid | -webkit-box | -webkit-inline-box | -webkit-flex | -webkit-inline-flex",
    ),
    // Color 5 § 4 says in prose that the channels of the origin stand where its numbers do.
    ("rgb-channel", "r | g | b | alpha"),
    ("hsl-channel", "h | s | l | alpha"),
    ("hwb-channel", "h | w | b | alpha"),
    ("lab-channel", "l | a | b | alpha"),
    ("lch-channel", "l | c | h | alpha"),
    ("color-channel", "r | g | b | alpha"),
    ("xyz-channel", "x | y | z | alpha"),
    (
        "modern-rgb-syntax",
        "rgb( [ <number> | <percentage> | none ]{3} [ / [ <alpha-value> | none ] ]? ) | rgb( from <color> [ <number> | <percentage> | none | <rgb-channel> ]{3} [ / [ <alpha-value> | none | <rgb-channel> ] ]? )",
    ),
    (
        "modern-rgba-syntax",
        "rgba( [ <number> | <percentage> | none ]{3} [ / [ <alpha-value> | none ] ]? ) | rgba( from <color> [ <number> | <percentage> | none | <rgb-channel> ]{3} [ / [ <alpha-value> | none | <rgb-channel> ] ]? )",
    ),
    (
        "modern-hsl-syntax",
        "hsl( [ <hue> | none ] [ <number> | <percentage> | none ]{2} [ / [ <alpha-value> | none ] ]? ) | hsl( from <color> [ <hue> | none | <hsl-channel> ] [ <number> | <percentage> | none | <hsl-channel> ]{2} [ / [ <alpha-value> | none | <hsl-channel> ] ]? )",
    ),
    (
        "modern-hsla-syntax",
        "hsla( [ <hue> | none ] [ <number> | <percentage> | none ]{2} [ / [ <alpha-value> | none ] ]? ) | hsla( from <color> [ <hue> | none | <hsl-channel> ] [ <number> | <percentage> | none | <hsl-channel> ]{2} [ / [ <alpha-value> | none | <hsl-channel> ] ]? )",
    ),
    (
        "hwb()",
        "hwb( [ <hue> | none ] [ <number> | <percentage> | none ]{2} [ / [ <alpha-value> | none ] ]? ) | hwb( from <color> [ <hue> | none | <hwb-channel> ] [ <number> | <percentage> | none | <hwb-channel> ]{2} [ / [ <alpha-value> | none | <hwb-channel> ] ]? )",
    ),
    (
        "lab()",
        "lab( [ <number> | <percentage> | none ]{3} [ / [ <alpha-value> | none ] ]? ) | lab( from <color> [ <number> | <percentage> | none | <lab-channel> ]{3} [ / [ <alpha-value> | none | <lab-channel> ] ]? )",
    ),
    (
        "oklab()",
        "oklab( [ <number> | <percentage> | none ]{3} [ / [ <alpha-value> | none ] ]? ) | oklab( from <color> [ <number> | <percentage> | none | <lab-channel> ]{3} [ / [ <alpha-value> | none | <lab-channel> ] ]? )",
    ),
    (
        "lch()",
        "lch( [ <number> | <percentage> | none ]{2} [ <hue> | none ] [ / [ <alpha-value> | none ] ]? ) | lch( from <color> [ <number> | <percentage> | none | <lch-channel> ]{2} [ <hue> | none | <lch-channel> ] [ / [ <alpha-value> | none | <lch-channel> ] ]? )",
    ),
    (
        "oklch()",
        "oklch( [ <number> | <percentage> | none ]{2} [ <hue> | none ] [ / [ <alpha-value> | none ] ]? ) | oklch( from <color> [ <number> | <percentage> | none | <lch-channel> ]{2} [ <hue> | none | <lch-channel> ] [ / [ <alpha-value> | none | <lch-channel> ] ]? )",
    ),
    (
        "color()",
        "color( <colorspace-params> [ / [ <alpha-value> | none ] ]? ) | color( from <color> <predefined-rgb> [ <number> | <percentage> | none | <color-channel> ]{3} [ / [ <alpha-value> | none | <color-channel> ] ]? ) | color( from <color> <xyz-space> [ <number> | <percentage> | none | <xyz-channel> ]{3} [ / [ <alpha-value> | none | <xyz-channel> ] ]? )",
    ),
];
