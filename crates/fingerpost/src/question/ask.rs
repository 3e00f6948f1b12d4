//! [`Page::ask`]: the questions about a page, all in one place.
//!
//! ```
//! use fingerpost::prelude::*;
//!
//! let html = Text::new("a.html", "<style>h2 { color: teal }</style><h2>Sailings</h2><h2>Boats</h2>");
//! let page = Page::new(html);
//! let ask = page.ask();
//!
//! assert_eq!(ask.find("h2")?.elements.len(), 2);
//! let boats = ask.find_one("'Boats'")?;
//! let why = ask.why(&boats, &"color".parse()?);
//! assert_eq!(why.contests[0].value.computed, "rgb(0, 128, 128)");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use super::classes::{ClassesAnswer, classes};
use super::contrast::{ContrastAnswer, contrast};
use super::find::{ElementQuery, FindAnswer, FindError, elements, find, find_one};
use super::fonts::{FontsAnswer, fonts};
use super::inventory::Inventory;
use super::selectors::{SelectorsAnswer, selectors};
use super::sheets::{SheetsAnswer, sheets};
use super::trace::{TraceAnswer, trace};
use super::tree::{TreeAnswer, tree};
use super::values::{ElementValues, OpenedAnswer, ValuesAnswer, each, opened, values};
use super::why::{WhyAnswer, why};
use super::whynot::{Asked, WhyNotAnswer, WhyNotError, whynot};
use crate::markup::ElementId;
use crate::page::{Known, Page, PropertyName, Styles, Target};

/// Questions about one page. What one answer worked out, the next takes from here: keep it while you
/// ask about the same page.
#[derive(Debug)]
pub struct Questions<'p> {
    styles: Styles<'p>,
    elsewhere: &'p Inventory,
}

/// What a page knows of the rest of its site that has none.
static NOTHING_ELSE: Inventory = Inventory {
    sheets: Vec::new(),
    documents: Vec::new(),
};

impl Page {
    /// Questions about this page.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let why = page.ask().why(page.ask().find_one(".late")?, &"color".parse()?);
    /// assert_eq!(why.contests[0].value.computed, "rgb(128, 0, 0)");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn ask(&self) -> Questions<'_> {
        self.ask_knowing(Known::default())
    }

    /// Questions about this page, of whose styles some is known.
    pub(super) fn ask_knowing(&self, known: Known) -> Questions<'_> {
        Questions {
            styles: self.styles_with(known),
            elsewhere: &NOTHING_ELSE,
        }
    }
}

impl<'p> Questions<'p> {
    /// The same questions, with the other pages and sheets of the site beside the page: a selector is
    /// held against all pages, and a rule that the page lacks is looked for in all sheets.
    pub fn beside(mut self, elsewhere: &'p Inventory) -> Self {
        self.elsewhere = elsewhere;
        self
    }

    /// What has been worked out.
    pub(super) fn into_known(self) -> Known {
        self.styles.into_known()
    }

    /// The page.
    pub fn page(&self) -> &'p Page {
        self.styles.page()
    }

    /// The styles that the answers are read from.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let ask = page.ask();
    /// let value = ask.styles().value(&ask.find_one(".late")?, &"color".parse()?);
    /// assert_eq!(value.computed.text(), "rgb(128, 0, 0)");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn styles(&self) -> &Styles<'p> {
        &self.styles
    }

    /// Which elements are meant, each with its place, its text and the way to it.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let found = page.ask().find("p")?;
    /// assert_eq!(found.elements[0].text, "Boats");
    /// assert!(page.ask().find("h6")?.elements.is_empty());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the selector is not valid, or the place is not one of the page. Finding nothing is an answer.
    pub fn find(&self, what: impl Into<ElementQuery>) -> Result<FindAnswer, FindError> {
        find(self.page(), &what.into())
    }

    /// The one element, or pseudo-element, that is meant.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let late = page.ask().find_one(".late")?;
    /// // A place means an element too, and so does a text.
    /// assert_eq!(page.ask().find_one(ElementQuery::Text("Boats".into()))?, late);
    /// assert!(page.ask().find_one("h6").is_err());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where it is none (with the nearest that it nearly is) or several (with their places).
    pub fn find_one(&self, what: impl Into<ElementQuery>) -> Result<Target, FindError> {
        find_one(self.page(), &what.into())
    }

    /// The elements that are meant, in document order, and nothing more about them.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// assert_eq!(page.ask().elements("p")?.len(), 2);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// As [`Questions::find`].
    pub fn elements(&self, what: impl Into<ElementQuery>) -> Result<Vec<ElementId>, FindError> {
        elements(self.page(), &what.into())
    }

    /// The tree below an element, `depth` levels deep; all of it without one.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let tree = page.ask().tree(page.document().root_element(), Some(2));
    /// assert_eq!(tree.tree.children.len(), 2); // head and body
    /// ```
    pub fn tree(&self, from: ElementId, depth: Option<usize>) -> TreeAnswer {
        tree(self.page(), from, depth)
    }

    /// Every rule that matches the target, and for each of its declarations whether it wins.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let late = page.ask().find_one(".late")?;
    /// let trace = page.ask().trace(late);
    /// // The strongest first.
    /// let rules: Vec<_> = trace.rules.iter().map(|r| r.rule.selector.as_str()).collect();
    /// assert_eq!(rules[..2], [".late", "p"]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn trace(&self, target: impl Into<Target>) -> TraceAnswer {
        trace(&self.styles, &target.into())
    }

    /// Why a property of the target is as it is: the contest, with the reason of each loser.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let late = page.ask().find_one(".late")?;
    /// let why = page.ask().why(late, &"color".parse()?);
    /// let contest = &why.contests[0];
    /// assert_eq!(contest.contenders[0].declaration.value, "maroon");
    /// assert_eq!(contest.contenders[1].declaration.value, "teal");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn why(&self, target: impl Into<Target>, property: &PropertyName) -> WhyAnswer {
        why(&self.styles, &target.into(), property)
    }

    /// Why a rule, a selector or a declaration does nothing for the target. `text` is the question as it was written.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    /// use fingerpost::question::whynot::Asked;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let late = page.ask().find_one(".late")?;
    /// let answer = page.ask().whynot(late, &Asked::parse("color: teal"), "color: teal")?;
    /// assert!(!answer.holds);
    /// assert!(answer.verdict.contains("specificity"), "{}", answer.verdict);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where nothing is at the place that is asked about.
    pub fn whynot(
        &self,
        target: impl Into<Target>,
        asked: &Asked,
        text: &str,
    ) -> Result<WhyNotAnswer, WhyNotError> {
        whynot(&self.styles, &target.into(), asked, text, self.elsewhere)
    }

    /// The values of the target that something sets, or with `all` those of all properties; only those whose name or
    /// value has `filter` in it.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let late = page.ask().find_one(".late")?;
    /// let values = page.ask().values(late, Some("color"), false);
    /// assert_eq!(values.values[0].value, "rgb(128, 0, 0)");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn values(
        &self,
        target: impl Into<Target>,
        filter: Option<&str>,
        all: bool,
    ) -> ValuesAnswer {
        values(&self.styles, &target.into(), filter, all)
    }

    /// The values of many elements, in the order given, worked out once for all that are alike. `take` gets each as
    /// soon as those before it are done.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let elements = page.ask().elements("p")?;
    /// let mut colors = Vec::new();
    /// page.ask().values_of_each(&elements, false, |one| colors.push(one.values["color"].to_string()));
    /// assert_eq!(colors, ["rgb(128, 0, 0)", "rgb(0, 128, 128)"]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn values_of_each(
        &self,
        elements: &[ElementId],
        all: bool,
        take: impl FnMut(ElementValues),
    ) {
        each(self.page(), elements, all, take);
    }

    /// How the value of a property is put together: each custom property on the way, down to what is written.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { margin: 0 auto }</style><p>Boats"));
    /// let p = page.ask().find_one("p")?;
    /// let opened = page.ask().opened(p, &"margin".parse()?);
    /// assert_eq!(opened.links.len(), 4); // one for each side
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn opened(&self, target: impl Into<Target>, property: &PropertyName) -> OpenedAnswer {
        opened(&self.styles, &target.into(), property)
    }

    /// How the target's own text stands out from its background; none where it has no text.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: #777; background: white }</style><p>Boats"));
    /// let p = page.ask().find_one("p")?;
    /// let contrast = page.ask().contrast(p).expect("it has text");
    /// assert!(contrast.ratio > 4.4 && !contrast.passes_aa());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn contrast(&self, target: impl Into<Target>) -> Option<ContrastAnswer> {
        contrast(&self.styles, &target.into())
    }

    /// The sheets of the page in order, what failed to load, and what each has to do with the page.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// // The weakest first: the browser's own.
    /// let sheets = page.ask().sheets().sheets;
    /// let own = sheets.last().unwrap();
    /// assert_eq!((own.rules, own.rules_matching), (2, 2));
    /// ```
    pub fn sheets(&self) -> SheetsAnswer {
        sheets(&self.styles, self.elsewhere)
    }

    /// The font families that elements of the page ask for, and where each is declared.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { font-family: Harbor, serif }</style><p>Boats"));
    /// let fonts = page.ask().fonts();
    /// assert!(fonts.families.iter().any(|f| f.family == "Harbor"));
    /// ```
    pub fn fonts(&self) -> FontsAnswer {
        fonts(&self.styles)
    }

    /// Selectors for elements, the best first; with `like` for all elements that are alike.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let answer = page.ask().selectors(&[".late".into()], false)?;
    /// let best = &answer.candidates[0];
    /// assert_eq!((best.selector.as_str(), best.reach, best.unwanted), (".late", 1, 0));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where an element is not found.
    pub fn selectors(
        &self,
        elements: &[ElementQuery],
        like: bool,
    ) -> Result<SelectorsAnswer, FindError> {
        selectors(self.page(), elements, like, self.elsewhere)
    }

    /// The classes of the page's sheets that begin with `prefix`, and what each would do.
    ///
    /// ```
    /// use fingerpost::prelude::*;
    ///
    /// let page = Page::new(Text::new("a.html", "<style>p { color: teal } .late { color: maroon }</style><p class=late>Boats<p>Fares"));
    /// let classes = page.ask().classes("la").classes;
    /// assert_eq!((classes[0].name.as_str(), classes[0].rules), ("late", 1));
    /// ```
    pub fn classes(&self, prefix: &str) -> ClassesAnswer {
        classes(self.page(), prefix)
    }
}
