//! What is at fault, in sentences.

use crate::characters::shown::shown;
use crate::house_format::part::{Count, NameOf, Piece};
use crate::house_format::person::{HousePerson, first_letters};

/// What is wrong with `there`, which stands for `piece`.
pub(super) fn of_piece(piece: &Piece, there: &str, person: &HousePerson) -> String {
    match piece {
        Piece::Literal(text) if there.is_empty() => format!("{} is missing.", capital(&called(text))),
        Piece::Literal(text) => {
            format!("{} is asked for where {} stands.", capital(&called(text)), called(there))
        }
        Piece::Field(place) => match (person.field(*place), there) {
            (Some(value), "") => format!("‘{}’ is missing.", quoted(value)),
            (Some(value), there) => {
                format!("‘{}’ is asked for where ‘{}’ stands.", quoted(value), quoted(there))
            }
            (None, "") => "What the record’s field says is missing.".to_owned(),
            (None, there) => format!("‘{}’ cannot be what the record’s field says.", quoted(there)),
        },
        Piece::Digits(_) if there.is_empty() => "A number is missing.".to_owned(),
        Piece::Digits(_) if !there.bytes().all(|b| b.is_ascii_digit()) => {
            format!("A number is asked for where ‘{}’ stands.", quoted(there))
        }
        Piece::Digits(count) => wrong_count(*count, "digit", "", there.len()),
        Piece::Name(of, count) => of_name(*of, *count, there, person.name(*of)),
    }
}

fn of_name(of: NameOf, count: Option<Count>, there: &str, name: Option<&str>) -> String {
    let called = of.called();
    let letters = there.chars().filter(|c| *c != '-').count();
    match (name, count, there) {
        (Some(name), None, "") => format!("The {called} ‘{}’ is missing.", quoted(name)),
        (_, _, "") => format!("The {called} is missing."),
        (Some(name), None, there) if name.starts_with(there) => {
            format!(
                "The whole {called} ‘{}’ is asked for, and only ‘{}’ stands there.",
                quoted(name),
                quoted(there)
            )
        }
        (Some(name), Some(count), there)
            if !count.takes(letters) && first_letters(name, letters) == there.replace('-', "") =>
        {
            wrong_count(count, "letter", &format!(" of the {called}"), letters)
        }
        (None, Some(count), _) if !count.takes(letters) => {
            wrong_count(count, "letter", &format!(" of the {called}"), letters)
        }
        (Some(name), _, there) => {
            format!("The {called} is ‘{}’, and ‘{}’ stands there.", quoted(name), quoted(there))
        }
        (None, _, there) => format!("‘{}’ cannot be the {called}.", quoted(there)),
    }
}

/// Something for which the format has no place.
pub(super) fn surplus(there: &str) -> String {
    format!("{} is too much.", capital(&called(there)))
}

/// Too many or too few letters or digits.
fn wrong_count(count: Count, unit: &str, of: &str, there: usize) -> String {
    let units = |number: usize| if number == 1 { unit.to_owned() } else { format!("{unit}s") };
    let asked = match count.most {
        Some(most) if most == count.least => format!("{} {}{of}", number(most), units(most)),
        Some(most) => format!("{} to {} {}{of}", number(count.least), number(most), units(most)),
        None => format!("{} {}{of} or more", number(count.least), units(count.least)),
    };
    let one = count.least == 1 && count.most == Some(1);
    let are = if one { "is" } else { "are" };
    let stand = if there == 1 { "stands" } else { "stand" };
    format!("{} {are} asked for, and {} {stand} there.", capital(&asked), number(there))
}

/// Small numbers in words.
pub(super) fn number(number: usize) -> String {
    const WORDS: [&str; 11] =
        ["none", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"];
    WORDS.get(number).map_or_else(|| number.to_string(), |word| (*word).to_owned())
}

/// A text as people call it: a dot, a hyphen, or itself in quotation marks.
pub(super) fn called(text: &str) -> String {
    match text {
        "." => "a dot".to_owned(),
        "_" => "an underscore".to_owned(),
        "-" => "a hyphen".to_owned(),
        "+" => "a plus sign".to_owned(),
        text => format!("‘{}’", quoted(text)),
    }
}

pub(super) fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}

fn quoted(text: &str) -> String {
    shown(text.as_bytes()).to_string()
}
