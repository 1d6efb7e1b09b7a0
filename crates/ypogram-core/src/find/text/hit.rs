//! What is found in a text, and how it is looked for.

use crate::characters::bytes;
use crate::find::text::skip_reason::SkipReason;
use crate::judge::scan::Scan;
use crate::judge::summary_key::SummaryKey;
use crate::model::codes::CodeSet;
use crate::model::found::{Form, Found, Place};
use crate::model::repair::{Repair, Repairs};
use crate::model::span::Span;
use std::borrow::Cow;

/// What to look for beyond plain addresses.
#[derive(Clone, Copy, Debug, Default)]
pub struct Options {
    /// Take addresses whatever their TLD.
    pub any_tld: bool,
    /// Take addresses that were written so that programs do not see them: `name at host dot org`.
    pub obfuscated: bool,
    /// Tell of those that are not taken, as passed over.
    pub tell_hidden: bool,
}

/// An address among other words.
#[derive(Clone, Debug)]
pub struct Hit<'a> {
    /// The address itself: as it stands, or decoded where it was encoded.
    pub text: Cow<'a, [u8]>,
    /// Where it stands, its wrapping included.
    pub as_found: Span,
    /// Where the address itself stands, encoded as it may be.
    pub bare: Span,
    /// How it stands.
    pub form: Form,
    /// Where a display name stands, if one does.
    pub name: Option<Span>,
    pub(super) repairs: Repairs,
    pub(super) place: Place,
    /// The findings that come from how it stands.
    pub(super) codes: CodeSet,
    /// What was seen of the text on the way.
    pub(crate) scan: Option<Scan>,
}

/// Something with an @ that was looked at.
#[derive(Clone, Debug)]
pub enum Seen<'a> {
    /// It is an address.
    Match(Hit<'a>),
    /// It is none, for this reason; the span is what was passed over.
    Skipped(Span, SkipReason),
}

/// What [`look_with`](crate::text::look_with) meets.
#[derive(Clone, Debug)]
pub enum ScanEvent<'a> {
    /// An address among other words that was judged on the way. The judge then holds the hash of its domain, and its standard
    /// form where that is not how it stands in the text.
    Judged(JudgedMatch),
    /// Anything else, and what it is near.
    Seen(Seen<'a>, LinePosition),
}

/// A place in a text of which the line is known.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct LinePosition {
    /// Where it is.
    pub at: usize,
    /// Line breaks of the body in front of it.
    pub line_breaks: isize,
}

/// A plain address as it stands among other words.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct JudgedMatch {
    /// Where it stands, its wrapping included.
    pub as_found: Span,
    /// Where the address itself stands.
    pub bare: Span,
    /// How it stands.
    pub form: Form,
    /// Where a display name stands, if one does.
    pub name: Option<Span>,
    /// Where the @ stands in the address.
    pub at: usize,
    /// Line breaks of the body in front of where it stands; fewer than none where it starts in front of the body, and line breaks
    /// stand between.
    pub line_breaks: isize,
    /// What it has in common with others.
    pub summary_key: SummaryKey,
    /// Whether its local part has a plus sign behind its first character.
    pub(crate) plus: bool,
    /// Whether its local part has dots.
    pub(crate) dots: bool,
}

impl<'a> Hit<'a> {
    /// The hit as an address found in a cell, which is the text it was found in.
    pub fn into_found(self) -> Found<'a> {
        Found {
            text: self.text,
            as_found: self.as_found,
            form: self.form,
            repairs: self.repairs.with(Repair::TakenFromText),
            codes: self.codes,
            marked: None,
            name: self.name,
            remark: None,
            meant: None,
            place: self.place,
        }
    }

    /// Whether the address is plain ASCII without quotes, found as it stands.
    pub fn is_plain(&self) -> bool {
        self.scan.is_some()
    }

    /// The findings that come from how it stands.
    pub fn codes(&self) -> CodeSet {
        self.codes
    }

    /// Whether nothing but white space stands beside it in `text`.
    pub fn is_alone_in(&self, text: &[u8]) -> bool {
        let trimmed = bytes::trim(text);
        bytes::offset_in(text, trimmed) == self.as_found.start && trimmed.len() == self.as_found.len()
    }
}
