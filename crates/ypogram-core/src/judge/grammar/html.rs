//! The valid e-mail address of the HTML standard: what the e-mail input of a web form takes.

use crate::characters::bytes::{self, ATEXT, DOT, LDH};
use crate::judge::domain;
use crate::judge::examination::Examination;
use crate::judge::grammar::smtp;
use crate::judge::standard_form;
use crate::model::codes::Code;
use crate::model::finding::Finding;
use crate::model::severity::Kind;
use crate::policy::job_policy::Policy;
use crate::syntax::local_part::LocalContent;

/// Examines `text`: syntax findings exactly where the HTML standard refuses it.
pub(crate) fn examine(text: &[u8], policy: &Policy, out: &mut Examination) {
    if !is_valid(text) {
        smtp::smtp(text, policy, out);
        if !out.findings.iter().any(|finding| finding.code.info().kind == Kind::Syntax) {
            out.findings.push(Finding::plain(Code::NotHtmlAddress, 0..text.len()));
            if policy.keeps_from_writing(Code::NotHtmlAddress) {
                out.standard = None;
            }
        }
        return;
    }
    let cut = smtp::cut(text).expect("a valid address has an @");
    (out.local_span, out.domain_span) = (cut.local, cut.domain);
    // Dots may stand anywhere in its local part, and it knows no length but that of a label.
    out.domain = domain::examine(cut.domain.of(text), cut.domain.start, policy, &mut out.findings);
    out.findings.retain(|finding| finding.code.info().kind != Kind::Syntax);
    let local = LocalContent { text: cut.local.of(text).to_vec(), quoted: false };
    standard_form::put_together_as_it_is(local, policy, out);
}

/// `1*( atext / "." ) "@" label *( "." label )`, a label being letters, digits and inner hyphens, at most 63.
fn is_valid(text: &[u8]) -> bool {
    let Some(at) = memchr::memchr(b'@', text) else { return false };
    let (local, domain) = (&text[..at], &text[at + 1..]);
    let label = |label: &[u8]| {
        let inner_hyphens =
            label.first().zip(label.last()).is_some_and(|(first, last)| *first != b'-' && *last != b'-');
        inner_hyphens && label.len() <= 63 && label.iter().all(|&b| bytes::is(b, LDH))
    };
    !local.is_empty()
        && local.iter().all(|&b| bytes::is(b, ATEXT | DOT))
        && domain.split(|&b| b == b'.').all(label)
}
