//! What worker threads do with a chunk: judge its records and encode them with the columns asked for, all but what depends
//! on the order of the records.

mod at_once;
mod cells;
mod counting;
mod part;
mod wanted;

use ypogram_core::names::{self, DerivedName};
use ypogram_core::{Code, CodeSet, Found, Hasher, Judge, Parts, Policy, mendable};
use ypogram_tables::csv::CsvEncoder;
use ypogram_tables::{Batch, Decode, Encode, Error, Record, Result};

use crate::engine::faults::caught;
use crate::engine::reading::{Reading, Task};
use crate::judge::cell_addresses::CellAddresses;
use crate::judge::conditions::{Candidate, Conditions, Sieve};
use crate::judge::kinds::Kinds;
use crate::judge::picking::{Candidates, Picked, Picker};
use crate::judge::plain_row::PlainRows;
use crate::judge::tally::Tally;
use crate::plan::columns::{Column, ColumnSet};
use crate::plan::fields::FieldPlan;
use crate::plan::house_pattern::HousePattern;
use crate::plan::layout::OutputLayout;
use crate::plan::outcome::Outcome;
pub(crate) use part::{Part, Row};
pub(crate) use wanted::Wanted;

/// Judges and encodes chunk after chunk. One for each thread.
pub(crate) struct Annotator<'p> {
    picker: Picker<'p>,
    hasher: Hasher,
    decoders: Vec<Box<dyn Decode>>,
    encoders: Vec<CsvEncoder>,
    source_names: Vec<String>,
    columns: Vec<Column>,
    plain_rows: Option<PlainRows>,
    kinds: Kinds,
    /// Findings of which there is an example.
    shown: CodeSet,
    /// How many cells a record of each source should have.
    widths: Vec<usize>,
    wanted: &'p Wanted,
    sieve: Option<Sieve<'p>>,
    addresses: CellAddresses,
    /// Give only the keys and persons of the records.
    pub(crate) keys_only: bool,
    /// Write just the cell that was looked at and whether it is well formed.
    plain: bool,
    batch: Batch,
    /// Records of the batch in hand without a usable address.
    without: Vec<usize>,
    key: Vec<u8>,
    cell: Vec<u8>,
    /// What was probably meant, as it stands in a cell.
    suggestion: Vec<u8>,
    /// Further usable addresses, as they stand in a cell.
    more: Vec<u8>,
    /// The words beside the address, as they stand in a cell.
    remark: Vec<u8>,
    /// The name that the address shows, where names are asked for.
    name: DerivedName,
    /// Where in its source the chunk in hand starts.
    chunk_at: u64,
    /// Why a value cannot be held against a pattern.
    refused: Option<Error>,
}

/// A row to be written.
#[derive(Clone, Copy)]
struct Written {
    picked: Option<Picked>,
    pattern: Option<usize>,
    set_aside: Option<usize>,
    outcome: Outcome,
    /// It is for a further address of the record.
    added: bool,
}

/// As many ragged records as are told by line.
const RAGGED_TOLD: usize = 5;

impl<'p> Annotator<'p> {
    /// # Errors
    /// Where a condition is about a field that does not exist.
    pub(crate) fn new(
        reading: &Reading,
        plan: &'p FieldPlan,
        policy: &'p Policy,
        hasher: Hasher,
        layout: &OutputLayout,
        columns: &ColumnSet,
        wanted: &'p Wanted,
    ) -> Result<Self> {
        let sieve = |show: &'p Conditions| show.sieve(plan, Judge::new(policy, hasher));
        let columns: Vec<Column> = columns.iter().filter(|column| !column.depends_on_order()).collect();
        let source_names = reading.names();
        let mut picker = Picker::new(plan, policy, hasher);
        picker.asks_well_formed |= columns.contains(&Column::WellFormed);
        Ok(Annotator {
            picker,
            hasher,
            decoders: reading.decoders(),
            encoders: layout.encoders.clone(),
            plain_rows: PlainRows::of(
                &columns,
                &layout.encoders[0],
                &plan.fields,
                &source_names,
                mendable(policy),
            )
            .filter(|_| !plan.fields.is_empty()),
            kinds: Kinds::new(source_names.len()),
            shown: CodeSet::default(),
            source_names,
            widths: plan.places.iter().map(|places| places.iter().flatten().count()).collect(),
            columns,
            wanted,
            sieve: wanted.show.as_ref().map(sieve).transpose()?,
            addresses: CellAddresses::default(),
            plain: false,
            keys_only: false,
            batch: Batch::default(),
            without: Vec::new(),
            key: Vec::new(),
            cell: Vec::new(),
            suggestion: Vec::new(),
            more: Vec::new(),
            remark: Vec::new(),
            name: DerivedName::default(),
            chunk_at: 0,
            refused: None,
        })
    }

    /// Writes just the cell that was looked at and whether it is well formed, where that is asked for.
    pub(crate) fn answer_plainly_if(&mut self, asked: bool) {
        self.plain = asked;
        self.picker.asks_well_formed |= asked;
    }

    pub(crate) fn work(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        self.picker.faulty.clear();
        loop {
            if let Some(done) = caught(|| self.work_once(task, part)) {
                return done;
            }
            self.picker.forget_what_is_ahead();
            self.picker.faulty.note()?;
            (self.kinds, self.shown) = (Kinds::new(self.source_names.len()), CodeSet::default());
            self.without.clear();
        }
    }

    fn work_once(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        part.bytes.clear();
        part.written = 0;
        part.rows.clear();
        part.ragged.clear();
        part.further.clear();
        let mut tally = part.tally.take().unwrap_or_else(|| self.wanted.tally(self.picker.plan()));
        self.chunk_at = task.chunk.offset;
        let mut batch = std::mem::take(&mut self.batch);
        batch.clear();
        self.decoders[task.source].decode(&task.chunk, &mut batch)?;
        part.not_utf8_at =
            simdutf8::compat::from_utf8(&task.chunk.bytes).err().map(|error| error.valid_up_to());
        self.gather_ids(&batch, task, part);
        let (mut cells, mut candidates) = (Vec::new(), Vec::new());
        let (at_once, may_put_off) = (self.may_write_at_once(), self.may_put_off());
        let mut put_off = Vec::new();
        let may_be_ragged =
            !batch.is_of_lines() || self.widths[task.source] != 1 || part.not_utf8_at.is_some();
        for index in 0..batch.len() {
            // Made anew each time: to copy one that was written a moment ago, a processor would have to wait.
            let record = || batch.record(&task.chunk, index);
            if may_be_ragged {
                self.note_shape(record(), task.source, part, &mut tally);
            }
            let is_written = at_once
                && (self.write_at_once(record(), task.source, part, &mut tally)
                    || self.write_empty(record(), task.source, part));
            if is_written {
                continue;
            }
            if may_put_off {
                put_off.push((index, part.hold_place()));
            } else {
                self.one(record(), task.source, &mut cells, &mut candidates, part, &mut tally);
            }
        }
        for (index, place) in put_off {
            let record = batch.record(&task.chunk, index);
            self.one(record, task.source, &mut cells, &mut candidates, part, &mut tally);
            part.take_place(place);
        }
        for index in std::mem::take(&mut self.without) {
            if self.picker.faulty.takes(index) {
                continue;
            }
            self.count_what_is_left(batch.record(&task.chunk, index), task.source, &mut tally);
        }
        self.kinds.settle(self.picker.judge.policy(), &mut tally);
        part.further.sort_unstable();
        part.records = batch.len() as u64;
        (part.lines, part.blank_lines, part.formulas) = (batch.lines, batch.blank_lines, batch.formulas);
        part.tally = Some(tally);
        self.batch = batch;
        self.refused.take().map_or(Ok(()), Err)
    }

    #[inline]
    fn note_shape(&self, record: Record<'_>, source: usize, part: &mut Part, tally: &mut Tally) {
        let expected = self.widths[source];
        if record.len() != expected || part.not_utf8_at.is_some() {
            note_odd_shape(record, expected, part, tally);
        }
    }
    #[inline(never)]
    fn one<'c>(
        &mut self,
        record: Record<'c>,
        source: usize,
        cells: &mut Vec<Found<'c>>,
        candidates: &mut Candidates<'c>,
        part: &mut Part,
        tally: &mut Tally,
    ) {
        let picked = self.picker.pick(record, source, cells, candidates);
        let written = self.settle(picked, record, source, candidates, tally);
        self.write(record, source, written, candidates, part, tally);
        if matches!(written.outcome, Outcome::NoAddress | Outcome::Rejected) {
            self.without.push(record.index());
        }
    }

    /// What is said of the address that the judge holds, and where its record ends; counted.
    fn settle<'c>(
        &mut self,
        mut picked: Option<Picked>,
        record: Record<'c>,
        source: usize,
        candidates: &Candidates<'c>,
        tally: &mut Tally,
    ) -> Written {
        if let Some(picked) = &mut picked {
            self.hold_against_names(record, source, picked, tally);
        }
        let pattern =
            picked.as_mut().and_then(|picked| self.hold_against_patterns(picked, record, source, candidates));
        let usable = picked.as_ref().filter(|picked| picked.verdict.is_usable());
        let set_aside = usable.and_then(|picked| self.wanted.selection.sets_aside(picked));
        let outcome =
            picked.map_or(Outcome::NoAddress, |picked| Outcome::of(picked.verdict, set_aside.is_some()));
        if let Some(reason) = set_aside {
            tally.set_aside[reason] += 1;
        }
        if let Some(picked) = &picked {
            self.count(picked, outcome, record, source, tally);
        }
        Written { picked, pattern, set_aside, outcome, added: false }
    }

    /// Writes the row of a record, or its rows, where they are asked for.
    #[inline]
    fn write<'c>(
        &mut self,
        record: Record<'c>,
        source: usize,
        written: Written,
        candidates: &mut Candidates<'c>,
        part: &mut Part,
        tally: &mut Tally,
    ) {
        let Written { picked, outcome, .. } = written;
        if let Some(sieve) = &mut self.sieve {
            let (picked, judge) = (picked.as_ref(), &self.picker.judge);
            if !sieve.lets_through(Candidate { record, source, picked, judge }) {
                return;
            }
        }
        if self.plain {
            return self.answer_plainly(record, source, picked.as_ref(), part);
        }
        if self.wanted.split.cuts() > 0 {
            self.count_cuts(record, source, tally);
        }
        if self.encode_at_once(record, source, picked.as_ref(), outcome, candidates, part) {
            return self.gather_further(record, source, picked, candidates, part);
        }
        self.encode(record, source, written, candidates, part);
        if self.wanted.row_per_address {
            self.write_further(record, source, picked, candidates, part, tally);
        } else {
            self.gather_further(record, source, picked, candidates, part);
        }
    }

    /// Writes a row for each further address of the record whose first is `picked`, which the judge holds.
    fn write_further<'c>(
        &mut self,
        record: Record<'c>,
        source: usize,
        picked: Option<Picked>,
        candidates: &mut Candidates<'c>,
        part: &mut Part,
        tally: &mut Tally,
    ) {
        let Some(picked) = picked.filter(|_| self.picker.more_count > 0) else { return };
        for candidate in self.picker.further(&picked, candidates) {
            let further = self.picker.judged_of_record(candidate, &candidates[candidate], record, source);
            tally.rows_added += 1;
            let written = match self.wanted.duplicates {
                true => self.settle(Some(further), record, source, candidates, tally),
                false => {
                    let mut picked = further;
                    self.hold_against_names(record, source, &mut picked, tally);
                    let outcome = Outcome::of(picked.verdict, false);
                    Written { picked: Some(picked), pattern: None, set_aside: None, outcome, added: true }
                }
            };
            self.encode(record, source, Written { added: true, ..written }, candidates, part);
        }
    }

    /// Gathers the mailboxes of the further addresses of a record whose first is `picked`, which the judge holds.
    fn gather_further<'c>(
        &mut self,
        record: Record<'c>,
        source: usize,
        picked: Option<Picked>,
        candidates: &Candidates<'c>,
        part: &mut Part,
    ) {
        let asked = self.wanted.duplicates && self.picker.more_count > 0;
        let Some(picked) = picked.filter(|_| asked) else { return };
        for candidate in self.picker.further(&picked, candidates) {
            let further = self.picker.judged_of_record(candidate, &candidates[candidate], record, source);
            if further.has_mailbox() {
                let judge = &self.picker.judge;
                let key = judge.key_in(judge.policy().same, &mut self.key);
                part.further.push((record.index(), self.hasher.hash(key)));
            }
        }
    }

    /// Gathers what tells the records of a chunk apart, where duplicates are named by it.
    fn gather_ids(&self, batch: &Batch, task: &Task, part: &mut Part) {
        let (texts, ends) = &mut part.ids;
        texts.clear();
        ends.clear();
        let plan = self.picker.plan();
        let Some(id) = plan.id.filter(|_| self.wanted.duplicates && !self.keys_only) else { return };
        for record in batch.records(&task.chunk) {
            texts.extend_from_slice(plan.cell(record, task.source, id).unwrap_or_default());
            ends.push(texts.len());
        }
    }

    /// `input,true` or `input,false`.
    fn answer_plainly(
        &mut self,
        record: Record<'_>,
        source: usize,
        picked: Option<&Picked>,
        part: &mut Part,
    ) {
        let plan = self.picker.plan();
        let field = picked
            .map(|picked| picked.field)
            .or(plan.address.first().copied())
            .or(plan.text.first().copied());
        let input = field.and_then(|field| plan.cell(record, source, field)).unwrap_or_default();
        let well_formed = picked.is_some_and(|picked| picked.well_formed);
        let mut encoder = CsvEncoder::copying(0, b',', b"\n");
        encoder.cell(input, &mut part.bytes);
        part.bytes.extend_from_slice(if well_formed { b",true\n" } else { b",false\n" });
        part.written += 1;
    }

    /// Reads the name that the address shows which the judge holds, where names are asked for.
    fn read_name(&mut self) {
        if self.wanted.split.names {
            let name = |parts: Parts<'_>| parts.name(self.wanted.split.orders.at(parts.domain()));
            self.name = self.picker.judge.parts().map(name).unwrap_or_default();
        }
    }

    /// Notes where the name in the address is another than the record's.
    fn hold_against_names(
        &mut self,
        record: Record<'_>,
        source: usize,
        picked: &mut Picked,
        tally: &mut Tally,
    ) {
        if !self.wanted.split.names || !picked.verdict.is_usable() {
            return;
        }
        self.read_name();
        tally.names[self.name.confidence as usize] += 1;
        let judge = &self.picker.judge;
        let Some(persons) = &self.wanted.split.persons else { return };
        if names::differs(&self.name, &persons.cells(record, source, self.picker.plan())) {
            picked.codes = judge.policy().in_force(picked.codes.with(Code::NameDiffers));
            picked.verdict = judge.policy().verdict(picked.codes);
        }
    }

    /// The first pattern that fits, by place; where none does, that is a finding.
    fn hold_against_patterns(
        &mut self,
        picked: &mut Picked,
        record: Record<'_>,
        source: usize,
        candidates: &Candidates<'_>,
    ) -> Option<usize> {
        if self.wanted.patterns.is_empty() {
            return None;
        }
        let as_it_stands = self.picker.plan().cell(record, source, picked.field).unwrap_or_default();
        let standard_form = match picked.judged.has_standard_form {
            true => self.picker.judge.address(),
            false => &*candidates[picked.candidate].found.text,
        };
        for pattern in &self.wanted.patterns {
            let place =
                || format!("{}, byte {}", self.source_names[source], self.chunk_at + record.start_in_chunk());
            if let Err(error) = pattern.refuse(as_it_stands, standard_form, place) {
                self.refused.get_or_insert(error);
            }
        }
        let fits = |wanted: &HousePattern| wanted.fits(as_it_stands, standard_form);
        let fitting = self.wanted.patterns.iter().position(fits);
        if fitting.is_none() {
            let policy = self.picker.judge.policy();
            picked.codes = policy.in_force(picked.codes.with(Code::Pattern));
            picked.verdict = policy.verdict(picked.codes);
        }
        fitting
    }
}

#[cold]
fn note_odd_shape(record: Record<'_>, expected: usize, part: &mut Part, tally: &mut Tally) {
    match record.len().cmp(&expected) {
        std::cmp::Ordering::Equal => {}
        std::cmp::Ordering::Less => tally.short += 1,
        std::cmp::Ordering::Greater => tally.long += 1,
    }
    if record.len() != expected && part.ragged.len() < RAGGED_TOLD {
        part.ragged.push((record.line_in_chunk(), record.len()));
    }
    if part.not_utf8_at.is_some() && std::str::from_utf8(record.raw()).is_err() {
        tally.not_utf8 += 1;
    }
}
