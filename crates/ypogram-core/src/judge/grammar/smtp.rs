//! *Mailbox* of RFC 5321 §4.1.2, with the UTF-8 of RFC 6531.

use crate::judge::domain::{self};
use crate::judge::examination::Examination;
use crate::judge::no_address;
use crate::judge::standard_form::put_together;
use crate::model::codes::Code;
use crate::model::finding::Finding;
use crate::model::span::Span;
use crate::policy::job_policy::Policy;
use crate::syntax::local_part::{self};
use std::borrow::Cow;

/// Where the parts of an address stand, and how many @ there are outside quotes.
pub(crate) struct Cut {
    pub(crate) local: Span,
    pub(crate) domain: Span,
    pub(crate) second_at: Option<usize>,
}

/// Cuts `text` at its @; none where there is no @ outside quotes.
pub(crate) fn cut(text: &[u8]) -> Option<Cut> {
    if text.first() == Some(&b'"')
        && let Some(close) = local_part::closing_quote(text)
        && text.get(close + 1) == Some(&b'@')
    {
        let domain = Span::new(close + 2, text.len());
        let second_at = memchr::memchr(b'@', domain.of(text)).map(|i| domain.start + i);
        return Some(Cut { local: Span::new(0, close + 1), domain, second_at });
    }
    let first = memchr::memchr(b'@', text)?;
    let last = memchr::memrchr(b'@', text)?;
    let second_at = memchr::memchr(b'@', &text[first + 1..]).map(|i| first + 1 + i);
    Some(Cut { local: Span::new(0, first), domain: Span::new(last + 1, text.len()), second_at })
}

/// Examines `text` as *Mailbox* of RFC 5321 §4.1.2.
pub(crate) fn smtp(text: &[u8], policy: &Policy, out: &mut Examination) {
    let Some(cut) = cut(text) else {
        out.findings.push(Finding::plain(no_address::code(text), 0..text.len()));
        // What else is wrong with it is worth telling only where it is one word.
        return;
    };
    if let Some(second) = cut.second_at {
        let message: Cow<'static, str> = match memchr::memchr_iter(b'@', text).count() {
            2 => "There are 2 @ signs; an address has one.".into(),
            count => format!("There are {count} @ signs; an address has one.").into(),
        };
        out.findings.push(Finding::told(Code::SeveralAtSigns, second..second + 1, message));
    }
    out.local_span = cut.local;
    out.domain_span = cut.domain;
    let local = local_part::read(cut.local.of(text), cut.local.start, &mut out.findings);
    out.domain = domain::examine(cut.domain.of(text), cut.domain.start, policy, &mut out.findings);
    put_together(local, policy, out);
}
