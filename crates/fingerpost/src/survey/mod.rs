//! Questions over a whole site: what a change moves besides what it was aimed at, and what a draft comes
//! to. Each is a function from one or two states of a [`Site`](crate::site::Site) to plain data.
//!
//! ```
//! use fingerpost::prelude::*;
//! use fingerpost::survey::Pretended;
//! use fingerpost::survey::edit::{Over, attempt};
//!
//! let folder = tempfile::tempdir()?;
//! std::fs::write(folder.path().join("fingerpost.toml"), "fingerpost = 1\n")?;
//! std::fs::write(folder.path().join("a.css"), "p { color: teal }")?;
//! for page in ["a.html", "b.html"] {
//!     let html = "<link rel=stylesheet href=a.css><p>Boats<p>Fares";
//!     std::fs::write(folder.path().join(page), html)?;
//! }
//! let mut site = Site::of_folder(folder.path())?;
//! let mut page = site.page("a.html", Conditions::default())?;
//! let change = Change::set("color", "navy");
//! let intent = Intent::new("a.html", "p:first-of-type", change);
//! let answer = attempt(&mut site, &mut page, &intent, &Pretended::default(), Over::Site)?;
//! // One was meant; another here and two on the other page follow the same rule.
//! assert_eq!(answer.effect.others().count(), 3);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub mod draft;
pub mod edit;
pub mod effect;
pub mod guess;
pub mod whynot;

use crate::markup::ElementId;
use crate::page::Page;
use crate::question::find::{ElementQuery, FindError, elements};
use crate::selector::State;

/// The states that elements of the asked page are pretended to be in.
#[derive(Clone, Debug, Default)]
pub struct Pretended {
    /// Those of the elements that are asked about.
    pub asked: Vec<State>,
    /// Those of other elements.
    pub others: Vec<InState>,
}

/// Elements in a state.
#[derive(Clone, Debug)]
pub struct InState {
    /// The elements.
    pub elements: ElementQuery,
    /// The state.
    pub state: State,
}

impl Pretended {
    /// Puts the other elements of a page into their states.
    ///
    /// # Errors
    /// Where what names them can't be read.
    pub fn of_others(&self, page: &mut Page) -> Result<(), FindError> {
        for other in &self.others {
            for element in elements(page, &other.elements)? {
                page.pretend(element, other.state);
            }
        }
        Ok(())
    }

    /// Puts the asked elements of a page into their states.
    pub fn of_asked(&self, page: &mut Page, asked: &[ElementId]) {
        for (element, state) in asked
            .iter()
            .flat_map(|id| self.asked.iter().map(move |s| (id, s)))
        {
            page.pretend(*element, *state);
        }
    }
}
