//! Rows of records whose address is plain, as most are (fast path).
//!
//! What becomes of such a record follows from its address alone, and is the same for all that are alike: it is worked out once
//! for each kind, and only the values of the row are gathered. A record with anything more to it is left to the other path,
//! which gives the same row.

use ypogram_core::Plain;
use ypogram_io::{Record, Values};

use crate::judge::added_cells::{AddedColumns, TemplateKey, follows_from_plain_address};
use crate::judge::annotate::{Annotator, Part, Row, Wanted};
use crate::judge::decided::Decided;
use crate::judge::kinds::Kind;
use crate::judge::tally::Tally;
use crate::plan::columns::Column;
use crate::plan::outcome::Outcome;

impl Annotator<'_> {
    /// Whether a row may follow from the address alone.
    pub(super) fn may_follow_from_address(added: &AddedColumns, wanted: &Wanted) -> bool {
        let Wanted { patterns, show, split, comparing, .. } = wanted;
        let more_is_asked =
            !patterns.is_empty() || show.is_some() || split.names || split.derives() || comparing.is_some();
        !more_is_asked && added.values().iter().all(|column| follows_from_plain_address(*column))
    }

    /// Adds the row of a record whose address is plain, as most are, and counts it; tells whether it could.
    #[inline]
    pub(super) fn add_plain_row(&mut self, record: Record<'_>, part: &mut Part, tally: &mut Tally) -> bool {
        let (plan, policy) = (self.picker.plan(), self.picker.judge.policy());
        let Some(plain) = self.picker.plain_address(record, policy.same) else { return false };
        if self.wanted.memory.as_ref().is_some_and(|memory| memory.knows(plain.address())) {
            return false;
        }
        let mut fits_house = false;
        if let Some(house) = &self.wanted.house
            && let Some(format) = self.house.format_for(plain.domain(), house)
        {
            let address = (plain.local_part(), plain.domain());
            fits_house = house.certainly_fits(format, address, record, plan);
            // What is at fault takes longer to tell.
            if !fits_house {
                return false;
            }
        }
        // Copied, since what a closure refers to is kept in memory, and would be read again before it is there.
        let summary_key = plain.summary_key;
        let (selection, mendable) = (&self.wanted.selection, self.mendable);
        let make = || Kind::of(summary_key, plan.address[0], policy, selection, mendable);
        let Some((kind, is_first)) = self.kinds.count(summary_key, record.source(), make) else {
            return false;
        };
        if is_first {
            kind.template = part.keys.len() as u32;
            part.keys.push(TemplateKey::of(&kind.selected, record.source()));
        }
        let outcome = kind.outcome;
        let usable = outcome != Outcome::Rejected;
        let values = part.values.add_row();
        set_values(&mut part.values, values, &self.added, &plain, usable);
        if fits_house {
            let fits = part.values.append(b"fits");
            let place = self.added.values().iter().position(|column| *column == Column::House);
            place.into_iter().for_each(|value| part.values.set(values, value, fits.clone()));
            tally.house[0] += 1;
            part.own_house.push((self.hasher.hash_short(plain.address()), record.index() as u32));
        }
        let (mut key, mut person) = (0, 0);
        if usable {
            key = self.wanted.hash(plain.key(), record, plan, self.hasher);
            person = self.wanted.person(record, plan, self.hasher);
        }
        part.rows.push(Row {
            key,
            person,
            record: record.index() as u32,
            values: values as u32,
            template: kind.template,
            class: kind.class,
            outcome,
            output: 0,
            added: false,
            decided: Decided::default(),
            suggested: None,
            reason: kind.reason,
            values_are_simple: true,
            record_is_simple: kind.is_bare,
        });
        if is_first {
            let selected = *kind.selected;
            self.note_examples(&selected, record, tally);
        }
        if !usable {
            self.without.push(record.index());
        }
        true
    }

    /// Adds the row of a record of which the only cell that can hold an address is empty; tells whether it is one.
    #[inline]
    pub(super) fn add_empty_row(&mut self, record: Record<'_>, part: &mut Part) -> bool {
        if !self.picker.is_empty(record) {
            return false;
        }
        let template = self.template_without_address(record.source(), part);
        part.rows.push(Row {
            record: record.index() as u32,
            values: part.values.add_row() as u32,
            template,
            outcome: Outcome::NoAddress,
            values_are_simple: true,
            ..Row::default()
        });
        self.without.push(record.index());
        true
    }
}

/// Sets the values of a row with a plain address.
#[inline]
fn set_values(values: &mut Values, row: usize, added: &AddedColumns, plain: &Plain<'_>, usable: bool) {
    let address = values.append_first(plain.address_and_room(), plain.bytes());
    let at = address.start + plain.at();
    for (value, column) in added.values().iter().enumerate() {
        let place = match column {
            Column::Address => address.clone(),
            Column::LocalPart => address.start..at,
            Column::Domain => at + 1..address.end,
            Column::Key if !usable => continue,
            Column::Key => match plain.key_apart() {
                Some((from, len)) => values.append_first(from, len),
                None => address.clone(),
            },
            _ => continue,
        };
        values.set(row, value, place);
    }
}
