//! Where an address that fits no way of a format departs from the one that it is most like: the cheapest alignment of its local part with the
//! pieces.

use std::ops::Range;

use smallvec::{SmallVec, smallvec};

use crate::house_format::fits::is_of_name;
use crate::house_format::part::{Count, HousePart, NameOf, Piece, is_separator};
use crate::house_format::person::{HousePerson, first_letters};
use crate::house_format::sentence;
use crate::house_format::verdict::HouseFault;

/// A local part beside the pieces that it should be made of.
pub(super) struct Alignment {
    pub(super) cost: u32,
    pub(super) faults: Vec<HouseFault>,
    /// For each piece what stands for it, in bytes of the local part.
    pub(super) spans: Vec<Range<usize>>,
}

/// What it costs where a piece is missing, and where something stands for which there is no piece.
const MISSING: u32 = 14;
const NO_SEPARATOR: u32 = 10;
const SURPLUS: u32 = 10;
const SURPLUS_CHARACTER: u32 = 2;
/// Another text than the one that is asked for.
const OTHER: u32 = 20;
const WRONG_SEPARATOR: u32 = 8;
/// Too many or too few letters or digits.
const WRONG_COUNT: u32 = 7;
const SLIP: u32 = 6;
const ONE_SLIP: u32 = SLIP + 2;
/// A digit among the letters of a name that is not known.
const DIGIT_INSIDE: u32 = 12;
/// Characters that the piece can never have.
const IMPOSSIBLE: u32 = 40;
/// A short form is no fault, and worse than the name.
const SHORT_FORM: u32 = 1;

/// How a state was reached.
#[derive(Clone, Copy)]
enum Step {
    Start,
    /// The piece before took the characters from here.
    Piece(usize),
    /// Nothing took the characters from here.
    Surplus(usize),
}

/// Aligns `text`, in lower case, with `pieces`; none where that costs more than `most`.
pub(super) fn align(pieces: &[Piece], text: &str, person: &HousePerson, most: u32) -> Option<Alignment> {
    let ends: Vec<usize> = text.char_indices().map(|(at, _)| at).chain([text.len()]).collect();
    let length = ends.len() - 1;
    let borders = borders(text);
    let state = |piece: usize, at: usize| piece * (length + 1) + at;
    let mut best: Vec<(u32, Step)> = vec![(u32::MAX, Step::Start); (pieces.len() + 1) * (length + 1)];
    best[0].0 = 0;
    for piece in 0..=pieces.len() {
        for at in 0..=length {
            let (cost, step) = best[state(piece, at)];
            if cost > most || cost == u32::MAX {
                continue;
            }
            let mut reach = |place: usize, more: u32, step: Step| {
                if cost + more <= most && cost + more < best[place].0 {
                    best[place] = (cost + more, step);
                }
            };
            if !matches!(step, Step::Surplus(_)) {
                for &end in borders.iter().filter(|end| **end > at) {
                    let more = SURPLUS + SURPLUS_CHARACTER * (end - at) as u32;
                    reach(state(piece, end), more, Step::Surplus(at));
                }
            }
            if let Some(wanted) = pieces.get(piece) {
                for end in ends_of(wanted, at, length, &borders, person) {
                    let more = cost_of(wanted, &text[ends[at]..ends[end]], person, most - cost);
                    reach(state(piece + 1, end), more, Step::Piece(at));
                }
            }
        }
    }
    let cost = best[state(pieces.len(), length)].0;
    if cost == u32::MAX {
        return None;
    }
    let (mut piece, mut at) = (pieces.len(), length);
    let mut faults = Vec::new();
    let mut spans = vec![0..0; pieces.len()];
    while (piece, at) != (0, 0) {
        match best[state(piece, at)].1 {
            Step::Start => break,
            Step::Surplus(start) => {
                let span = ends[start]..ends[at];
                let message = sentence::surplus(&text[span.clone()]);
                faults.push(HouseFault { part: HousePart::Surplus, span, message });
                at = start;
            }
            Step::Piece(start) => {
                piece -= 1;
                spans[piece] = ends[start]..ends[at];
                at = start;
            }
        }
    }
    for (nth, piece) in pieces.iter().enumerate() {
        let there = &text[spans[nth].clone()];
        // A separator goes with the name that is missing beside it.
        let goes_with = |beside: Option<usize>| {
            beside.is_some_and(|beside| {
                matches!(pieces.get(beside), Some(Piece::Name(..))) && spans[beside].is_empty()
            })
        };
        let is_left_out = there.is_empty()
            && piece.part() == HousePart::Separator
            && (goes_with(nth.checked_sub(1)) || goes_with(Some(nth + 1)));
        if !is_left_out && cost_of(piece, there, person, u32::MAX) > SHORT_FORM {
            let message = sentence::of_piece(piece, there, person);
            faults.push(HouseFault { part: piece.part(), span: spans[nth].clone(), message });
        }
    }
    faults.sort_by_key(|fault| fault.span.start);
    Some(Alignment { cost, faults, spans })
}

/// Where letters, digits and signs meet, in characters; the end is one.
fn borders(text: &str) -> Vec<usize> {
    let kind = |c: char| match c {
        c if c.is_alphabetic() || c == '\'' => 0,
        c if c.is_ascii_digit() => 1,
        _ => 2,
    };
    let mut borders = Vec::new();
    let mut before = None;
    for (at, c) in text.chars().enumerate() {
        if before.is_some_and(|before| before != kind(c) || kind(c) == 2) {
            borders.push(at);
        }
        before = Some(kind(c));
    }
    borders.push(text.chars().count());
    borders
}

type Ends = SmallVec<[usize; 32]>;

/// Where what stands for `piece` may end that begins at `at`.
fn ends_of(piece: &Piece, at: usize, length: usize, borders: &[usize], person: &HousePerson) -> Ends {
    let expected: SmallVec<[usize; 4]> = match piece {
        Piece::Literal(text) => smallvec![text.chars().count()],
        Piece::Field(place) => person.field(*place).map(|value| value.chars().count()).into_iter().collect(),
        Piece::Digits(count) => count.most.into_iter().chain([count.least]).collect(),
        Piece::Name(of, count) => {
            let name = person.name(*of).map(|name| name.chars().count());
            let first = count.iter().flat_map(|count| count.most.into_iter().chain([count.least]));
            // Of a name that is not known each letter may be the last.
            let unknown = (name.is_none() && count.is_none()).then_some(1);
            name.into_iter().chain(first).chain(unknown).collect()
        }
    };
    // One more or less of a sign between parts is found at the borders.
    let slips = if piece.part() == HousePart::Separator { 0 } else { 2 };
    let near = expected.iter().flat_map(|expected| expected.saturating_sub(slips)..=expected + slips);
    let near = near.map(|more| at + more);
    let mut ends: Ends = near.chain(borders.iter().copied()).chain([at]).collect();
    ends.retain(|end| (at..=length).contains(end));
    ends.sort_unstable();
    ends.dedup();
    ends
}

/// What it costs that `there` stands for `piece`; what costs more than `most` may be said to cost any such.
fn cost_of(piece: &Piece, there: &str, person: &HousePerson, most: u32) -> u32 {
    match piece {
        Piece::Literal(text) if text == there => 0,
        Piece::Literal(text) if is_separator(text) => match there {
            "" => NO_SEPARATOR,
            there if is_separator(there) => WRONG_SEPARATOR + there.len() as u32 - 1,
            _ => IMPOSSIBLE,
        },
        Piece::Literal(text) => cost_of_text(text, there, most),
        Piece::Field(place) => match person.field(*place) {
            Some(value) if value == there => 0,
            Some(value) => cost_of_text(value, there, most),
            None if there.is_empty() => MISSING,
            None if there.chars().all(|c| c.is_alphanumeric() || c == '-') => 0,
            None => IMPOSSIBLE,
        },
        Piece::Digits(count) => match there {
            "" => NO_SEPARATOR,
            there if !there.bytes().all(|b| b.is_ascii_digit()) => IMPOSSIBLE,
            there if count.takes(there.len()) => 0,
            _ => WRONG_COUNT,
        },
        Piece::Name(of, count) => cost_of_name((*of, *count), there, person, most),
    }
}

/// What it costs that `there` stands for the text `wanted`.
fn cost_of_text(wanted: &str, there: &str, most: u32) -> u32 {
    if most < ONE_SLIP && wanted != there {
        return IMPOSSIBLE;
    }
    let lengths_apart = wanted.len().abs_diff(there.len()) as u32;
    let other = OTHER + lengths_apart.min(9);
    if wanted == there {
        return 0;
    }
    if there.is_empty() {
        return MISSING;
    }
    if is_separator(there) {
        return IMPOSSIBLE;
    }
    if lengths_apart > 4 || wanted.chars().count() < 3 {
        return other;
    }
    match strsim::osa_distance(wanted, there) as u32 {
        apart @ (1 | 2) => SLIP + 2 * apart,
        _ => other,
    }
}

fn cost_of_name((of, count): (NameOf, Option<Count>), there: &str, person: &HousePerson, most: u32) -> u32 {
    if let (Some(name), None) = (person.name(of), count) {
        // What most pieces of an address are.
        if name == there {
            return 0;
        }
        if most < WRONG_COUNT {
            let is_short = of == NameOf::Given && !there.is_empty() && person.is_short_form(there);
            return if is_short && there.chars().all(is_of_name) { SHORT_FORM } else { IMPOSSIBLE };
        }
    }
    if there.is_empty() {
        return MISSING;
    }
    if person
        .name(of)
        .is_some_and(|name| name.contains('-') && there != name && there.replace(['.', '_'], "-") == name)
    {
        return ONE_SLIP;
    }
    let is_letter = |c: Option<char>| c.is_some_and(char::is_alphabetic);
    let has_digit_inside = is_letter(there.chars().next())
        && is_letter(there.chars().last())
        && there.chars().all(|c| is_of_name(c) || c.is_ascii_digit())
        && there.contains(|c: char| c.is_ascii_digit());
    if has_digit_inside && person.name(of).is_none() {
        return DIGIT_INSIDE;
    }
    if !there.chars().all(is_of_name) || there.chars().all(|c| c == '-') {
        return IMPOSSIBLE;
    }
    let letters = there.chars().filter(|c| *c != '-').count();
    let Some(name) = person.name(of) else {
        return if count.is_none_or(|count| count.takes(letters)) { 0 } else { WRONG_COUNT };
    };
    let letters_of = |text: &'_ str| text.bytes().filter(|b| *b != b'-').collect::<SmallVec<[u8; 64]>>();
    let is_beginning = letters_of(name).starts_with(&letters_of(there));
    match count {
        None if name == there => 0,
        None if of == NameOf::Given && person.is_short_form(there) => SHORT_FORM,
        None if is_beginning => WRONG_COUNT,
        None => cost_of_text(name, there, most),
        Some(count) => {
            let whole = name.chars().filter(|c| *c != '-').count();
            let is_enough = count.takes(letters) || letters == whole && letters < count.least;
            match (is_beginning, is_enough) {
                (true, true) => 0,
                (true, false) => WRONG_COUNT,
                (false, _) => {
                    let wanted = first_letters(name, count.most.unwrap_or(whole));
                    cost_of_text(&wanted, there, most).max(ONE_SLIP)
                }
            }
        }
    }
}

/// Whether what stands for some piece is a short form of the given name.
pub(super) fn has_short_form(
    alignment: &Alignment,
    pieces: &[Piece],
    text: &str,
    person: &HousePerson,
) -> bool {
    pieces
        .iter()
        .zip(&alignment.spans)
        .any(|(piece, span)| cost_of(piece, &text[span.clone()], person, SHORT_FORM) == SHORT_FORM)
}
