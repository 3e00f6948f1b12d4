//! The fixed words of answers: whether a declaration wins, what is in its way, where a value comes from.
//!
//! Each is an enum whose members are words in the JSON ([`docs/json.md`]). More may come: match with a `_`.
//!
//! [`docs/json.md`]: https://fingerpost.example/docs/json.md
//!
//! ```
//! use fingerpost::question::codes::ObstacleKind;
//!
//! assert_eq!(ObstacleKind::NotMatched.as_str(), "not-matched");
//! assert_eq!("beaten".parse(), Ok(ObstacleKind::Beaten));
//! // In the order in which to look for them.
//! assert!(ObstacleKind::NotMatched < ObstacleKind::Beaten);
//! ```

/// An enum of words: with `as_str`, [`Display`](std::fmt::Display) and
/// [`FromStr`](std::str::FromStr), and serialised as the word.
macro_rules! codes {
    ($($(#[$about:meta])* $name:ident { $($(#[$of:meta])* $member:ident = $word:literal,)* })*) => {$(
        $(#[$about])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        #[non_exhaustive]
        pub enum $name { $($(#[$of])* $member,)* }

        impl $name {
            /// All of them, in order.
            pub const ALL: &'static [$name] = &[$($name::$member,)*];

            /// The word.
            pub const fn as_str(self) -> &'static str {
                match self { $($name::$member => $word,)* }
            }
        }

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.pad(self.as_str())
            }
        }

        impl std::str::FromStr for $name {
            type Err = crate::question::UnknownCode;

            fn from_str(word: &str) -> Result<$name, Self::Err> {
                let known = $name::ALL.iter().find(|code| code.as_str() == word);
                known.copied().ok_or_else(|| crate::question::UnknownCode {
                    word: word.to_owned(),
                    known: $name::ALL.iter().map(|code| code.as_str()).collect(),
                })
            }
        }

        #[cfg(feature = "schemas")]
        impl schemars::JsonSchema for $name {
            fn schema_name() -> std::borrow::Cow<'static, str> {
                stringify!($name).into()
            }

            fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
                let words: Vec<&str> = $name::ALL.iter().map(|code| code.as_str()).collect();
                schemars::json_schema!({ "type": "string", "enum": words })
            }
        }

        impl serde::Serialize for $name {
            fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
                to.serialize_str(self.as_str())
            }
        }

        impl<'de> serde::Deserialize<'de> for $name {
            fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<$name, D::Error> {
                let word = std::borrow::Cow::<str>::deserialize(from)?;
                word.parse().map_err(serde::de::Error::custom)
            }
        }
    )*};
}
pub(crate) use codes;

/// A word that an answer does not use there.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("'{word}' is not one of {}", .known.join(", "))]
#[non_exhaustive]
pub struct UnknownCode {
    /// The word.
    pub word: String,
    /// Those that are.
    pub known: Vec<&'static str>,
}

codes! {
    /// Where a value comes from.
    ValueFrom {
        /// A declaration on the element itself.
        Declared = "declared",
        /// The element above.
        Inherited = "inherited",
        /// The standard's initial value.
        Initial = "initial",
    }

    /// What a declaration results in in one contest.
    ContenderStanding {
        /// It gives the value.
        Wins = "wins",
        /// It says `revert` or the like: what is below it gives the value.
        HandsOver = "hands-over",
        /// It loses on a criterion of the cascade.
        Loses = "loses",
    }

    /// What a declaration results in over all longhands that it sets.
    DeclarationStanding {
        /// It gives the value of each.
        Wins = "wins",
        /// It gives the value of some.
        WinsInPart = "wins-in-part",
        /// It gives the value of none.
        Beaten = "beaten",
        /// A condition around it does not hold.
        Blocked = "blocked",
        /// No property has its name.
        UnknownProperty = "unknown-property",
        /// Its value is not valid.
        InvalidValue = "invalid-value",
    }

    /// Why a declaration of a rule that matches does nothing.
    IdleReason {
        /// No property has its name.
        UnknownProperty = "unknown-property",
        /// Its value is not valid.
        InvalidValue = "invalid-value",
        /// A condition around it does not hold.
        Condition = "condition",
        /// Others win.
        Beaten = "beaten",
    }

    /// Why a declaration of a rule that matches takes no part in a contest.
    ExclusionReason {
        /// A condition around it does not hold.
        Condition = "condition",
        /// Whether its condition holds depends on the layout.
        DependsOnLayout = "depends-on-layout",
        /// Its value is not valid.
        InvalidValue = "invalid-value",
    }

    /// What can be written next.
    OfferKind {
        /// A property's name.
        Property = "property",
        /// A word that is its own source.
        Keyword = "keyword",
        /// A function.
        Function = "function",
        /// A type of the standards, such as `<length>`.
        Type = "type",
        /// A comma or a slash.
        Mark = "mark",
    }

    /// What a file of a site is.
    RoleKind {
        /// The theme's own, written by hand.
        Authored = "authored",
        /// Made from other files by a program, which overwrites it.
        Built = "built",
        /// Of a package that the site only uses.
        Vendor = "vendor",
        /// The sheet that keeps the site's own changes together.
        Overrides = "overrides",
        /// A page.
        Page = "page",
        /// What pages are made from.
        Template = "template",
        /// On a server.
        Remote = "remote",
        /// Outside of the site's folder.
        Outside = "outside",
    }

    /// How a rule came to the page.
    ArrivalKind {
        /// The browser brings it.
        UserAgent = "user-agent",
        /// The reader brings it.
        User = "user",
        /// `<link rel=stylesheet>`
        Link = "link",
        /// `<style>`
        Style = "style",
        /// `@import`
        Import = "import",
        /// The style attribute.
        Attribute = "attribute",
        /// A presentational attribute.
        Hint = "hint",
    }

    /// What is in the way of a declaration, in the order in which to look for it.
    ObstacleKind {
        /// No sheet has it.
        NotWritten = "not-written",
        /// The page does not load its file.
        NotOnPage = "not-on-page",
        /// Its file did not load.
        NotLoaded = "not-loaded",
        /// A program built the sheet from other files, and has not done so since.
        Bundle = "bundle",
        /// A condition of its sheet does not hold.
        SheetOff = "sheet-off",
        /// A condition around its rule does not hold.
        Condition = "condition",
        /// Whether its condition holds depends on the layout.
        DependsOnLayout = "depends-on-layout",
        /// Its at-rule is one that is not evaluated.
        NotEvaluated = "not-evaluated",
        /// Its selector is not valid.
        InvalidSelector = "invalid-selector",
        /// Its selector does not match.
        NotMatched = "not-matched",
        /// No property has its name.
        UnknownProperty = "unknown-property",
        /// Its value is not valid.
        InvalidValue = "invalid-value",
        /// Another declaration wins.
        Beaten = "beaten",
        /// It wins, and the property changes nothing on such an element.
        NoEffect = "no-effect",
    }

    /// What kind of change makes a declaration win.
    RemedyKind {
        /// The rule goes after the rule that beats it.
        Move = "move",
        /// Another selector.
        Selector = "selector",
        /// The other's layer, or none.
        Layer = "layer",
        /// `!important` goes from the other.
        RemoveImportant = "drop-important",
        /// The declaration goes from the style attribute.
        StyleAttribute = "style-attribute",
        /// Another scope.
        Scope = "scope",
        /// The element loses a class that says how it looks.
        Class = "class",
        /// `!important`, for a test.
        Important = "important",
    }
}

impl DeclarationStanding {
    /// Whether it gives the value of a longhand at least.
    pub fn wins(self) -> bool {
        matches!(
            self,
            DeclarationStanding::Wins | DeclarationStanding::WinsInPart
        )
    }
}
