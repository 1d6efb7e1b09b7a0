//! The standard form of what is well formed.

use crate::characters::fold::folded;
use crate::judge::examination::{Examination, Standard};
use crate::judge::meaning::read_meaning;
use crate::model::codes::Code;
use crate::model::finding::Finding;
use crate::model::repair::Repair;
use crate::model::span::Span;
use crate::policy::job_policy::{LetterCase, Policy};
use crate::syntax::local_part::{self, LocalContent};
use unicode_normalization::UnicodeNormalization;

/// Builds the standard form of what is well formed, holds it against the lengths, and reads its meaning.
pub(crate) fn put_together(local: LocalContent, policy: &Policy, out: &mut Examination) {
    put_together_by(local, policy, out, true);
}

/// Like [`put_together`], for a grammar that knows no lengths and no quotes.
pub(crate) fn put_together_as_it_is(local: LocalContent, policy: &Policy, out: &mut Examination) {
    put_together_by(local, policy, out, false);
}

fn put_together_by(local: LocalContent, policy: &Policy, out: &mut Examination, strict: bool) {
    out.class = out.domain.facts.class();
    out.operator = out.domain.facts.operator;
    if policy.is_kept_from_writing(&out.findings) {
        length_of_local(local.text.len(), out);
        return;
    }
    let content = String::from_utf8(local.text).expect("what is not UTF-8 is not written");
    let composed: String = if content.is_ascii() { content.clone() } else { content.nfc().collect() };
    // What is not quoted needs no quotes, or has a fault of order that is let pass as it stands.
    let written = match strict && local.quoted {
        true => local_part::written(composed.as_bytes()),
        false => composed.clone().into_bytes(),
    };
    let folded = if written.first() == Some(&b'"') {
        local_part::written(folded(&composed).as_bytes())
    } else {
        folded(&composed).into_bytes()
    };
    let kept = if policy.letter_case == LetterCase::Keep { &written } else { &folded };
    let whole = kept.len() + 1 + out.domain.ascii.len();
    if strict {
        length_of_local(kept.len(), out);
    }
    if strict && whole > 254 {
        let message = format!("The address has {whole} bytes; 254 is the most.");
        let span = Span::new(out.local_span.start, out.domain_span.end);
        out.findings.push(Finding::told(Code::AddressTooLong, span, message));
    }
    if policy.is_kept_from_writing(&out.findings) {
        return;
    }
    let quoted = written.first() == Some(&b'"');
    let mut repairs = out.repairs;
    for (made, repair) in [
        (local.quoted && !quoted, Repair::Quotes),
        (content != composed, Repair::UnicodeForm),
        (kept != &written, Repair::LocalCase),
        (out.domain.has_capitals, Repair::DomainCase),
        (out.domain.mapped, Repair::ALabel),
    ] {
        if made {
            repairs.insert(repair);
        }
    }
    out.repairs = repairs;
    let address = String::from_utf8(kept.clone()).expect("UTF-8 from UTF-8") + "@" + &out.domain.ascii;
    out.standard = Some(Standard { at: kept.len(), address });
    (out.written, out.folded) = (written, folded);
    read_meaning(quoted, policy, out);
}

fn length_of_local(bytes: usize, out: &mut Examination) {
    if bytes > 64 {
        let message = format!("The local part has {bytes} bytes; 64 is the most.");
        out.findings.push(Finding::told(Code::LocalPartTooLong, out.local_span, message));
    }
}
