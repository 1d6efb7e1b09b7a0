//! Telephone numbers and streets in the form in which they are compared.

use std::borrow::Cow;

use ypogram_core::names;

/// Digits of a telephone number that are compared, at least: fewer are an extension.
pub(crate) const TELEPHONE: usize = 7;

/// Digits that one number may have in front of the other: those of a country.
const COUNTRY: usize = 3;

/// The numbers of a cell: their digits, without zeros in front and the zero in parentheses.
pub(crate) fn telephones(cell: &str) -> Vec<String> {
    let written_out = ["(0)", " or "].iter().any(|part| cell.contains(part));
    let numbers = match written_out {
        true => Cow::Owned(cell.replace("(0)", "").replace(" or ", ",")),
        false => Cow::Borrowed(cell),
    };
    // A slash stands between two numbers, or behind the number of an area.
    let digits = |text: &str| text.bytes().filter(u8::is_ascii_digit).count();
    let numbers = numbers.split([',', ';', '\n']).flat_map(|number| match number.split_once('/') {
        Some((area, _)) if digits(area) < TELEPHONE => vec![number],
        _ => number.split('/').collect(),
    });
    let digits = numbers.map(|number| {
        let number = number.split_once("ext").map_or(number, |(number, _)| number);
        number.chars().filter(char::is_ascii_digit).collect::<String>()
    });
    let digits = digits.map(|digits| digits.trim_start_matches('0').to_owned());
    digits.filter(|digits| digits.len() >= TELEPHONE).collect()
}

pub(crate) fn is_same_number(one: &str, other: &str) -> bool {
    let (shorter, longer) = if one.len() <= other.len() { (one, other) } else { (other, one) };
    longer.ends_with(shorter) && longer.len() - shorter.len() <= COUNTRY
}

/// The words of a street and its number, in their order, the usual abbreviations written alike.
pub(crate) fn street(cell: &str) -> Vec<String> {
    let alike = |word: String| -> String {
        let found = ABBREVIATED.iter().find(|(long, _)| *long == word);
        if let Some((_, short)) = found {
            return (*short).to_owned();
        }
        for ending in ["strasse", "straße", "straat"] {
            if let Some(name) = word.strip_suffix(ending).filter(|name| !name.is_empty()) {
                return format!("{name}str");
            }
        }
        word
    };
    let mut words: Vec<String> = names::words(cell).into_iter().map(alike).collect();
    // The number stands in front in some countries and behind in others.
    words.sort_by_key(|word| !word.starts_with(|c: char| c.is_ascii_digit()));
    words
}

const ABBREVIATED: &[(&str, &str)] = &[
    ("street", "st"),
    ("road", "rd"),
    ("avenue", "ave"),
    ("av", "ave"),
    ("lane", "ln"),
    ("drive", "dr"),
    ("close", "cl"),
    ("court", "ct"),
    ("square", "sq"),
    ("place", "pl"),
    ("terrace", "ter"),
    ("crescent", "cres"),
    ("gardens", "gdns"),
    ("straße", "str"),
    ("strasse", "str"),
    ("boulevard", "bd"),
    ("blvd", "bd"),
];
