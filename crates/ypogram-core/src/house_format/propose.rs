//! The address as the house would build it.

use std::ops::Range;

use crate::house_format::part::{Count, Piece, Sequence};
use crate::house_format::person::{HousePerson, first_letters};

/// The address that `sequence` gives for `person`; `there` gives what stands for each piece in the address at hand, from which digits are
/// taken. None where a name, field or number is not known.
pub(super) fn propose(
    sequence: &Sequence,
    person: &HousePerson,
    there: Option<(&str, &[Range<usize>])>,
) -> Option<String> {
    let mut out = String::new();
    for (nth, piece) in sequence.local.iter().enumerate() {
        match piece {
            Piece::Literal(text) => out.push_str(text),
            Piece::Field(place) => out.push_str(person.field(*place)?),
            Piece::Name(of, count) => {
                let name = person.name(*of)?;
                match count {
                    None | Some(Count { most: None, .. }) => out.push_str(name),
                    Some(Count { most: Some(most), .. }) => out.push_str(&first_letters(name, *most)),
                }
            }
            Piece::Digits(count) => {
                let (text, spans) = there?;
                let digits = &text[spans[nth].clone()];
                let fit = count.takes(digits.len()) && digits.bytes().all(|b| b.is_ascii_digit());
                out.push_str(Some(digits).filter(|_| fit)?);
            }
        }
    }
    Some(format!("{out}@{}", sequence.domain))
}
