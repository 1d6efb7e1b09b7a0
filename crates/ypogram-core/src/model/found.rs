//! An address as it stood: where, in which form, and what was unwrapped to reach it.

use std::borrow::Cow;

use serde::Serialize;

use crate::model::codes::CodeSet;
use crate::model::repair::Repairs;
use crate::model::span::Span;

macro_rules! forms {
    ($($variant:ident $name:literal $sentence:literal)*) => {
        /// How an address stood in its cell or text.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
        #[serde(rename_all = "kebab-case")]
        #[repr(u8)]
        pub enum Form {
            $(#[doc = $sentence] $variant,)*
        }

        impl Form {
            /// Every form.
            pub const ALL: &'static [Form] = &[$(Form::$variant),*];

            /// The word in outputs.
            pub const fn word(self) -> &'static str {
                match self { $(Form::$variant => $name),* }
            }
        }
    };
}

forms! {
    Plain "plain" "The address and nothing else, but for white space around it."
    Angle "angle" "In angle brackets."
    Mailto "mailto" "Behind `mailto:`."
    Named "named" "With a display name or a comment."
    Labelled "labelled" "Behind a label such as `E-mail:`."
    WithTelephone "with-telephone" "Beside a telephone number."
    Quoted "quoted" "In quotation marks or brackets."
    Marked "marked" "With a single sign before or behind it, such as a full stop."
    Spaced "spaced" "With white space beside the @."
    Several "several" "One of several in a list."
    WithinText "within-text" "Among other words."
    Obfuscated "obfuscated" "Written so that programs do not see it."
    None "none" "There is no address."
}

/// An address found in a cell.
#[derive(Clone, Debug)]
pub struct Found<'a> {
    /// The address without anything around it: what is to be judged.
    pub text: Cow<'a, [u8]>,
    /// Where it stands in the cell, its wrapping included.
    pub as_found: Span,
    /// How it stood.
    pub form: Form,
    /// What was done to unwrap it.
    pub repairs: Repairs,
    /// Findings that come from how it stood.
    pub codes: CodeSet,
    /// Where in the cell that stands which these are about.
    pub marked: Option<Span>,
    /// Where a display name stands in the cell, if one does.
    pub name: Option<Span>,
    /// The words beside it that are no name.
    pub remark: Option<Vec<u8>>,
    /// What was probably meant, where that follows from what stands beside it.
    pub meant: Option<Meant>,
    pub(crate) place: Place,
}

/// What was probably meant by a cell as a whole.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Meant {
    /// The address, as it is to be judged.
    pub text: Vec<u8>,
    /// What was changed.
    pub(crate) reason: &'static str,
}

/// Where the bytes of the text stand in the cell.
#[derive(Clone, Debug)]
pub(crate) enum Place {
    /// One after the other from here.
    From(usize),
    /// Each at its own place; one more entry for the end.
    Each(Vec<usize>),
    /// Somewhere in here.
    Spread(Span),
}

impl<'a> Found<'a> {
    /// The address `text`, of which nothing is known but that it stands for a whole stretch of text.
    pub fn whole(text: &'a [u8]) -> Self {
        Found {
            text: Cow::Borrowed(text),
            as_found: Span::new(0, text.len()),
            form: Form::Plain,
            repairs: Repairs::NONE,
            codes: CodeSet::EMPTY,
            marked: None,
            name: None,
            remark: None,
            meant: None,
            place: Place::From(0),
        }
    }
}

impl Found<'_> {
    /// The place in the cell of `span`, a range of the text.
    pub fn locate(&self, span: Span) -> Span {
        match &self.place {
            Place::From(start) => span.shifted(*start),
            Place::Spread(whole) => *whole,
            Place::Each(places) => {
                let start = places[span.start.min(places.len() - 1)];
                let end = if span.is_empty() { start } else { places[span.end - 1] + 1 };
                Span::new(start, end.max(start))
            }
        }
    }
}
