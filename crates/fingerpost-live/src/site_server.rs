//! The server that makes a site's pages, as the command and the desk ask it.
//!
//! A page by URL names one server, and only that one is asked: a link, an `@import` or a redirect that
//! leads to another origin is named as not fetched. What a preview asks for, such as a
//! header, goes to that origin alone, and is never printed or written to a file.

use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};
use std::time::Duration;

use axum::http::{HeaderMap, HeaderName, HeaderValue, Request, Response, StatusCode, header};
use fingerpost::site::{Fetch, Fetched};
use fingerpost::text::{LARGEST_FILE, plain_io};
use thiserror::Error;
use ureq::tls::{Certificate, PemItem, RootCerts, TlsConfig, parse_pem};
use url::{Host, Origin, Url};

/// How long a server may take to answer.
const PATIENCE: Duration = Duration::from_secs(20);

/// How many redirects are followed, as browsers do.
const MOST_REDIRECTS: usize = 20;

/// What a server needs to answer, besides a URL.
#[derive(Clone, Default)]
pub struct ServerAccess {
    /// Headers that go with each request.
    headers: HeaderMap,
    /// The certificates that count besides those of the system.
    authorities: Vec<Certificate<'static>>,
    /// Told what a person should know, a sentence each time.
    note: Option<fn(&str)>,
}

impl std::fmt::Debug for ServerAccess {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let names: Vec<&str> = self.headers.keys().map(HeaderName::as_str).collect();
        f.debug_struct("ServerAccess")
            .field("headers", &names)
            .field("authorities", &self.authorities.len())
            .finish_non_exhaustive()
    }
}

/// Why a server can't be asked as wanted.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum AccessError {
    /// A header is not one. What was given is not repeated, since it may be secret.
    #[error("a header can't be read; expected NAME: VALUE, such as \"Authorization: Bearer …\"")]
    Header,
    /// A file can't be read.
    #[error("{}: {reason}", path.display())]
    File {
        /// The file.
        path: PathBuf,
        /// Why.
        reason: String,
    },
    /// A file has no certificate.
    #[error("{}: it holds no certificate; expected PEM (-----BEGIN CERTIFICATE-----)", path.display())]
    NoCertificate {
        /// The file.
        path: PathBuf,
    },
    /// A line of a file of headers is not one. The line itself is not repeated.
    #[error("{}:{line}: this line can't be read; expected NAME: VALUE", path.display())]
    Line {
        /// The file.
        path: PathBuf,
        /// The line, counted from 1.
        line: usize,
    },
}

impl ServerAccess {
    /// Sends a header with each request: `Name: value`.
    ///
    /// # Errors
    /// Where it is not of that form.
    pub fn add_header(&mut self, line: &str) -> Result<(), AccessError> {
        let (name, value) = line.split_once(':').ok_or(AccessError::Header)?;
        let name: HeaderName = name.trim().parse().map_err(|_| AccessError::Header)?;
        let value = HeaderValue::from_str(value.trim());
        let mut value = value.map_err(|_| AccessError::Header)?;
        value.set_sensitive(true);
        self.headers.append(name, value);
        Ok(())
    }

    /// Sends the headers of a file, one a line. Empty lines and those that begin with `#` are skipped.
    ///
    /// # Errors
    /// Where the file can't be read, or a line is not a header.
    pub fn add_headers_of(&mut self, path: &Path) -> Result<(), AccessError> {
        let text = std::fs::read_to_string(path).map_err(|error| AccessError::File {
            path: path.to_owned(),
            reason: plain_io(&error),
        })?;
        for (at, line) in text.lines().enumerate() {
            if line.trim().is_empty() || line.starts_with('#') {
                continue;
            }
            self.add_header(line).map_err(|_| AccessError::Line {
                path: path.to_owned(),
                line: at + 1,
            })?;
        }
        Ok(())
    }

    /// Trusts the certificates of a PEM file, and those that they sign.
    ///
    /// # Errors
    /// Where the file can't be read, or has no certificate.
    pub fn trust(&mut self, path: &Path) -> Result<(), AccessError> {
        let pem = std::fs::read(path).map_err(|error| AccessError::File {
            path: path.to_owned(),
            reason: plain_io(&error),
        })?;
        let before = self.authorities.len();
        let items = parse_pem(&pem).filter_map(Result::ok);
        self.authorities.extend(items.filter_map(|item| match item {
            PemItem::Certificate(certificate) => Some(certificate),
            _ => None,
        }));
        if self.authorities.len() == before {
            return Err(AccessError::NoCertificate {
                path: path.to_owned(),
            });
        }
        Ok(())
    }

    /// Says where notes go, such as that a redirect was followed.
    pub fn tell(&mut self, note: fn(&str)) {
        self.note = Some(note);
    }

    fn agent(&self, verify: bool) -> ureq::Agent {
        let roots = match self.authorities.is_empty() {
            true => RootCerts::PlatformVerifier,
            false => RootCerts::new_with_certs(&self.authorities),
        };
        let tls = TlsConfig::builder()
            .root_certs(roots)
            .disable_verification(!verify)
            .build();
        ureq::Agent::config_builder()
            .timeout_global(Some(PATIENCE))
            .user_agent("fingerpost")
            .tls_config(tls)
            .max_redirects(0)
            .max_redirects_will_error(false)
            .http_status_as_error(false)
            .allow_non_standard_methods(true)
            .build()
            .into()
    }
}

/// The origins that are asked.
#[derive(Debug)]
enum Asked {
    /// That of the URL that a person named.
    One(Url),
    /// Servers on this machine, where no URL is named: the pages of a draft.
    ThisMachine,
}

/// A server that makes pages.
#[derive(Debug)]
pub struct SiteServer {
    asked: Asked,
    access: ServerAccess,
    agent: ureq::Agent,
    /// Asks without verifying, once a certificate of this machine turned out to be self-signed.
    unverified: OnceLock<ureq::Agent>,
    /// What the browser that uses the site sends to show who it is. Cookies are the agent's matter: in the desk the pages are those of
    /// another site, whose cookies browsers don't keep.
    authorization: Mutex<Option<HeaderValue>>,
}

impl SiteServer {
    /// The server of a URL.
    #[must_use]
    pub fn of(url: Url, access: ServerAccess) -> SiteServer {
        SiteServer::asking(Asked::One(url), access)
    }

    /// Any server on this machine: for the pages of a draft, when the command names no URL. It is sent no header.
    #[must_use]
    pub fn on_this_machine(access: &ServerAccess) -> SiteServer {
        let access = ServerAccess {
            headers: HeaderMap::new(),
            ..access.clone()
        };
        SiteServer::asking(Asked::ThisMachine, access)
    }

    fn asking(asked: Asked, access: ServerAccess) -> SiteServer {
        SiteServer {
            asked,
            agent: access.agent(true),
            access,
            unverified: OnceLock::new(),
            authorization: Mutex::default(),
        }
    }

    /// The URL that was named; none where servers of this machine are asked.
    pub(crate) fn url(&self) -> Option<&Url> {
        match &self.asked {
            Asked::One(url) => Some(url),
            Asked::ThisMachine => None,
        }
    }

    /// The function by which a site asks this server.
    #[must_use]
    pub fn fetch(self: &Arc<Self>) -> Fetch {
        let server = self.clone();
        Fetch(Box::new(move |url| server.get(url)))
    }

    /// What the server answers a URL with, redirects followed.
    fn get(&self, url: &str) -> Result<Fetched, String> {
        let mut at = Url::parse(url).map_err(|error| format!("it is not a valid URL: {error}"))?;
        for _ in 0..MOST_REDIRECTS {
            let request = Request::get(at.as_str()).body(Vec::new());
            let request = request.map_err(|error| error.to_string())?;
            let answer = self.answer(request)?;
            let status = answer.status();
            if let Some(next) = redirected(&answer, &at) {
                if self.refusal(&next).is_none() {
                    self.note(&format!("{at} redirects to {next}"));
                }
                at = next;
                continue;
            }
            if !status.is_success() {
                return Err(format!(
                    "the server answers with status {}",
                    status.as_u16()
                ));
            }
            let kind = answer.headers().get(header::CONTENT_TYPE);
            let charset = kind.and_then(|kind| charset(kind.to_str().ok()?));
            return Ok(Fetched::new(
                at.as_str(),
                answer.into_body(),
                charset.as_deref(),
            ));
        }
        Err(format!("it redirects more than {MOST_REDIRECTS} times"))
    }

    /// What the server answers a request of the browser with. What the browser shows to be let in is remembered for what the
    /// desk asks by itself.
    pub(crate) fn pass_on(&self, request: Request<Vec<u8>>) -> Result<Response<Vec<u8>>, String> {
        if let Some(shown) = request.headers().get(header::AUTHORIZATION) {
            let known = self.authorization.lock();
            *known.unwrap_or_else(PoisonError::into_inner) = Some(shown.clone());
        }
        self.answer(request)
    }

    /// Whether the server has set a cookie of that name.
    pub(crate) fn has_cookie(&self, name: &str) -> bool {
        let agents = [Some(&self.agent), self.unverified.get()];
        let mut agents = agents.into_iter().flatten();
        agents.any(|agent| {
            agent
                .cookie_jar_lock()
                .iter()
                .any(|cookie| cookie.name() == name)
        })
    }

    /// One answer, a redirect among them.
    fn answer(&self, mut request: Request<Vec<u8>>) -> Result<Response<Vec<u8>>, String> {
        let url = Url::parse(&request.uri().to_string()).map_err(|error| error.to_string())?;
        if let Some(why) = self.refusal(&url) {
            return Err(why);
        }
        let shown = self.authorization.lock();
        let shown = shown.unwrap_or_else(PoisonError::into_inner).clone();
        if let Some(shown) = shown {
            request.headers_mut().insert(header::AUTHORIZATION, shown);
        }
        // What a person asked to be sent counts before what a browser sends.
        for name in self.access.headers.keys() {
            request.headers_mut().remove(name);
        }
        for (name, value) in &self.access.headers {
            request.headers_mut().append(name.clone(), value.clone());
        }
        let agent = self.unverified.get().unwrap_or(&self.agent);
        let first = sent(agent, &request);
        let answer = match first {
            Err(error) if is_untrusted(&error) && self.is_own_certificate(&url) => {
                self.note(&format!(
                    "the certificate of {} is not signed by an authority that this system knows; accepted, because the \
                     server is on this machine",
                    url.origin().ascii_serialization()
                ));
                sent(
                    self.unverified.get_or_init(|| self.access.agent(false)),
                    &request,
                )
            }
            answer => answer,
        };
        read(answer.map_err(|error| plain(&error))?)
    }

    /// Why a URL is not asked for.
    fn refusal(&self, url: &Url) -> Option<String> {
        let named = match &self.asked {
            Asked::ThisMachine if is_here(url) => return None,
            Asked::One(server) if same_origin(server, url) => return None,
            Asked::ThisMachine => "no server".to_owned(),
            Asked::One(server) => server.origin().ascii_serialization(),
        };
        Some(format!(
            "{} is not asked; the page's URL names {named}",
            url.origin().ascii_serialization()
        ))
    }

    /// Whether a self-signed certificate is accepted: the server is on this machine, and no other certificate was named.
    fn is_own_certificate(&self, url: &Url) -> bool {
        is_here(url) && self.access.authorities.is_empty()
    }

    fn note(&self, note: &str) {
        if let Some(tell) = self.access.note {
            tell(note);
        }
    }
}

fn same_origin(one: &Url, other: &Url) -> bool {
    match (one.origin(), other.origin()) {
        (Origin::Opaque(_), _) => false,
        (one, other) => one == other,
    }
}

/// Whether a URL leads to this machine.
fn is_here(url: &Url) -> bool {
    match url.host() {
        Some(Host::Ipv4(address)) => address.is_loopback(),
        Some(Host::Ipv6(address)) => address.is_loopback(),
        Some(Host::Domain(name)) => name == "localhost" || name.ends_with(".localhost"),
        None => false,
    }
}

/// Where an answer leads on.
pub(crate) fn redirected<T>(answer: &Response<T>, from: &Url) -> Option<Url> {
    let is_redirect = matches!(
        answer.status(),
        StatusCode::MOVED_PERMANENTLY
            | StatusCode::FOUND
            | StatusCode::SEE_OTHER
            | StatusCode::TEMPORARY_REDIRECT
            | StatusCode::PERMANENT_REDIRECT
    );
    let location = answer.headers().get(header::LOCATION)?.to_str().ok()?;
    is_redirect.then(|| from.join(location).ok())?
}

/// The charset that a content type names.
pub(crate) fn charset(kind: &str) -> Option<String> {
    let parts = kind.split(';').skip(1);
    let mut named = parts.filter_map(|part| part.split_once('='));
    let found = named.find(|(name, _)| name.trim().eq_ignore_ascii_case("charset"));
    found.map(|(_, value)| value.trim().trim_matches('"').to_owned())
}

fn sent(
    agent: &ureq::Agent,
    request: &Request<Vec<u8>>,
) -> Result<Response<ureq::Body>, ureq::Error> {
    let mut empty = Request::builder()
        .method(request.method())
        .uri(request.uri());
    if let Some(headers) = empty.headers_mut() {
        headers.clone_from(request.headers());
    }
    match request.body().is_empty() {
        true => agent.run(empty.body(())?),
        false => agent.run(empty.body(request.body())?),
    }
}

fn is_untrusted(error: &ureq::Error) -> bool {
    error.to_string().contains("certificate")
}

/// The whole answer.
fn read(answer: Response<ureq::Body>) -> Result<Response<Vec<u8>>, String> {
    let (head, body) = answer.into_parts();
    // What is sent as asked for is unpacked by then, and no longer says how.
    if let Some(coding) = head.headers.get(header::CONTENT_ENCODING)
        && !matches!(coding.as_bytes(), b"identity" | b"gzip")
    {
        let coding = String::from_utf8_lossy(coding.as_bytes()).into_owned();
        return Err(format!(
            "the answer is packed as {coding:?}, which was not asked for; expected gzip, or none"
        ));
    }
    let most = LARGEST_FILE as u64;
    let bytes = body.into_with_config().limit(most).read_to_vec();
    let bytes = bytes.map_err(|error| match error {
        ureq::Error::BodyExceedsLimit(_) => {
            format!("the answer is larger than {} MB", most / 1_000_000)
        }
        other => plain(&other),
    })?;
    Ok(Response::from_parts(head, bytes))
}

/// An error as a sentence.
fn plain(error: &ureq::Error) -> String {
    let told = error.to_string();
    match error {
        _ if ["UnknownIssuer", "BadSignature", "CaUsedAsEndEntity"].iter().any(|code| told.contains(code)) => {
            "its certificate is not signed by an authority that this system knows; name the authority's certificate"
                .to_owned()
        }
        _ if told.contains("NotValidForName") => {
            "its certificate is for another host".to_owned()
        }
        _ if told.contains("Expired") => "its certificate has expired".to_owned(),
        ureq::Error::Io(error) => plain_io(error),
        ureq::Error::HostNotFound => "no such host".to_owned(),
        ureq::Error::Timeout(_) => format!("no answer within {} seconds", PATIENCE.as_secs()),
        _ => told,
    }
}
