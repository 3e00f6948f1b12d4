//! A login, as previews have one: a form that sets a cookie, or a header that a program sends.

use axum::Router;
use axum::extract::{Form, Request};
use axum::http::{HeaderMap, StatusCode, header};
use axum::middleware::{Next, from_fn};
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::get;
use serde::Deserialize;

/// The password of the preview. The demo has no secrets.
pub const PASSWORD: &str = "lantern";

/// The header with which a program is let in.
pub const PREVIEW_HEADER: (&str, &str) = ("x-preview", "lantern");

/// The cookie of somebody who is in.
const SESSION: &str = "skerry-session=on-board";

/// What is said of a wrong password, below the form.
const WRONG: &str = "<p class=wrong>That is not the password.\n";

const PAGE: &str = "<!doctype html>\n<html lang=en>\n<title>Sign in</title>\n<link rel=stylesheet \
                    href=/assets/css/harbour.css>\n<form method=post action=/login>\n<p><label>Password <input \
                    type=password name=password></label>\n<p><button>Sign in</button>\n</form>\n";

/// The same pages, for those who are in.
pub(crate) fn asked_for(pages: Router) -> Router {
    pages
        .layer(from_fn(guarded))
        .route("/login", get(|| async { Html(PAGE) }).post(sign_in))
}

async fn guarded(request: Request, next: Next) -> Response {
    // Sheets are open, so that the page of the login has its looks.
    if is_in(request.headers()) || request.uri().path().starts_with("/assets/") {
        return next.run(request).await;
    }
    Redirect::to("/login").into_response()
}

fn is_in(headers: &HeaderMap) -> bool {
    let (name, value) = PREVIEW_HEADER;
    let cookies = headers.get_all(header::COOKIE).iter();
    let mut cookies = cookies.filter_map(|cookies| cookies.to_str().ok());
    headers.get(name).is_some_and(|given| given == value)
        || cookies.any(|all| all.split("; ").any(|cookie| cookie == SESSION))
}

#[derive(Deserialize)]
struct Given {
    password: String,
}

async fn sign_in(Form(given): Form<Given>) -> Response {
    if given.password != PASSWORD {
        let page = Html(format!("{PAGE}{WRONG}"));
        return (StatusCode::UNPROCESSABLE_ENTITY, page).into_response();
    }
    let cookie = format!("{SESSION}; Path=/; HttpOnly; Secure; SameSite=Lax");
    ([(header::SET_COOKIE, cookie)], Redirect::to("/")).into_response()
}
