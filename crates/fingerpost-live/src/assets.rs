//! The desk's own files: its style, and its modules.

use std::sync::Arc;

use axum::Router;
use axum::http::header;
use axum::response::IntoResponse;
use axum::routing::get;

use crate::shared::Shared;

/// The agent, which runs in the site's pages: one script, of which these files are the body. `start.js` puts the others
/// together.
pub(crate) const AGENT: &str = concat!(
    "(() => {\n\"use strict\";\n",
    include_str!("../assets/agent/messages.js"),
    include_str!("../assets/agent/elements.js"),
    include_str!("../assets/agent/label.js"),
    include_str!("../assets/agent/fonts.js"),
    include_str!("../assets/agent/measure.js"),
    include_str!("../assets/agent/mark.js"),
    include_str!("../assets/agent/point.js"),
    include_str!("../assets/agent/states.js"),
    include_str!("../assets/agent/write.js"),
    include_str!("../assets/agent/colors.js"),
    include_str!("../assets/agent/painted.js"),
    include_str!("../assets/agent/shown.js"),
    include_str!("../assets/agent/embedded.js"),
    include_str!("../assets/agent/browser_sheet.js"),
    include_str!("../assets/agent/sheets.js"),
    include_str!("../assets/agent/pairs.js"),
    include_str!("../assets/agent/source.js"),
    include_str!("../assets/agent/markup.js"),
    include_str!("../assets/agent/start.js"),
    "})();\n",
);

const FILES: &[(&str, &str, &str)] = &[
    (
        "/desk/desk.css",
        "text/css",
        include_str!("../assets/desk.css"),
    ),
    (
        "/desk/desk.js",
        "text/javascript",
        include_str!("../assets/desk.js"),
    ),
    (
        "/desk/link.js",
        "text/javascript",
        include_str!("../assets/link.js"),
    ),
    (
        "/desk/frame.js",
        "text/javascript",
        include_str!("../assets/frame.js"),
    ),
    (
        "/desk/column.js",
        "text/javascript",
        include_str!("../assets/column.js"),
    ),
    (
        "/desk/values.js",
        "text/javascript",
        include_str!("../assets/values.js"),
    ),
    (
        "/desk/trying.js",
        "text/javascript",
        include_str!("../assets/trying.js"),
    ),
];

pub(crate) fn routes() -> Router<Arc<Shared>> {
    FILES
        .iter()
        .fold(Router::new(), |router, (path, kind, text)| {
            router.route(path, get(|| async { file(kind, text) }))
        })
}

pub(crate) fn file(kind: &'static str, text: &'static str) -> impl IntoResponse {
    (
        [(header::CONTENT_TYPE, format!("{kind}; charset=utf-8"))],
        text,
    )
}
