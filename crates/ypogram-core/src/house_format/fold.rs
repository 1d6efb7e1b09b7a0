//! Names as they stand in local parts.

use serde::{Deserialize, Serialize};
use unicode_normalization::UnicodeNormalization as _;
use unicode_normalization::char::is_combining_mark;

/// How letters beyond a to z are written in local parts.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Fold {
    /// Without their accents: `muller`, `soren`, `lukasz`.
    #[default]
    Plain,
    /// As German does: `mueller`, `soeren`, `weiss`.
    German,
}

/// `name` as it stands in local parts: in lower case, letters written by `fold`, without spaces, apostrophes and dots; hyphens stay. None where
/// nothing of it is left, and where it has letters of another script than the Latin one, which nobody can hold against an address.
///
/// ```
/// use ypogram_core::house_format::{Fold, folded};
/// assert_eq!(folded("O’Neil van der Müll", Fold::Plain).as_deref(), Some("oneilvandermull"));
/// assert_eq!(folded("Müller-Weiß", Fold::German).as_deref(), Some("mueller-weiss"));
/// assert_eq!(folded("Зоя", Fold::Plain), None);
/// ```
pub fn folded(name: &str, fold: Fold) -> Option<String> {
    let mut out = String::with_capacity(name.len() + 2);
    if name.is_ascii() {
        out.extend(
            name.bytes()
                .filter(|b| b.is_ascii_alphanumeric() || *b == b'-')
                .map(|b| b.to_ascii_lowercase() as char),
        );
    } else {
        for c in name.nfc().flat_map(char::to_lowercase) {
            if !push(c, fold, &mut out) {
                return None;
            }
        }
    }
    let bare = out.trim_matches('-');
    (!bare.is_empty()).then(|| bare.to_owned())
}

/// Writes a letter; false where it is of another script.
fn push(c: char, fold: Fold, out: &mut String) -> bool {
    let german = fold == Fold::German;
    let written = match c {
        'ä' if german => "ae",
        'ö' | 'ø' | 'œ' if german => "oe",
        'ü' if german => "ue",
        'ß' => "ss",
        'æ' => "ae",
        'œ' => "oe",
        'ø' => "o",
        'ł' => "l",
        'đ' | 'ð' => "d",
        'þ' => "th",
        'ı' => "i",
        'ħ' => "h",
        'ŧ' => "t",
        'ŋ' => "ng",
        '\u{2010}' | '\u{2011}' | '\u{2012}' | '\u{2013}' => "-",
        _ => "",
    };
    if !written.is_empty() {
        out.push_str(written);
        return true;
    }
    // Letters of ASCII come through here too: they have no accents.
    for bare in c.nfd().filter(|c| !is_combining_mark(*c)) {
        if bare.is_ascii_alphanumeric() || bare == '-' {
            out.push(bare.to_ascii_lowercase());
        } else if bare.is_alphabetic() && !"ʻʼʹʾʿ".contains(bare) {
            return false;
        }
    }
    true
}
