//! Rows that are put together from words made beforehand.

use ypogram_tables::{Encode, Record};

use crate::judge::annotate::{Annotator, Part, Row, Wanted, cells};
use crate::judge::kinds::Kind;
use crate::judge::picking::{Candidates, Picked};
use crate::judge::plain_row::{Letters, OwnCells, Places, write_row};
use crate::judge::tally::{Tally, reason_for_review};
use crate::plan::outcome::Outcome;

impl Annotator<'_> {
    /// Whether a row may follow from the address alone.
    pub(super) fn may_write_at_once(&self) -> bool {
        let Wanted { patterns, show, split, .. } = self.wanted;
        let more_is_asked = !patterns.is_empty() || show.is_some() || split.names || split.cuts() > 0;
        self.plain_rows.is_some() && !more_is_asked && !self.plain && !self.keys_only
    }

    /// Whether a row can be put off until all others of its chunk are written: what is rare is done quicker in one go, and does not
    /// keep the others from what they need.
    pub(super) fn may_put_off(&self) -> bool {
        self.may_write_at_once() && self.wanted.duplicates && !self.wanted.row_per_address
    }

    /// Writes the row of a record whose address is plain, as most are, and counts it; tells whether it could.
    #[inline]
    pub(super) fn write_at_once(
        &mut self,
        record: Record<'_>,
        source: usize,
        part: &mut Part,
        tally: &mut Tally,
    ) -> bool {
        let (plan, policy) = (self.picker.plan(), self.picker.judge.policy());
        let (Some(rows), Some(plain)) =
            (&mut self.plain_rows, self.picker.plain_address(record, source, policy.same))
        else {
            return false;
        };
        let encoder = &mut self.encoders[source];
        // Copied, since what a closure refers to is kept in memory, and would be read again before it is there.
        let alike = plain.alike;
        let selection = &self.wanted.selection;
        let make = || Kind::of(alike, plan.address[0], source, policy, selection, rows, encoder);
        let Some((kind, words, is_first)) = self.kinds.count(alike, source, make) else { return false };
        let outcome = kind.outcome;
        let usable = outcome != Outcome::Rejected;
        let key = if usable { plain.key_apart() } else { Some((&b""[..], 0)) };
        let (len, at) = (plain.octets(), plain.at());
        let line = if kind.own.line { record.cell_and_behind(0).unwrap_or_default() } else { (&b""[..], 0) };
        let address = plain.address_and_room();
        let letters = Letters { address, len, at, key, line, ..Letters::default() };
        let start = part.bytes.len() as u32;
        let own = match kind.own.whole {
            true => (0, 0),
            false => part.write_own(record, encoder, self.wanted),
        };
        let out = &mut part.bytes;
        let Places { verdict, findings } = write_row(words, &letters, out);
        let mut split = out.len() as u32;
        if kind.own.whole {
            split -= encoder.line_end().len() as u32;
        } else if own.1 > 0 {
            // What stands in place has nothing beyond its fields.
            encoder.end_row(out);
        } else {
            encoder.end(record, out);
        }
        let end = out.len() as u32;
        let (wanted, hasher) = (self.wanted, self.hasher);
        part.end_row(wanted, || {
            let (mut key, mut person) = (0, 0);
            if usable {
                key = wanted.hash(plain.key(), hasher);
                person = wanted.person(record, source, plan, hasher);
            }
            let (line, class) = (record.line_in_chunk() as u32, kind.picked.judged.class);
            let (added, reason) = (false, kind.reason);
            Row {
                line,
                own,
                start,
                split,
                end,
                outcome,
                added,
                reason,
                class,
                key,
                person,
                verdict,
                findings,
            }
        });
        if is_first {
            let picked = *kind.picked;
            self.note_examples(&picked, record, source, tally);
        }
        if !usable {
            self.without.push(record.index());
        }
        true
    }

    /// Writes the row of a record of which the only cell that can hold an address is empty; tells whether it is one.
    #[inline]
    pub(super) fn write_empty(&mut self, record: Record<'_>, source: usize, part: &mut Part) -> bool {
        let Some(rows) = self.plain_rows.as_ref().filter(|_| self.picker.is_empty(record, source)) else {
            return false;
        };
        let encoder = &mut self.encoders[source];
        let start = part.bytes.len() as u32;
        let own = part.write_own(record, encoder, self.wanted);
        let out = &mut part.bytes;
        let places = write_row(rows.without_address(source), &Letters::default(), out);
        let split = out.len() as u32;
        encoder.end(record, out);
        let (line, end) = (record.line_in_chunk() as u32, out.len() as u32);
        let Places { verdict, findings } = places;
        let outcome = Outcome::NoAddress;
        let row = Row { line, own, start, split, end, outcome, verdict, findings, ..Row::default() };
        part.end_row(self.wanted, || row);
        self.without.push(record.index());
        true
    }

    /// Writes a row of which all but the letters of its address were put together before; tells whether it could.
    #[inline]
    pub(super) fn encode_at_once(
        &mut self,
        record: Record<'_>,
        source: usize,
        picked: Option<&Picked>,
        outcome: Outcome,
        candidates: &Candidates<'_>,
        part: &mut Part,
    ) -> bool {
        let judge = &self.picker.judge;
        let at_once = judge.is_plain() || judge.address().is_empty() || picked.is_none();
        let Some(rows) = self.plain_rows.as_ref().filter(|_| at_once && !self.keys_only) else {
            return false;
        };
        let several_rows = self.wanted.row_per_address && self.picker.more_count > 0;
        if outcome == Outcome::SetAside || several_rows {
            return false;
        }
        self.cell.clear();
        let mut suggestion = std::mem::take(&mut self.suggestion);
        suggestion.clear();
        if let Some(picked) = picked.filter(|picked| rows.suggests(picked)) {
            self.fill_suggestion(picked, candidates);
            self.encoders[source].bare_cell(&self.cell, &mut suggestion);
        }
        let mut more = std::mem::take(&mut self.more);
        more.clear();
        if !self.picker.more.is_empty() {
            self.encoders[source].bare_cell(&self.picker.more, &mut more);
        }
        let mut remark = std::mem::take(&mut self.remark);
        remark.clear();
        if let Some(text) =
            picked.map(|picked| cells::remark(picked, candidates)).filter(|text| !text.is_empty())
        {
            self.encoders[source].bare_cell(text, &mut remark);
        }
        let encoder = &mut self.encoders[source];
        let start = part.bytes.len() as u32;
        let own_at = part.write_own(record, encoder, self.wanted);
        let out = &mut part.bytes;
        let (judge, rows) = (&self.picker.judge, self.plain_rows.as_mut().expect("it was there"));
        let mut letters =
            Letters { suggestion: &suggestion, more: &more, remark: &remark, ..Letters::default() };
        let (mut class, mut key) = (None, &[][..]);
        let words = match picked {
            Some(picked) => {
                if outcome != Outcome::Rejected {
                    key = judge.key_in(judge.policy().same, &mut self.key);
                }
                class = picked.judged.class;
                let address = judge.address();
                let (len, at) = (address.len(), judge.local_part().len());
                letters = Letters { address, len, at, key: Some((key, key.len())), ..letters };
                let own = OwnCells {
                    letters: !address.is_empty(),
                    suggestion: !suggestion.is_empty(),
                    more: !more.is_empty(),
                    remark: !remark.is_empty(),
                    ..OwnCells::default()
                };
                rows.words(picked, source, own)
            }
            None => rows.without_address(source),
        };
        let Places { verdict, findings } = write_row(words, &letters, out);
        let split = out.len() as u32;
        encoder.end(record, out);
        let person = match key.is_empty() {
            true => 0,
            false => self.wanted.person(record, source, self.picker.plan(), self.hasher),
        };
        let (line, end) = (record.line_in_chunk() as u32, out.len() as u32);
        let key = self.wanted.hash(key, self.hasher);
        (self.suggestion, self.more, self.remark) = (suggestion, more, remark);
        let (own, added) = (own_at, false);
        let reason = picked.map_or(0, |picked| reason_for_review(picked, self.picker.judge.policy()));
        let row = Row {
            line,
            own,
            start,
            split,
            end,
            outcome,
            added,
            reason,
            class,
            key,
            person,
            verdict,
            findings,
        };
        part.end_row(self.wanted, || row);
        true
    }
}
