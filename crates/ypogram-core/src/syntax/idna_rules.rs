//! Which characters an international domain name may have: the derived property of RFC 5892 and its contextual rules, on top of the
//! mapping of UTS #46.

use std::ops::RangeInclusive;

use icu_properties::props::{
    ChangesWhenNfkcCasefolded, DefaultIgnorableCodePoint, Emoji, GeneralCategory, GeneralCategoryGroup,
    HangulSyllableType, NoncharacterCodePoint, Script, WhiteSpace,
};
use icu_properties::{CodePointMapData, CodePointSetData};
use unicode_normalization::UnicodeNormalization as _;

use crate::characters::bytes;
use crate::characters::idna_form;
use crate::model::codes::Code;
use crate::syntax::sink::FindingSink;

/// Names what RFC 5892 does not allow in the domain `text`, which UTS #46 maps to A-labels and which starts at byte `at` of the
/// address.
///
/// Capitals, full-width and decomposed letters are mapped (RFC 5895 §2). Pictures, and what only the compatibility mapping of the
/// older rules makes letters of, are names that some registries gave out: they are for a person to look at.
pub(crate) fn check(text: &[u8], at: usize, sink: &mut impl FindingSink) {
    let mut start = at;
    for label in text.split(|&b| b == b'.') {
        check_label(label, start, sink);
        start += label.len() + 1;
    }
}

fn check_label(label: &[u8], at: usize, sink: &mut impl FindingSink) {
    let Ok(written) = std::str::from_utf8(label) else { return };
    let is_a_label = written.is_ascii();
    let read = idna_form::to_unicode(&written.to_ascii_lowercase());
    let text = if is_a_label { &*read } else { written };
    if text.is_ascii() {
        return;
    }
    let mut none = true;
    for (place, c) in text.char_indices().filter(|(_, c)| !c.is_ascii()) {
        let span = match is_a_label {
            true => at..at + label.len(),
            false => at + place..at + place + c.len_utf8(),
        };
        let standing = standing(c);
        none &= matches!(standing, Standing::Valid);
        match standing {
            Standing::Valid => {}
            Standing::Outdated => sink.report_plain(Code::OutdatedIdna, span),
            Standing::Disallowed => {
                sink.report(Code::IdnaNotAllowed, span, || {
                    format!("{} is not allowed in a domain.", bytes::shown(c)).into()
                });
            }
        }
    }
    if none {
        let mapped: Vec<char> = text.chars().flat_map(char::to_lowercase).nfc().collect();
        if let Some(c) = out_of_context(&mapped) {
            sink.report(Code::IdnaNotAllowed, at..at + label.len(), || {
                format!("{} is not allowed beside these letters.", bytes::shown(c)).into()
            });
        }
    }
}

/// What the rules say of a character.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Standing {
    /// It may stand, or is mapped to what may; beside the right letters where that counts.
    Valid,
    /// Only the older rules for such names allow it.
    Outdated,
    Disallowed,
}

fn standing(c: char) -> Standing {
    if matches!(c, '\u{3002}' | '\u{FF0E}' | '\u{FF61}') {
        // They separate labels.
        return Standing::Valid;
    }
    let is_width_form = ('\u{FF01}'..='\u{FFEE}').contains(&c);
    let mapped: Vec<char> = match is_width_form {
        true => [c].into_iter().nfkc().flat_map(char::to_lowercase).nfc().collect(),
        false => [c].into_iter().nfc().flat_map(char::to_lowercase).nfc().collect(),
    };
    if mapped.iter().all(|&c| is_valid(c)) {
        return Standing::Valid;
    }
    let is_picture = CodePointSetData::new::<Emoji>().contains(c);
    let by_compatibility = || {
        let mut mapped = [c].into_iter().nfkc().flat_map(char::to_lowercase).nfkc().peekable();
        mapped.peek() != Some(&c) && mapped.all(is_valid)
    };
    if is_picture || by_compatibility() { Standing::Outdated } else { Standing::Disallowed }
}

/// Whether a character is PVALID, CONTEXTJ or CONTEXTO (RFC 5892 §3).
fn is_valid(c: char) -> bool {
    const VALID: [char; 6] = ['\u{DF}', '\u{3C2}', '\u{6FD}', '\u{6FE}', '\u{F0B}', '\u{3007}'];
    const NOT_VALID: [RangeInclusive<char>; 5] = [
        '\u{640}'..='\u{640}',
        '\u{7FA}'..='\u{7FA}',
        '\u{302E}'..='\u{302F}',
        '\u{3031}'..='\u{3035}',
        '\u{303B}'..='\u{303B}',
    ];
    // Combining marks for symbols, and both of musical notation (§2.4).
    const BLOCKS: [RangeInclusive<char>; 3] =
        ['\u{20D0}'..='\u{20FF}', '\u{1D100}'..='\u{1D1FF}', '\u{1D200}'..='\u{1D24F}'];
    if c.is_ascii() {
        return c.is_ascii_alphanumeric() || c == '-';
    }
    if VALID.contains(&c) || is_contextual(c) {
        return true;
    }
    let is_jamo = matches!(
        CodePointMapData::<HangulSyllableType>::new().get(c),
        HangulSyllableType::LeadingJamo | HangulSyllableType::VowelJamo | HangulSyllableType::TrailingJamo
    );
    let is_ignorable = CodePointSetData::new::<DefaultIgnorableCodePoint>().contains(c)
        || CodePointSetData::new::<WhiteSpace>().contains(c)
        || CodePointSetData::new::<NoncharacterCodePoint>().contains(c);
    let is_unstable = CodePointSetData::new::<ChangesWhenNfkcCasefolded>().contains(c);
    let excluded = NOT_VALID.iter().chain(&BLOCKS).any(|range| range.contains(&c));
    !(is_jamo || is_ignorable || is_unstable || excluded) && is_letter_or_digit(c)
}

/// RFC 5892 §2.1: letters, decimal digits and the marks of both.
fn is_letter_or_digit(c: char) -> bool {
    let category = CodePointMapData::<GeneralCategory>::new().get(c);
    let letter =
        GeneralCategoryGroup::Letter.contains(category) && category != GeneralCategory::TitlecaseLetter;
    letter
        || matches!(
            category,
            GeneralCategory::DecimalNumber | GeneralCategory::NonspacingMark | GeneralCategory::SpacingMark
        )
}

/// Whether it depends on its neighbours whether a character may stand (RFC 5892 Appendix A).
fn is_contextual(c: char) -> bool {
    matches!(c, '\u{200C}' | '\u{200D}' | '\u{B7}' | '\u{375}' | '\u{5F3}' | '\u{5F4}' | '\u{30FB}')
        || is_arabic_digit(c)
        || is_extended_arabic_digit(c)
}

fn is_arabic_digit(c: char) -> bool {
    ('\u{660}'..='\u{669}').contains(&c)
}

fn is_extended_arabic_digit(c: char) -> bool {
    ('\u{6F0}'..='\u{6F9}').contains(&c)
}

/// The first character of a label that its neighbours do not allow (RFC 5892 Appendix A.3 to A.9); the joiners of A.1 and A.2 are
/// checked with the mapping.
fn out_of_context(label: &[char]) -> Option<char> {
    let script = |c: Option<&char>| c.map(|&c| CodePointMapData::<Script>::new().get(c));
    let is_japanese =
        |c: &char| matches!(script(Some(c)), Some(Script::Hiragana | Script::Katakana | Script::Han));
    let fits = |place: usize, c: char| {
        let (before, after) = (place.checked_sub(1).map(|before| &label[before]), label.get(place + 1));
        match c {
            '\u{B7}' => before == Some(&'l') && after == Some(&'l'),
            '\u{375}' => script(after) == Some(Script::Greek),
            '\u{5F3}' | '\u{5F4}' => script(before) == Some(Script::Hebrew),
            '\u{30FB}' => label.iter().any(is_japanese),
            c if is_arabic_digit(c) => !label.iter().copied().any(is_extended_arabic_digit),
            c if is_extended_arabic_digit(c) => !label.iter().copied().any(is_arabic_digit),
            _ => true,
        }
    };
    label.iter().enumerate().find(|&(place, &c)| !fits(place, c)).map(|(_, &c)| c)
}
