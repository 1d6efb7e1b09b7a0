//! Words that stand in cells instead of an address or beside one, from the reference data.

use crate::characters::bytes;

include!(concat!(env!("OUT_DIR"), "/cell_words.rs"));
include!("start_of_word.rs");

/// What a label says of what follows its colon.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Label {
    Address,
    Telephone,
}

/// Longer words and phrases are on no list.
const LONGEST: usize = 48;

/// Whether a cell says that there is no address: signs alone, an error of a spreadsheet, or a word or phrase such as `n/a`.
///
/// ```
/// use ypogram_core::cell::says_nothing;
/// assert!(says_nothing(b" N/A ") && says_nothing(b"--") && says_nothing(b"Keine Angabe"));
/// assert!(!says_nothing(b"Anna"));
/// ```
pub fn says_nothing(cell: &[u8]) -> bool {
    let cell = bytes::trim(cell);
    if cell.len() > LONGEST || cell.contains(&b'@') {
        return false;
    }
    let text = String::from_utf8_lossy(cell).to_lowercase().replace('’', "'");
    let is_known = |text: &str| NOTHING_THERE.contains(text.as_bytes());
    let bare = text.trim_matches(|c: char| {
        matches!(c, '(' | ')' | '[' | ']' | '<' | '>' | '"' | '\'' | '.' | '!' | '?' | '*' | ' ')
    });
    !text.chars().any(char::is_alphanumeric)
        || is_spreadsheet_error(&text)
        || is_known(&text)
        || is_known(bare)
}

fn is_spreadsheet_error(text: &str) -> bool {
    matches!(
        text,
        "#n/a" | "#na" | "#ref!" | "#value!" | "#name?" | "#null!" | "#div/0!" | "#nv" | "#wert!" | "#bezug!"
    )
}

/// What follows a colon behind `text`, where that is a known label, perhaps with a number behind it.
pub(crate) fn label(text: &[u8]) -> Option<Label> {
    if text.is_empty() || text.len() > LONGEST {
        return None;
    }
    let text = String::from_utf8_lossy(text).to_lowercase();
    let words: Vec<&str> = text.split_whitespace().collect();
    let text = words.join(" ");
    let bare = text.trim_end_matches(|c: char| c.is_ascii_digit() || matches!(c, ' ' | '.' | '#'));
    let of_telephone = [&*text, bare].into_iter().find_map(|text| IS_OF_TELEPHONE.get(text.as_bytes()))?;
    Some(if *of_telephone { Label::Telephone } else { Label::Address })
}

/// Whether a word directly before one of several addresses says that it is the newer one, or the older; none where it says
/// neither.
pub(crate) fn is_newer(word: &str) -> Option<bool> {
    IS_NEWER.get(word.as_bytes()).copied()
}

/// What may follow `first` in a phrase that says that nobody must be written to; the whole phrase where it is empty.
pub(crate) fn do_not_contact_behind(first: &[u8]) -> &'static [&'static str] {
    DO_NOT_CONTACT.get(first).copied().unwrap_or_default()
}

/// What a word may be of those phrases, by its first eight bytes in small letters: one by itself, or the first of several.
#[inline]
pub(crate) fn may_warn(first_eight: u64) -> (bool, bool) {
    let start = start_of_word(first_eight);
    (has(&ALONE, start), has(&FIRST, start))
}

/// Whether one of those phrases may start with two words of these first bytes.
#[inline]
pub(crate) fn may_warn_together(first_eight: u64, of_next: u64) -> bool {
    has(&PAIRS, start_of_pair(first_eight, of_next))
}

#[inline]
fn has(table: &[u64; 1024], place: usize) -> bool {
    table[place / 64 % 1024] >> (place % 64) & 1 == 1
}

/// The same phrases of languages that put no spaces between words.
pub(crate) fn do_not_contact_unspaced() -> &'static [&'static str] {
    &DO_NOT_CONTACT_UNSPACED
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_for_nothing_and_labels() {
        for cell in [
            "n/a",
            "N.A.",
            "-",
            "?",
            "--",
            "None",
            "(none)",
            "NULL",
            "#N/A",
            "x",
            "k. A.",
            "なし",
            "Sin correo",
            "…",
            "\\N",
        ] {
            assert!(says_nothing(cell.as_bytes()), "{cell}");
        }
        for cell in ["Anna", "ada@host.org", "see list", "0"] {
            assert!(!says_nothing(cell.as_bytes()), "{cell}");
        }
        assert_eq!(label("E-Mail".as_bytes()), Some(Label::Address));
        assert_eq!(label("email 2".as_bytes()), Some(Label::Address));
        assert_eq!(label("Tel.".as_bytes()), Some(Label::Telephone));
        assert_eq!(label("Anna".as_bytes()), None);
    }
}
