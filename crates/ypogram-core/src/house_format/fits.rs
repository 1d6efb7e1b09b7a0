//! Whether a local part is built in one of the ways of a format.

use crate::house_format::part::{Count, NameOf, Piece};
use crate::house_format::person::{HousePerson, first_letters};

/// How a local part fits.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Fit {
    Whole,
    /// With a short form of the given name.
    ShortName,
}

/// Whether `text`, in lower case, is made of these pieces, with the names of `person` where it has them.
pub(super) fn fits(pieces: &[Piece], text: &str, person: &HousePerson) -> Option<Fit> {
    let Some((piece, rest)) = pieces.split_first() else { return text.is_empty().then_some(Fit::Whole) };
    match piece {
        Piece::Literal(literal) => fits(rest, text.strip_prefix(literal.as_str())?, person),
        Piece::Digits(count) => by_length(rest, text, person, *count, |c| c.is_ascii_digit()),
        Piece::Field(place) => match person.field(*place) {
            Some(value) => fits(rest, text.strip_prefix(value)?, person),
            None => by_length(rest, text, person, Count::ANY, |c| c.is_alphanumeric() || c == '-'),
        },
        Piece::Name(of, count) => match person.name(*of) {
            Some(name) => known_name(rest, text, person, (*of, *count, name)),
            None => by_length(rest, text, person, count.unwrap_or(Count::ANY), is_of_name),
        },
    }
}

/// Characters of names in local parts.
pub(super) fn is_of_name(c: char) -> bool {
    c.is_alphabetic() || c == '-' || c == '\''
}

/// The longest run of such characters for which the rest fits, of so many.
fn by_length(
    rest: &[Piece],
    text: &str,
    person: &HousePerson,
    count: Count,
    is_of: impl Fn(char) -> bool,
) -> Option<Fit> {
    let run = text.chars().take_while(|c| is_of(*c)).count();
    let most = count.most.unwrap_or(run).min(run);
    let ends = text.char_indices().map(|(at, _)| at).chain([text.len()]).collect::<Vec<_>>();
    (count.least..=most).rev().find_map(|length| fits(rest, &text[ends[length]..], person))
}

fn known_name(
    rest: &[Piece],
    text: &str,
    person: &HousePerson,
    (of, count, name): (NameOf, Option<Count>, &str),
) -> Option<Fit> {
    let Some(count) = count else {
        if let Some(fit) = text.strip_prefix(name).and_then(|behind| fits(rest, behind, person)) {
            return Some(fit);
        }
        if of == NameOf::Family {
            return None;
        }
        let run = text.find(|c| !is_of_name(c)).unwrap_or(text.len());
        let ends = (1..=run).rev().filter(|end| text.is_char_boundary(*end));
        let short = ends.filter(|end| person.is_short_form(&text[..*end]));
        return short.filter_map(|end| fits(rest, &text[end..], person)).next().map(|_| Fit::ShortName);
    };
    let letters = name.chars().filter(|c| *c != '-').count();
    let most = count.most.unwrap_or(letters).min(letters);
    // A name may have fewer letters than are asked for.
    let least = count.least.min(letters);
    if count.most.is_none()
        && let Some(fit) = text.strip_prefix(name).and_then(|behind| fits(rest, behind, person))
    {
        return Some(fit);
    }
    (least..=most).rev().find_map(|length| {
        let first = first_letters(name, length);
        fits(rest, text.strip_prefix(first.as_str())?, person)
    })
}
