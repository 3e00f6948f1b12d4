//! Who may ask: the loopback address by its own name, and for writes the desk alone.
//!
//! A web page elsewhere can send a request to any address, and a name that it controls can be made to
//! resolve to the loopback address. So a request must name this server as its host, and one that comes
//! from a page must come from the desk (for the desk) or from these two origins (for pages). Writes must
//! bring the token besides, which only the desk's own document holds.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use axum::Router;
use axum::body::Body;
use axum::extract::{DefaultBodyLimit, Request};
use axum::http::{HeaderMap, HeaderName, HeaderValue, Method, StatusCode, header};
use axum::middleware::{self, Next};
use axum::response::{IntoResponse, Response};

use crate::shared::Shared;

/// The header that a write brings the token in.
pub(crate) const TOKEN: &str = "fingerpost-token";

/// The largest body of a request: pasted markup, a script of edits.
const LARGEST_BODY: usize = 4 << 20;

/// How many requests are answered at once; more are a mistake, or a person's mischief.
const MOST_AT_ONCE: usize = 128;

/// How many requests are being answered.
#[derive(Clone, Debug, Default)]
struct Load(Arc<AtomicUsize>);

impl Load {
    /// Counts a request for as long as what it gives lives; none where there are too many.
    fn one_more(&self) -> Option<Counted> {
        let counted = Counted(self.0.clone());
        let before = self.0.fetch_add(1, Ordering::Relaxed);
        (before < MOST_AT_ONCE).then_some(counted)
    }
}

struct Counted(Arc<AtomicUsize>);

impl Drop for Counted {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::Relaxed);
    }
}

/// No page may frame the desk; it runs only its own modules, and frames only the site's page.
pub(crate) fn around_desk(router: Router, shared: &Arc<Shared>) -> Router {
    let shared = shared.clone();
    let policy = format!(
        "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; connect-src 'self'; \
         frame-src {}; base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
        shared.page
    );
    let policy = HeaderValue::from_str(&policy).expect("an address is ASCII");
    let load = Load::default();
    router
        .layer(DefaultBodyLimit::max(LARGEST_BODY))
        .layer(middleware::from_fn(move |request: Request, next: Next| {
            let (shared, policy, load) = (shared.clone(), policy.clone(), load.clone());
            async move {
                let counted = load.one_more();
                let mut response = match refused_at_desk(&request, &shared) {
                    Some(why) => refusal(why),
                    None if counted.is_none() => TOO_MANY.into_response(),
                    None => next.run(request).await,
                };
                let headers = response.headers_mut();
                headers.insert(header::CONTENT_SECURITY_POLICY, policy);
                put(headers, "cross-origin-resource-policy", "same-origin");
                put(
                    headers,
                    "cross-origin-opener-policy",
                    "same-origin-allow-popups",
                );
                put(headers, "referrer-policy", "no-referrer");
                put(headers, "x-content-type-options", "nosniff");
                put(headers, "cache-control", "no-store");
                response
            }
        }))
}

/// The site's pages can be framed by the desk and by each other.
pub(crate) fn around_pages(router: Router, shared: &Arc<Shared>) -> Router {
    let shared = shared.clone();
    let ancestors = format!("frame-ancestors 'self' {}", shared.desk);
    let ancestors = HeaderValue::from_str(&ancestors).expect("an address is ASCII");
    router.layer(middleware::from_fn(move |request: Request, next: Next| {
        let (shared, ancestors) = (shared.clone(), ancestors.clone());
        async move {
            let mut response = match names_host(request.headers(), shared.page.port()) {
                false => refusal(NOT_HERE),
                true => next.run(request).await,
            };
            let headers = response.headers_mut();
            headers.append(header::CONTENT_SECURITY_POLICY, ancestors);
            // The draft is private: no page elsewhere may embed a sheet or an image of it.
            put(headers, "cross-origin-resource-policy", "same-origin");
            put(headers, "cache-control", "no-store");
            response
        }
    }))
}

fn put(headers: &mut HeaderMap, name: &'static str, value: &'static str) {
    headers.insert(
        HeaderName::from_static(name),
        HeaderValue::from_static(value),
    );
}

const TOO_MANY: (StatusCode, &str) = (
    StatusCode::TOO_MANY_REQUESTS,
    "too many requests at once; ask again\n",
);

const NOT_HERE: &str =
    "the request does not name this server as its host; open the address that fingerpost printed";

/// Why a request to the desk is refused.
fn refused_at_desk(request: &Request<Body>, shared: &Shared) -> Option<&'static str> {
    let headers = request.headers();
    if !names_host(headers, shared.desk.port()) {
        return Some(NOT_HERE);
    }
    let origin = headers.get(header::ORIGIN);
    if origin.is_some_and(|origin| !shared.desk.is_named_by(origin.as_bytes())) {
        return Some("the request comes from a page that is not the desk");
    }
    // Opening the desk from a link elsewhere is fine; reading or writing through it is not.
    let site = headers.get("sec-fetch-site").map(HeaderValue::as_bytes);
    let opens = headers.get("sec-fetch-mode").map(HeaderValue::as_bytes) == Some(b"navigate");
    if matches!(site, Some(b"cross-site" | b"same-site")) && !opens {
        return Some("the request comes from a page that is not the desk");
    }
    let writes = !matches!(*request.method(), Method::GET | Method::HEAD);
    if writes {
        let given = headers
            .get(TOKEN)
            .map(HeaderValue::as_bytes)
            .unwrap_or_default();
        if !same(given, shared.token.as_bytes()) {
            return Some("the request brings no valid token; reload the desk");
        }
    }
    None
}

/// Compares without telling by the time it takes how much is right.
fn same(given: &[u8], token: &[u8]) -> bool {
    let differences = given
        .iter()
        .zip(token)
        .fold(0u8, |sum, (a, b)| sum | (a ^ b));
    given.len() == token.len() && differences == 0
}

fn names_host(headers: &HeaderMap, port: u16) -> bool {
    let host = headers
        .get(header::HOST)
        .map(HeaderValue::as_bytes)
        .unwrap_or_default();
    [format!("127.0.0.1:{port}"), format!("localhost:{port}")]
        .iter()
        .any(|known| known.as_bytes() == host)
}

fn refusal(why: &'static str) -> Response {
    (StatusCode::FORBIDDEN, format!("refused: {why}\n")).into_response()
}
