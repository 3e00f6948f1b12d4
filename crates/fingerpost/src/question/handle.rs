//! A page that owns what its questions have worked out.

use std::sync::{Arc, Mutex, PoisonError};

use super::Questions;
use crate::page::{Known, Page};

/// A page with its questions, to be kept and sent between threads. What one question works out, the next takes from there, as
/// in [`Questions`], which borrow their page.
///
/// ```
/// use fingerpost::prelude::*;
/// use fingerpost::question::PageHandle;
///
/// let page = Page::new(Text::new("a.html", "<style>p { color: teal }</style><p>Boats"));
/// let handle = PageHandle::new(page);
/// let color = std::thread::spawn(move || {
///     handle.ask(|ask| {
///         let target = ask.find_one("p")?;
///         let why = ask.why(&target, &"color".parse()?);
///         Ok::<_, Box<dyn std::error::Error + Send + Sync>>(why.contests[0].value.computed.clone())
///     })
/// });
/// assert_eq!(color.join().unwrap().unwrap(), "rgb(0, 128, 128)");
/// ```
#[derive(Clone, Debug)]
pub struct PageHandle {
    page: Arc<Page>,
    known: Arc<Mutex<Option<Known>>>,
}

impl PageHandle {
    /// A handle of a page.
    pub fn new(page: impl Into<Arc<Page>>) -> PageHandle {
        PageHandle {
            page: page.into(),
            known: Arc::default(),
        }
    }

    /// The page.
    pub fn page(&self) -> &Arc<Page> {
        &self.page
    }

    /// Asks about the page. If another thread is asking at the same time, this call does not wait for it, and works out everything
    /// again.
    pub fn ask<T>(&self, questions: impl FnOnce(&Questions<'_>) -> T) -> T {
        let kept = || self.known.lock().unwrap_or_else(PoisonError::into_inner);
        let known = kept().take().unwrap_or_default();
        let ask = self.page.ask_knowing(known);
        let answer = questions(&ask);
        *kept() = Some(ask.into_known());
        answer
    }
}
