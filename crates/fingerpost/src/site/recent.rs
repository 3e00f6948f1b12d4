//! The pages that were read last, so that the answer after a small change comes much sooner.

use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

use super::{Site, SiteError};
use crate::draft::Draft;
use crate::environment::Environment;
use crate::page::Page;

/// How many pages are kept as they were read last: one for each page and environment in use.
const MOST_PAGES: usize = 12;

/// Pages as they were read, each with the state of the site in which it was.
#[derive(Debug, Default)]
pub(super) struct RecentPages {
    /// Rises with everything that may change a page.
    state: AtomicU64,
    pages: Mutex<Vec<(u64, Arc<Page>)>>,
}

impl RecentPages {
    /// What was read may be different now.
    pub fn outdate(&self) {
        self.state.fetch_add(1, Ordering::Relaxed);
    }
}

/// A change that the next one may replace.
#[derive(Debug)]
pub(crate) struct LastChange {
    pub id: u32,
    pub before: Arc<Draft>,
    pub after: Arc<Draft>,
    /// The page that it was made on.
    pub page: Arc<Page>,
}

impl Site {
    /// A page of the site as the draft leaves it, shared with whoever asked for it before. What has not changed since it
    /// was read last is taken from there.
    ///
    /// # Errors
    /// As [`Site::page`].
    pub fn shared_page(
        &self,
        name: &str,
        environment: &Environment,
    ) -> Result<Arc<Page>, SiteError> {
        let state = self.pages.state.load(Ordering::Relaxed);
        let is = |page: &Page| page.document().text().name() == name;
        let mut pages = self
            .pages
            .pages
            .lock()
            .unwrap_or_else(PoisonError::into_inner);
        let same = |page: &Page| is(page) && page.environment() == environment;
        let found = pages.iter().position(|(_, page)| same(page));
        let page = match found.map(|at| pages.remove(at)) {
            Some((then, page)) if then == state => page,
            Some((_, page)) => Arc::new(self.reparse_page(&page)?),
            None => Arc::new(match pages.iter().rev().find(|(_, page)| is(page)) {
                Some((_, other)) => self.page_under(other, environment.clone())?,
                None => self.page(name, environment.clone())?,
            }),
        };
        pages.push((state, page.clone()));
        if pages.len() > MOST_PAGES {
            pages.remove(0);
        }
        Ok(page)
    }
}
