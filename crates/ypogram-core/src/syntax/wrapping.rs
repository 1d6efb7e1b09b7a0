//! Every way in which an address is wrapped in a cell or a text, with the form it then has and what taking it off is called: the
//! one table that the readers of cells and texts and the fast path share.

use crate::model::found::Form;
use crate::model::repair::{Repair, Repairs};

/// A way in which an address is wrapped.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[repr(u8)]
pub(crate) enum Wrapping {
    /// Nothing stands around it.
    #[default]
    None,
    /// `<ada@host>`
    Angle,
    /// `mailto:ada@host`
    Mailto,
    /// `Ada <ada@host>`
    NamedAngle,
    /// `ada @ host`
    Spaced,
    /// `Ada ada@host`, `ada@host (Ada)`
    Named,
    /// `E-mail: ada@host`
    Labelled,
    /// `ada@host, 01632 960413`
    WithTelephone,
    /// `“ada@host”`, `[ada@host]`
    Quoted,
    /// `ada@host.`, `"ada@host`
    Marked,
    /// `write to ada@host`
    WithinText,
}

/// The form of each wrapping and the repairs that take it off.
const TABLE: [(Wrapping, Form, &[Repair]); 11] = [
    (Wrapping::None, Form::Plain, &[]),
    (Wrapping::Angle, Form::Angle, &[Repair::AngleBrackets]),
    (Wrapping::Mailto, Form::Mailto, &[Repair::Mailto]),
    (Wrapping::NamedAngle, Form::Named, &[Repair::AngleBrackets, Repair::NameRemoved]),
    (Wrapping::Spaced, Form::Spaced, &[Repair::SpaceAroundAt]),
    (Wrapping::Named, Form::Named, &[Repair::NameRemoved]),
    (Wrapping::Labelled, Form::Labelled, &[Repair::Label]),
    (Wrapping::WithTelephone, Form::WithTelephone, &[Repair::Telephone]),
    (Wrapping::Quoted, Form::Quoted, &[Repair::Unwrapped]),
    (Wrapping::Marked, Form::Marked, &[Repair::Candidate]),
    (Wrapping::WithinText, Form::WithinText, &[Repair::TakenFromText]),
];

impl Wrapping {
    /// The form of an address that stands so.
    pub(crate) fn form(self) -> Form {
        TABLE[self as usize].1
    }

    /// What taking it off is called.
    pub(crate) fn repairs(self) -> Repairs {
        TABLE[self as usize].2.iter().copied().fold(Repairs::NONE, Repairs::with)
    }
}

/// CandidateScanner that enclose an address, or words beside one.
pub(crate) const PAIRS: [(&str, &str); 13] = [
    ("\"", "\""),
    ("'", "'"),
    ("`", "`"),
    ("(", ")"),
    ("[", "]"),
    ("{", "}"),
    ("“", "”"),
    ("„", "“"),
    ("„", "”"),
    ("‘", "’"),
    ("«", "»"),
    ("»", "«"),
    ("‹", "›"),
];

/// A single sign that may stand behind an address without belonging to it.
pub(crate) const CLOSING_SIGNS: &[u8] = b".!?/',;:)>";

/// A single sign that may stand before an address without belonging to it.
pub(crate) const OPENING_SIGNS: [&str; 3] = ["\"", "“", "„"];

/// How many bytes of `mailto:`, in any letter case, `text` starts with; slashes that are written behind it go with it.
pub(crate) fn mailto_prefix(text: &[u8]) -> Option<usize> {
    const PREFIX: &[u8] = b"mailto:";
    let start = text.get(..PREFIX.len())?;
    let slashes = if text[PREFIX.len()..].starts_with(b"//") { 2 } else { 0 };
    start.eq_ignore_ascii_case(PREFIX).then_some(PREFIX.len() + slashes)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_table_is_in_the_order_of_the_wrappings() {
        for (place, (wrapping, _, _)) in TABLE.iter().enumerate() {
            assert_eq!(*wrapping as usize, place);
        }
    }
}
