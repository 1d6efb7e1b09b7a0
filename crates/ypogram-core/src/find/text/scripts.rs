//! Scripts that are written without spaces, or with words that touch what stands beside them.

use icu_properties::CodePointMapData;
use icu_properties::props::Script;

use crate::characters::bytes;

/// Whether a letter is of a script whose letters nobody takes for Latin ones, so that a change to ASCII is the border of a word.
/// Greek and Cyrillic letters beside Latin ones are more often a forgery than another word.
pub(crate) fn is_apart_from_ascii(c: char) -> bool {
    // The marks that lengthen a vowel in Kana are of no script of their own.
    matches!(c, '\u{30FC}' | '\u{FF70}' | '\u{FF9E}' | '\u{FF9F}')
        || !matches!(
            script_of(c),
            Script::Latin
                | Script::Greek
                | Script::Cyrillic
                | Script::Armenian
                | Script::Cherokee
                | Script::Common
                | Script::Inherited
        )
}

/// Where ASCII starts behind the last letter of such a script in `local`, a local part; none where it has no such letter in front
/// of ASCII, or a dot or an underscore joins the two.
pub(super) fn last_change_to_ascii(local: &[u8]) -> Option<usize> {
    let behind = local.iter().rposition(|b| !b.is_ascii())? + 1;
    let joined = matches!(local.get(behind)?, b'.' | b'_');
    let letter = local[..behind].utf8_chunks().last()?.valid().chars().rev();
    let letter = letter.into_iter().find(|c| !unicode_normalization::char::is_combining_mark(*c))?;
    (!joined && is_apart_from_ascii(letter)).then_some(behind)
}

/// Where the first letter outside ASCII and Latin stands in `label`, directly behind ASCII.
pub(super) fn first_change_from_ascii(label: &[u8]) -> Option<usize> {
    let at = label.iter().position(|b| !b.is_ascii())?;
    let (c, _) = bytes::first_char(&label[at..])?;
    let is_of_latin = c.is_alphabetic() && script_of(c) == Script::Latin;
    (at > 0 && label[at - 1].is_ascii_alphanumeric() && !is_of_latin).then_some(at)
}

fn script_of(c: char) -> Script {
    CodePointMapData::<Script>::new().get(c)
}
