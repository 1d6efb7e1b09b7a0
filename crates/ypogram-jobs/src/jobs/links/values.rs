//! The values of a field as they are compared.

use ypogram_core::cell::says_nothing;
use ypogram_core::names;

use crate::judge::contact_values::{is_same_number, street, telephones};
use crate::plan::contact_trait::ContactTrait;

/// A value as it is compared, and as it stands.
pub(super) type Compared = (String, String);

/// The values of a cell of a field that holds `what`; none where the cell says nothing.
pub(super) fn values_of(cell: &[u8], what: Option<ContactTrait>) -> Vec<Compared> {
    if says_nothing(cell) {
        return Vec::new();
    }
    let shown = String::from_utf8_lossy(cell.trim_ascii()).into_owned();
    let compared = match what {
        Some(ContactTrait::Telephone) => {
            let mut numbers = telephones(&shown);
            numbers.sort_unstable();
            numbers.dedup();
            if numbers.len() != 1 {
                return numbers.into_iter().map(|digits| (digits.clone(), digits)).collect();
            }
            numbers.remove(0)
        }
        Some(ContactTrait::Street) => street(&shown).join(" "),
        Some(ContactTrait::Name) => names::words(&shown).join(" "),
        None => shown.to_lowercase().split_whitespace().collect::<Vec<_>>().join(" "),
    };
    if compared.is_empty() { Vec::new() } else { vec![(compared, shown)] }
}

/// For each telephone number the number that stands for it: a number without that of a country is the one with it, where there is only
/// one such.
pub(super) fn one_of_same_numbers(numbers: &[&str]) -> Vec<u32> {
    let mut by_end: Vec<(u128, u32)> =
        (0..).zip(numbers).filter_map(|(nth, digits)| Some((from_its_end(digits)?, nth))).collect();
    by_end.sort_unstable();
    let mut stands_for: Vec<u32> = (0..).take(numbers.len()).collect();
    for (place, (reversed, nth)) in by_end.iter().enumerate() {
        let unused = 128 - 4 * numbers[*nth as usize].len();
        let ends_alike = |other: u128| other >> unused == reversed >> unused;
        let behind = by_end[place + 1..].iter().take_while(|(other, _)| ends_alike(*other));
        let mut same =
            behind.filter(|(_, other)| is_same_number(numbers[*nth as usize], numbers[*other as usize]));
        if let (Some((_, with_country)), None) = (same.next(), same.next()) {
            stands_for[*nth as usize] = *with_country;
        }
    }
    // A number stands for one that is longer, and that perhaps for another; none for a shorter one.
    (0..).take(numbers.len()).map(|nth: u32| last_of(&stands_for, nth)).collect()
}

/// The digits from the last to the first, four bits each, so that numbers with the same end stand together in order; none where there are
/// more than a telephone number has.
fn from_its_end(digits: &str) -> Option<u128> {
    let is_number = (1..=32).contains(&digits.len());
    let digits = digits.bytes().rev().map(|digit| u128::from(digit - b'0') + 1);
    is_number.then(|| digits.zip((0..32).rev()).fold(0, |all, (digit, place)| all | digit << (4 * place)))
}

fn last_of(stands_for: &[u32], mut number: u32) -> u32 {
    while stands_for[number as usize] != number {
        number = stands_for[number as usize];
    }
    number
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_that_are_written_differently() {
        for (what, one, other) in [
            (Some(ContactTrait::Telephone), "01632 960413", "(01632) 960-413"),
            (Some(ContactTrait::Telephone), "030/1234567", "030 123 45 67"),
            (Some(ContactTrait::Street), "3, Mill Road", "mill rd 3"),
            (Some(ContactTrait::Name), "Zoë  O'Neil", "zoe o’neil"),
            (None, " FH-7  b", "fh-7 B"),
        ] {
            let key = |text: &str| values_of(text.as_bytes(), what).remove(0).0;
            assert_eq!(key(one), key(other), "{what:?}");
        }
        assert_eq!(values_of(b"n/a", None), []);
        assert_eq!(values_of(b"ext. 12", Some(ContactTrait::Telephone)), []);
        assert_eq!(values_of(b"01632 960413/01632 960414", Some(ContactTrait::Telephone)).len(), 2);
        assert_eq!(values_of(b"01632 960413 or 01632 960414", Some(ContactTrait::Telephone)).len(), 2);
    }

    #[test]
    fn numbers_with_and_without_that_of_a_country() {
        let numbers = ["1632960413", "441632960413", "1632960414", "441632960414", "491632960414", "7960413"];
        assert_eq!(one_of_same_numbers(&numbers), [1, 1, 2, 3, 4, 5]);
    }
}
