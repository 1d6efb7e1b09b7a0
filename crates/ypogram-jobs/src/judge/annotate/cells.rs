//! Rows written cell by cell.

use ypogram_core::{CellKind, Verdict};
use ypogram_tables::{Encode, Record};

use crate::judge::annotate::{Annotator, Part, Row, Written};
use crate::judge::picking::{Candidates, Picked};
use crate::judge::plain_row::{words, write_word, write_word_without_address};
use crate::judge::tally::reason_for_review;
use crate::lists::AppendedColumn;
use crate::plan::columns::Column;
use crate::plan::outcome::Outcome;

/// The words beside the address that are no name.
pub(super) fn remark<'c>(picked: &Picked, candidates: &'c Candidates<'_>) -> &'c [u8] {
    // A plain address has none.
    let found = candidates.get(picked.candidate).filter(|_| !picked.plain);
    found.and_then(|candidate| candidate.found.remark.as_deref()).unwrap_or_default()
}

impl Annotator<'_> {
    /// Writes a row for the record with the address that the judge holds.
    pub(super) fn encode<'c>(
        &mut self,
        record: Record<'c>,
        source: usize,
        written: Written,
        candidates: &Candidates<'c>,
        part: &mut Part,
    ) {
        let Written { picked, pattern, set_aside, outcome, added } = written;
        let suffix = match self.wanted.split.suffixes {
            true => self.picker.judge.parts().and_then(|parts| parts.suffix()),
            false => None,
        };
        self.key.clear();
        if matches!(outcome, Outcome::Kept | Outcome::Review) {
            self.picker.judge.key(self.picker.judge.policy().same, &mut self.key);
        }
        let person = match self.key.is_empty() {
            true => 0,
            false => self.wanted.person(record, source, self.picker.plan(), self.hasher),
        };
        if self.keys_only {
            let key = self.wanted.hash(&self.key, self.hasher);
            return part.rows.push(Row { outcome, added, key, person, ..Row::default() });
        }
        // The cells are filled while it writes.
        let mut encoders = std::mem::take(&mut self.encoders);
        let encoder = &mut encoders[source];
        let start = part.bytes.len() as u32;
        let own = part.write_own(record, encoder, self.wanted);
        let out = &mut part.bytes;
        let (mut verdict, mut findings) = (0, (0, 0));
        for place in 0..self.columns.len() {
            let column = self.columns[place];
            self.cell.clear();
            match (&picked, column) {
                (_, Column::Kind) => self.fill_kind(record, source),
                (_, Column::FromList(column)) => {
                    self.fill_from_list(usize::from(column), record, source, picked.is_some())
                }
                (_, Column::Cut(column)) => {
                    let plan = self.picker.plan();
                    let cell = |field| plan.cell(record, source, field);
                    let taken = self.wanted.split.take(usize::from(column), cell);
                    self.cell.extend_from_slice(taken.unwrap_or_default());
                }
                (Some(picked), Column::Part(part)) if picked.verdict.is_usable() => {
                    let judge = &self.picker.judge;
                    if let Some(parts) = judge.parts() {
                        parts.write_known(part, &self.name, suffix, &mut self.cell);
                    }
                }
                (_, Column::Lists) => self.fill_lists(record, source, picked.is_some()),
                (_, Column::SetAside) => {
                    let reason = set_aside.map(|place| self.wanted.selection.reason(place));
                    self.cell.extend_from_slice(reason.unwrap_or_default().as_bytes());
                }
                (_, Column::Source) => self.cell.extend_from_slice(self.source_names[source].as_bytes()),
                (Some(_), Column::Pattern) => self.fill_pattern(pattern),
                (Some(picked), Column::Suggestion) => self.fill_suggestion(picked, candidates),
                (Some(picked), Column::Remark) => self.cell.extend_from_slice(remark(picked, candidates)),
                (Some(picked), column) => self.fill(column, picked),
                (None, column) => write_word_without_address(column, &mut self.cell),
            }
            encoder.cell(&self.cell, out);
            // These cells are of our own words and never quoted.
            let start = (out.len() - self.cell.len()) as u32;
            match column {
                Column::Verdict => verdict = start,
                Column::Findings => findings = (start, out.len() as u32),
                _ => {}
            }
        }
        let split = out.len() as u32;
        encoder.end(record, out);
        self.encoders = encoders;
        let class = picked.and_then(|picked| picked.judged.class);
        let reason = picked.map_or(0, |picked| reason_for_review(&picked, self.picker.judge.policy()));
        let key = self.wanted.hash(&self.key, self.hasher);
        let (line, end) = (record.line_in_chunk() as u32, out.len() as u32);
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
    }

    /// What the cell holds that is told by kind.
    fn fill_kind(&mut self, record: Record<'_>, source: usize) {
        let plan = self.picker.plan();
        let field = self.wanted.label.expect("a field is named");
        let cell = plan.cell(record, source, field).unwrap_or_default();
        let of_address_field = plan.address.contains(&field);
        self.picker.judge.aside(|judge| self.addresses.look(cell, of_address_field, judge));
        let kind = CellKind::of(cell, self.addresses.spans.len());
        self.cell.extend_from_slice(kind.word().as_bytes());
    }

    /// The entry of the list at `list` that speaks of the record or its address.
    fn entry_in(&self, list: usize, record: Record<'_>, source: usize, with_address: bool) -> Option<usize> {
        let (plan, judge) = (self.picker.plan(), &self.picker.judge);
        match plan.lists.iter().find(|placed| placed.list == list) {
            Some(placed) => placed.entry(&judge.policy().lists, plan.cell(record, source, placed.field)?),
            None if with_address => judge.entry_in(list),
            None => None,
        }
    }

    fn fill_from_list(&mut self, column: usize, record: Record<'_>, source: usize, with_address: bool) {
        let AppendedColumn { list, column, .. } = self.wanted.from_lists[column];
        if let Some(entry) = self.entry_in(list, record, source, with_address) {
            let cell = self.picker.judge.policy().lists.get(list).cell(entry, column);
            self.cell.extend_from_slice(cell);
        }
    }

    /// The names of the lists that speak of the record or its address.
    fn fill_lists(&mut self, record: Record<'_>, source: usize, with_address: bool) {
        let policy = self.picker.judge.policy();
        for (place, list) in policy.lists.iter().enumerate() {
            if self.entry_in(place, record, source, with_address).is_some() {
                words(std::iter::once(&*list.purpose.name), &mut self.cell);
            }
        }
    }

    fn fill_pattern(&mut self, fitting: Option<usize>) {
        let word = match (&self.wanted.patterns[..], fitting) {
            ([_], Some(_)) => "true",
            ([_], None) => "false",
            (patterns, Some(first)) => &patterns[first].pattern.name,
            (_, None) => "",
        };
        self.cell.extend_from_slice(word.as_bytes());
    }

    /// What was probably meant, where the address is not accepted.
    pub(super) fn fill_suggestion(&mut self, picked: &Picked, candidates: &Candidates<'_>) {
        if picked.verdict == Verdict::Accept {
            return;
        }
        let plain = self.picker.text(picked, candidates).to_vec();
        let out = &mut self.cell;
        self.picker.judge.aside(|judge| match picked.plain {
            true => judge.suggest_into(&plain, picked.codes, out),
            false => judge.suggest_found_into(&candidates[picked.candidate].found, picked.codes, out),
        });
    }

    /// Puts what `column` says of the address picked last into the cell.
    fn fill(&mut self, column: Column, picked: &Picked) {
        let (cell, judge) = (&mut self.cell, &self.picker.judge);
        match column {
            Column::Address => cell.extend_from_slice(judge.address()),
            Column::LocalPart => cell.extend_from_slice(judge.local_part()),
            Column::Domain => cell.extend_from_slice(judge.domain()),
            Column::Key => cell.extend_from_slice(&self.key),
            Column::More => cell.extend_from_slice(&self.picker.more),
            column => write_word(column, picked, &self.picker.plan().fields, cell),
        }
    }
}
