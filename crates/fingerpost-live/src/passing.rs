//! What the pages of a server ask it for, passed on: pages and sheets as the draft leaves them, everything else as it is,
//! forms and the cookies of a session too.

use axum::http::{
    HeaderMap, HeaderName, HeaderValue, Method, Request, Response, StatusCode, Uri, header,
};
use axum::response::IntoResponse;
use fingerpost::site::Fetched;
use url::{Position, Url};

use crate::events::FileKind;
use crate::pages::{Answer, Pretence, page, sheet};
use crate::shared::Shared;
use crate::site_server::{SiteServer, charset, redirected};

/// A request to the page origin.
pub(crate) struct Asked {
    pub method: Method,
    pub uri: Uri,
    pub headers: HeaderMap,
    pub body: Vec<u8>,
}

/// The headers of a request that are the connection's own, or that would ask for what can't be passed on.
const NOT_SENT: [HeaderName; 13] = [
    header::HOST,
    header::CONNECTION,
    header::CONTENT_LENGTH,
    header::TRANSFER_ENCODING,
    header::ACCEPT_ENCODING,
    header::IF_NONE_MATCH,
    header::IF_MODIFIED_SINCE,
    header::IF_RANGE,
    header::UPGRADE,
    header::TE,
    header::TRAILER,
    header::EXPECT,
    HeaderName::from_static("keep-alive"),
];

/// The headers of an answer that a browser gets.
const ANSWERED: [HeaderName; 9] = [
    header::CONTENT_TYPE,
    header::CONTENT_RANGE,
    header::ACCEPT_RANGES,
    header::CONTENT_DISPOSITION,
    header::CONTENT_LANGUAGE,
    header::LAST_MODIFIED,
    header::WWW_AUTHENTICATE,
    header::ALLOW,
    header::RETRY_AFTER,
];

/// What begins the names of the desk's own cookies and parts of queries.
const OWN: &str = "fingerpost-";

/// What a server answers to what a page asks for; none where the site has no server.
pub(crate) fn got(shared: &Shared, asked: Asked, pretence: &Pretence) -> Option<Answer> {
    let server = shared.settings.server.as_ref()?;
    let url = without_own(&here(server, &asked.uri)?);
    let kind = kind(&url, &asked.headers);
    // The last answer is used again for a page without the draft, and for the agent, which needs the source of the page it is in:
    // asking again would not bring back the answer to a form.
    let is_known = pretence.fingerpost_before.is_some() || pretence.fingerpost_again.is_some();
    if kind.is_some() && is_known {
        return Some(from_site(shared, &url, kind, pretence));
    }
    let answer = server.pass_on(request(asked, server, &url)?);
    Some(match answer {
        Ok(answer) => shown(shared, server, &url, kind, answer, pretence),
        Err(why) => Err(no_answer(&url, &why)),
    })
}

/// An answer of the server as a browser gets it: a page or a sheet as the draft leaves it, everything else as it is.
fn shown(
    shared: &Shared,
    server: &SiteServer,
    url: &Url,
    kind: Option<FileKind>,
    answer: Response<Vec<u8>>,
    pretence: &Pretence,
) -> Answer {
    let status = answer.status();
    let is_shown = match kind {
        // An error page, and a form sent back with its errors, are pages to work in too.
        Some(FileKind::Page) => {
            is_page(&answer) && !(status.is_redirection() || status == StatusCode::UNAUTHORIZED)
        }
        Some(_) => status.is_success(),
        None => false,
    };
    if !is_shown {
        return Ok(passed(answer, server, url));
    }
    let cookies: Vec<HeaderValue> = cookies(&answer).collect();
    let named = |kind: &HeaderValue| charset(kind.to_str().ok()?);
    let charset = answer.headers().get(header::CONTENT_TYPE).and_then(named);
    let fetched = Fetched::new(url.as_str(), answer.into_body(), charset.as_deref());
    if let Err(error) = shared.workspace().answered(url.as_str(), fetched) {
        return Err(no_answer(url, &error.to_string()));
    }
    let mut made = from_site(shared, url, kind, pretence)?;
    *made.status_mut() = status;
    for cookie in cookies {
        made.headers_mut().append(header::SET_COOKIE, cookie);
    }
    Ok(made)
}

fn from_site(shared: &Shared, url: &Url, kind: Option<FileKind>, pretence: &Pretence) -> Answer {
    match kind {
        Some(FileKind::Sheet) => sheet(shared, url.as_str(), pretence),
        _ => page(shared, url.as_str(), pretence),
    }
}

/// What a server answers to what a page sends it, such as a form; none where the site has no server. A page that is the answer,
/// without a redirect, is one to work in too.
pub(crate) fn sent(shared: &Shared, asked: Asked, pretence: &Pretence) -> Option<Answer> {
    let server = shared.settings.server.as_ref()?;
    let url = without_own(&here(server, &asked.uri)?);
    let kind = kind(&url, &asked.headers).filter(|kind| *kind == FileKind::Page);
    let origin = asked.headers.get(header::ORIGIN);
    if origin.is_some_and(|origin| !shared.page.is_named_by(origin.as_bytes())) {
        let why = "refused: the request comes from a page of another server\n";
        return Some(Err((StatusCode::FORBIDDEN, why.to_owned())));
    }
    let answer = server.pass_on(request(asked, server, &url)?);
    Some(match answer {
        Ok(answer) => shown(shared, server, &url, kind, answer, pretence),
        Err(why) => Err(no_answer(&url, &why)),
    })
}

/// Whether a request is for a page or a sheet, which the draft may change.
fn kind(url: &Url, headers: &HeaderMap) -> Option<FileKind> {
    let text = |name: HeaderName| headers.get(name).and_then(|value| value.to_str().ok());
    let purpose = text(HeaderName::from_static("sec-fetch-dest"));
    let accepts_page = text(header::ACCEPT).is_some_and(|kinds| kinds.starts_with("text/html"));
    match purpose {
        Some("style") => Some(FileKind::Sheet),
        Some("document" | "iframe" | "frame") => Some(FileKind::Page),
        // A script that asks for a page gets the same page as a frame does. So does the agent after a change.
        Some("empty") => accepts_page.then_some(FileKind::Page),
        Some(_) => None,
        None if FileKind::of(url.path()) == FileKind::Sheet => Some(FileKind::Sheet),
        None => accepts_page.then_some(FileKind::Page),
    }
}

fn is_page(answer: &Response<Vec<u8>>) -> bool {
    let kind = answer.headers().get(header::CONTENT_TYPE);
    kind.is_none_or(|kind| kind.as_bytes().starts_with(b"text/html"))
}

/// The URL that the server has for a request to the page origin.
fn here(server: &SiteServer, uri: &Uri) -> Option<Url> {
    let base = server.url()?;
    let url = base.join(&uri.to_string()).ok()?;
    (url.origin() == base.origin()).then_some(url)
}

/// The request as the server gets it.
fn request(asked: Asked, server: &SiteServer, url: &Url) -> Option<Request<Vec<u8>>> {
    let mut made = Request::builder().method(asked.method).uri(url.as_str());
    let headers = made.headers_mut()?;
    for (name, value) in &asked.headers {
        if NOT_SENT.contains(name) {
            continue;
        }
        let value = match *name {
            header::COOKIE => of_scripts(value, server),
            // To the server its pages come from itself.
            header::ORIGIN => {
                let origin = server.url()?.origin().ascii_serialization();
                HeaderValue::from_str(&origin).ok()
            }
            header::REFERER => referrer(value, server),
            _ => Some(value.clone()),
        };
        if let Some(value) = value {
            headers.append(name, value);
        }
    }
    made.body(asked.body).ok()
}

/// The cookies that a page's own scripts set; those of the server are kept here, and those of the desk are its own.
fn of_scripts(cookies: &HeaderValue, server: &SiteServer) -> Option<HeaderValue> {
    let all = cookies.to_str().ok()?.split("; ");
    let kept = all.filter(|cookie| {
        let name = cookie.split('=').next().unwrap_or_default();
        !name.starts_with(OWN) && !server.has_cookie(name)
    });
    let kept: Vec<&str> = kept.collect();
    let kept = (!kept.is_empty()).then(|| kept.join("; "))?;
    HeaderValue::from_str(&kept).ok()
}

fn referrer(given: &HeaderValue, server: &SiteServer) -> Option<HeaderValue> {
    let page = Url::parse(given.to_str().ok()?).ok()?;
    let there = server.url()?.join(&page[Position::BeforePath..]).ok()?;
    HeaderValue::from_str(without_own(&there).as_str()).ok()
}

/// An answer as the browser gets it.
fn passed(answer: Response<Vec<u8>>, server: &SiteServer, url: &Url) -> axum::response::Response {
    let mut made = Response::builder().status(answer.status());
    if let Some(headers) = made.headers_mut() {
        for name in ANSWERED {
            for value in answer.headers().get_all(&name) {
                headers.append(&name, value.clone());
            }
        }
        for cookie in cookies(&answer) {
            headers.append(header::SET_COOKIE, cookie);
        }
        if let Some(next) = redirected(&answer, url) {
            let is_own = server
                .url()
                .is_some_and(|own| own.origin() == next.origin());
            // A redirect to another server is the browser's matter, as it is without the desk.
            let shown = match is_own {
                true => &next[Position::BeforePath..],
                false => next.as_str(),
            };
            headers.extend(HeaderValue::from_str(shown).map(|value| (header::LOCATION, value)));
        }
    }
    let made = made.body(axum::body::Body::from(answer.into_body()));
    made.map_or_else(
        |_| StatusCode::BAD_GATEWAY.into_response(),
        IntoResponse::into_response,
    )
}

fn cookies(answer: &Response<Vec<u8>>) -> impl Iterator<Item = HeaderValue> {
    let all = answer.headers().get_all(header::SET_COOKIE).iter();
    all.filter_map(local)
}

/// A cookie of the server as one of the page origin: for this host, also without TLS.
fn local(cookie: &HeaderValue) -> Option<HeaderValue> {
    let text = cookie.to_str().ok()?;
    // Names with this prefix are refused by browsers without the attribute.
    let needs_secure = text.starts_with("__");
    let kept = text.split(';').filter(|part| {
        let name = part.split('=').next().unwrap_or_default().trim();
        let is = |word: &str| name.eq_ignore_ascii_case(word);
        !(is("domain") || is("secure") && !needs_secure || is("partitioned"))
    });
    let kept: Vec<&str> = kept.collect();
    HeaderValue::from_str(&kept.join(";").replace("SameSite=None", "SameSite=Lax")).ok()
}

fn no_answer(url: &Url, why: &str) -> (StatusCode, String) {
    (StatusCode::BAD_GATEWAY, format!("{url}: {why}\n"))
}

/// A URL without the parts of the query that are the desk's own.
fn without_own(url: &Url) -> Url {
    let mut url = url.clone();
    let is_own = |pair: &str| pair.starts_with(OWN);
    let Some(query) = url.query() else { return url };
    // What is kept stays byte for byte.
    let kept: Vec<&str> = query.split('&').filter(|pair| !is_own(pair)).collect();
    let kept = (!kept.is_empty()).then(|| kept.join("&"));
    url.set_query(kept.as_deref());
    url
}
