//! Rows that are put together from words made beforehand.

use ypogram_tables::{Encode, Record};

use crate::annotate::{Annotator, Part, Row, Wanted};
use crate::kinds::Kind;
use crate::outcome::Outcome;
use crate::picking::Picked;
use crate::plain_row::{Letters, Places, write_row};
use crate::tally::Tally;

impl Annotator<'_> {
    /// Whether a row may follow from the address alone.
    pub(super) fn may_write_at_once(&self) -> bool {
        let Wanted { patterns, show, split, .. } = self.wanted;
        let more_is_asked = !patterns.is_empty() || show.is_some() || split.names || split.cuts() > 0;
        self.plain_rows.is_some() && !more_is_asked && !self.plain && !self.keys_only
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
        let kind = || Kind::of(plain.alike, plan.address[0], source, policy, &self.wanted.selection, rows);
        let Some(place) = self.kinds.place(plain.alike, source, kind) else { return false };
        let kind = self.kinds.at(source, place);
        let Some(words) = &kind.words else { return false };
        let (outcome, class) = (kind.outcome, kind.picked.judged.class);
        let usable = outcome != Outcome::Rejected;
        let letters = Letters {
            address: plain.address,
            local_part: plain.local_part(),
            domain: plain.domain(),
            key: if usable { plain.key } else { b"" },
        };
        let out = &mut part.bytes;
        let encoder = &mut self.encoders[source];
        encoder.own_plain(record, out);
        let Places { verdict, findings } = write_row(words, letters, out);
        let split = out.len() as u32;
        encoder.end(record, out);
        let person = if usable { self.wanted.person(record, source, plan, self.hasher) } else { 0 };
        let key = self.wanted.hash(letters.key, self.hasher);
        let (line, end) = (record.line_in_chunk() as u32, out.len() as u32);
        part.end_row(Row { line, split, end, outcome, class, key, person, verdict, findings }, self.wanted);
        if self.kinds.count(source, place) {
            let picked = self.kinds.at(source, place).picked;
            self.note_examples(&picked, record, source, tally);
        }
        if !usable {
            self.count_what_is_left(record, source, tally);
        }
        true
    }

    /// Writes a row to be kept or reviewed where its words were put together before; tells whether it could.
    #[inline]
    pub(super) fn encode_at_once(
        &mut self,
        record: Record<'_>,
        source: usize,
        picked: &Picked,
        outcome: Outcome,
        part: &mut Part,
    ) -> bool {
        let judge = &self.picker.judge;
        let at_once = judge.is_plain() && self.picker.more.is_empty() && !self.keys_only;
        let Some(rows) = self.plain_rows.as_mut().filter(|rows| at_once && rows.takes(picked)) else {
            return false;
        };
        let out = &mut part.bytes;
        let encoder = &mut self.encoders[source];
        encoder.own(record, out);
        let key = judge.key_in(judge.policy().same, &mut self.key);
        let (address, local_part, domain) = (judge.address(), judge.local_part(), judge.domain());
        let letters = Letters { address, local_part, domain, key };
        let Places { verdict, findings } = write_row(rows.words(picked, source), letters, out);
        let split = out.len() as u32;
        encoder.end(record, out);
        let person = self.wanted.person(record, source, self.picker.plan(), self.hasher);
        let (line, end) = (record.line_in_chunk() as u32, out.len() as u32);
        let (class, key) = (picked.judged.class, self.wanted.hash(key, self.hasher));
        part.end_row(Row { line, split, end, outcome, class, key, person, verdict, findings }, self.wanted);
        true
    }
}
