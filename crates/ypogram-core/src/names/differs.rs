//! Whether the name that an address shows is another than that of the record.

use unicode_normalization::UnicodeNormalization as _;
use unicode_normalization::char::is_combining_mark;

use super::{DerivedName, NameConfidence};

/// Whether `derived` is of another person than the one whom the record names in `cells`: neither its last name nor its first
/// name is found there, accents, letter case and particles aside. Only what shows a first and a last name is held against
/// the record; a record without a name differs from nobody.
///
/// ```
/// use ypogram_core::names::{NameOrder, derive, differs};
/// let derived = derive("zoe.mueller", NameOrder::FirstNameFirst);
/// assert!(!differs(&derived, &[b"Zo\xC3\xAB M\xC3\xBCller"]));
/// assert!(differs(&derived, &[b"Lars", b"Nightingale"]));
/// ```
pub fn differs(derived: &DerivedName, cells: &[&[u8]]) -> bool {
    if derived.confidence != NameConfidence::TwoWords {
        return false;
    }
    let there: Vec<String> = cells
        .iter()
        .flat_map(|cell| {
            let text = String::from_utf8_lossy(cell).into_owned();
            words(&text).collect::<Vec<_>>()
        })
        .collect();
    if there.is_empty() {
        return false;
    }
    let is_there = |name: &str| words(name).any(|word| there.iter().any(|known| summary_key(known, &word)));
    !is_there(&derived.first) && !is_there(&derived.last)
}

fn words(text: &str) -> impl Iterator<Item = String> + '_ {
    let words = text.split(|c: char| !(c.is_alphanumeric() || is_combining_mark(c)));
    words.map(plain).filter(|word| word.chars().count() > 1 && !super::is_particle(word))
}

/// In lower case, without accents, and with umlauts as their base letter.
fn plain(word: &str) -> String {
    let bare = word.to_lowercase().replace('ß', "ss").replace('ø', "o").replace('æ', "ae").replace('ł', "l");
    bare.nfd().filter(|c| !is_combining_mark(*c)).collect()
}

/// Equal, or equal once `ae`, `oe` and `ue` stand for umlauts in one of them.
fn summary_key(one: &str, other: &str) -> bool {
    let folded = |word: &str| word.replace("ae", "a").replace("oe", "o").replace("ue", "u");
    one == other || folded(one) == folded(other)
}
