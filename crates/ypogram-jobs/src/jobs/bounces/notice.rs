//! What a message says of one recipient.

use crate::engine::shortened::shortened_to;
use crate::jobs::bounces::what::What;

/// What a message says of one recipient.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Notice {
    /// The address that the mail was sent to.
    pub(super) recipient: String,
    pub(super) what: What,
    /// The address to use from now on; empty where none is given.
    pub(super) new_address: String,
    /// The enhanced status code (RFC 3463), or the reply code of SMTP; empty where there is none.
    pub(super) code: String,
    /// The words by which it was told.
    pub(super) evidence: String,
}

/// What a message says.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Said {
    Notices(Vec<Notice>),
    /// It is about nothing of this.
    Other,
    /// It came back, and what it says was not understood.
    Unread(&'static str),
}

/// Evidence is so many characters long at most.
const MOST_EVIDENCE: usize = 200;

/// `text` in one line, and not too long.
pub(super) fn as_evidence(text: &str) -> String {
    shortened_to(text.split_whitespace().collect::<Vec<_>>().join(" ").as_bytes(), MOST_EVIDENCE)
}
