//! A row with its number, put together where it is written from.

use crate::engine::numbers::{Counter, Decimal};

/// Octets in which the own fields of most rows fit, and what is added to them.
const OWN: usize = 192;
const ADDED: usize = 128;

/// Octets of two numbers and what stands around them, and as much as a step may be too long.
const MORE: usize = 64 + OWN + ADDED;

/// What a row is made of, one behind the other. Stretches are the first so many octets of what is given.
pub(super) struct Numbered<'a> {
    /// The own fields, as the source has them; none where the rest starts with them.
    pub(super) own: (&'a [u8], usize),
    /// The added cells, as far as they do not depend on other records.
    pub(super) added: (&'a [u8], usize),
    pub(super) delimiter: u8,
    /// The number of the record.
    pub(super) record: &'a Counter,
    /// That of the record it is the same as.
    pub(super) same_as: Option<u64>,
    /// What stands behind the last cell.
    pub(super) end: &'a [u8],
}

impl Numbered<'_> {
    /// Octets of room that it asks for, which are more than it has.
    #[inline]
    pub(super) fn room(&self) -> usize {
        self.own.1 + self.added.1 + self.end.len() + MORE
    }

    /// Puts it in front of `room`, which is as large as it asks for; tells how many octets it has.
    #[inline]
    pub(super) fn put(&self, room: &mut [u8]) -> usize {
        // These digits first: what was just written in small steps is not read again at once.
        let mut same_as = Decimal::new();
        let same_as = self.same_as.map(|number| same_as.of(number));
        let mut left = Left { room, used: 0 };
        left.put_short::<OWN>(self.own);
        left.put_short::<ADDED>(self.added);
        left.put(&[self.delimiter]);
        left.put_number(self.record);
        left.put(&[self.delimiter]);
        if let Some(number) = same_as {
            left.put(number);
        }
        left.put(self.end);
        left.used
    }
}

/// Room that is filled from the front.
struct Left<'r> {
    room: &'r mut [u8],
    used: usize,
}

impl Left<'_> {
    #[inline]
    fn put(&mut self, octets: &[u8]) {
        match (octets, &mut self.room[self.used..]) {
            ([octet], [place, ..]) => *place = *octet,
            (octets, room) => room[..octets.len()].copy_from_slice(octets),
        }
        self.used += octets.len();
    }

    /// Puts a number; there is room for as many digits as one can have.
    #[inline]
    fn put_number(&mut self, number: &Counter) {
        let (digits, octets) = number.digits();
        *self.room[self.used..].first_chunk_mut().expect("there is room") = *digits;
        self.used += octets;
    }

    /// Puts the first so many octets of what is given, in one step where there are as many as that has.
    #[inline]
    fn put_short<const STEP: usize>(&mut self, (from, octets): (&[u8], usize)) {
        let room = &mut self.room[self.used..];
        match (from.first_chunk::<STEP>(), room.first_chunk_mut::<STEP>()) {
            (Some(step), Some(place)) if octets <= STEP => *place = *step,
            _ => room[..octets].copy_from_slice(&from[..octets]),
        }
        self.used += octets;
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// Whatever the lengths, and however near the end of a buffer the stretches stand.
        #[test]
        fn a_row_is_what_it_is_made_of(
            (own, added) in ("[a-z]{0,250}", "[,a-z]{0,200}"),
            (record, same_as) in (0..2000_u64, prop::option::of(1..u64::MAX)),
            (behind, end) in (0..250_usize, prop::sample::select(vec!["\n", "\r\n", ",more,cells\n"])),
        ) {
            let with_more = |text: &str| [text.as_bytes(), &vec![b'#'; behind][..]].concat();
            let (own_and_more, added_and_more) = (with_more(&own), with_more(&added));
            let mut number = Counter::from_one();
            (0..record).for_each(|_| number.advance());
            let row = Numbered {
                own: (&own_and_more, own.len()),
                added: (&added_and_more, added.len()),
                delimiter: b';',
                record: &number,
                same_as,
                end: end.as_bytes(),
            };
            let mut room = vec![b'?'; row.room()];
            let octets = row.put(&mut room);
            let same_as = same_as.map_or_else(String::new, |number| number.to_string());
            prop_assert_eq!(String::from_utf8_lossy(&room[..octets]), format!("{own}{added};{};{same_as}{end}", record + 1));
        }
    }
}
