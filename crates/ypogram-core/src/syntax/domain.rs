//! The syntax of a domain: RFC 5321 §4.1.2 *Domain*, RFC 1035 §2.3.4 for its lengths, IDNA as of UTS #46 with its strict rules.

use crate::characters::bytes::{self, LDH};
use crate::characters::idna_form::{ascii_of, is_a_label, needs_idna};
use crate::model::codes::Code;
use crate::syntax::idna_rules;
use crate::syntax::sink::FindingSink;

/// Reports every fault of the characters and labels of the domain `text`, which starts at byte `at` of the address. Labels of
/// other letters than ASCII are [read apart](to_ascii).
pub(crate) fn check(text: &[u8], at: usize, sink: &mut impl FindingSink) {
    check_characters(text, at, sink);
    check_labels(text, at, sink);
}

fn check_characters(text: &[u8], at: usize, sink: &mut impl FindingSink) {
    let mut i = 0;
    while i < text.len() {
        let Some((c, width)) = bytes::first_char(&text[i..]) else {
            sink.report_plain(Code::NotUtf8, at + i..at + i + 1);
            i += 1;
            continue;
        };
        let span = at + i..at + i + width;
        i += width;
        match c {
            '.' => {}
            '_' => sink.report_plain(Code::UnderscoreInDomain, span),
            c if bytes::is_bidi_control(c) => sink.report_plain(Code::BidiControl, span),
            c if bytes::is_space_char(c) => {
                sink.report(Code::SpaceInside, span, || match c {
                    ' ' => "There is a space in the domain.".into(),
                    c => format!("There is {} in the domain.", bytes::shown(c)).into(),
                });
            }
            c if c.is_control() => sink.report_plain(Code::ControlCharacter, span),
            c if c.is_ascii() && !bytes::is(c as u8, LDH) => {
                sink.report(Code::DomainCharacter, span, || {
                    format!("{} is not allowed in a domain.", bytes::shown(c)).into()
                });
            }
            _ => {}
        }
    }
}

fn check_labels(text: &[u8], at: usize, sink: &mut impl FindingSink) {
    let mut start = 0;
    let count = text.split(|&b| b == b'.').count();
    for (index, label) in text.split(|&b| b == b'.').enumerate() {
        let span = at + start..at + start + label.len();
        let last = index + 1 == count;
        if label.is_empty() {
            // The empty label is reported at the dot that makes it.
            let dot = if last { (at + start).saturating_sub(1) } else { at + start };
            let code = if last && count > 1 { Code::TrailingDot } else { Code::EmptyLabel };
            sink.report_plain(code, dot..dot + 1);
        } else {
            if label[0] == b'-' {
                sink.report_plain(Code::HyphenAtEdge, span.start..span.start + 1);
            }
            if label.len() > 1 && label[label.len() - 1] == b'-' {
                sink.report_plain(Code::HyphenAtEdge, span.end - 1..span.end);
            }
            if has_hyphens_third_fourth(label) && !is_a_label(label) {
                sink.report_plain(Code::HyphensThirdFourth, span.start + 2..span.start + 4);
            }
            if label.len() > 63 && label.is_ascii() {
                sink.report(Code::LabelTooLong, span, || {
                    format!("A label has {} bytes; 63 is the most.", label.len()).into()
                });
            }
        }
        start += label.len() + 1;
    }
}

fn has_hyphens_third_fourth(label: &[u8]) -> bool {
    label.get(2..4) == Some(b"--")
}

/// The domain in A-labels, where it has labels of other letters and they are in order; reports what is not.
pub(crate) fn to_ascii(text: &[u8], at: usize, sink: &mut impl FindingSink) -> Option<String> {
    if !needs_idna(text) {
        return None;
    }
    let Some(ascii) = ascii_of(text) else {
        report_bad_labels(text, at, sink);
        return None;
    };
    idna_rules::check(text, at, sink);
    let written = String::from_utf8_lossy(text);
    for label in ascii.split('.').filter(|label| label.len() > 63) {
        sink.report(Code::LabelTooLong, at..at + written.len(), || {
            format!("A label has {} bytes in ASCII form; 63 is the most.", label.len()).into()
        });
    }
    if ascii.split('.').any(str::is_empty) {
        sink.report_plain(Code::EmptyLabel, at..at + text.len());
    }
    Some(ascii)
}

fn report_bad_labels(text: &[u8], at: usize, sink: &mut impl FindingSink) {
    let mut none = true;
    let mut start = 0;
    for label in text.split(|&b| b == b'.') {
        let span = at + start..at + start + label.len();
        start += label.len() + 1;
        if needs_idna(label) && ascii_of(label).is_none() {
            let code = if is_a_label(label) { Code::BadALabel } else { Code::IdnaNotAllowed };
            sink.report_plain(code, span);
            none = false;
        }
    }
    if none {
        // Each label alone is in order: the rule for names that mix directions (RFC 5893) spans labels.
        sink.report_plain(Code::IdnaNotAllowed, at..at + text.len());
    }
}
