//! What worker threads do with a chunk: judge its records and gather the rows that are wanted of them, and encode these once
//! what depends on the order of the records is settled.

mod counting;
mod decisions;
mod encode;
mod field_faults;
mod further;
mod held_against_house;
mod house;
mod outcome_writer;
mod part;
mod plain_rows;
mod values;
mod wanted;

use std::sync::Arc;

use hashbrown::HashMap;
use ypogram_core::names::{self, DerivedName};
use ypogram_core::{Code, CodeSet, Found, Hasher, Judge, Parts, Policy, Suggestion, mendable};
use ypogram_io::{Batch, Decode, Error, Projection, Record, Result};

use crate::decisions::never_from_memory;
use crate::engine::faults::until_done;
use crate::engine::pipeline::Work;
use crate::engine::reading::{Reading, Task};
use crate::judge::added_cells::{AddedColumns, TemplateKey};
use crate::judge::cell_addresses::CellAddresses;
use crate::judge::conditions::{Candidate, Conditions, Sieve};
use crate::judge::decided::Decided;
use crate::judge::kinds::Kinds;
use crate::judge::select_address::{AddressSelector, Candidates, SelectedAddress};
use crate::judge::tally::Tally;
use crate::plan::columns::{Column, ColumnSet};
use crate::plan::fields::FieldPlan;
use crate::plan::house_pattern::HousePattern;
use crate::plan::layout::OutputLayout;
use crate::plan::outcome::Outcome;
use held_against_house::HeldAgainstHouse;
use outcome_writer::OutcomeWriter;
pub(crate) use part::{Part, Row};
pub(crate) use wanted::Wanted;

/// What records are judged by.
#[derive(Clone, Copy)]
pub(crate) struct Judging<'p> {
    pub(crate) plan: &'p FieldPlan,
    pub(crate) policy: &'p Policy,
    pub(crate) hasher: Hasher,
}

/// What rows are made of.
pub(crate) struct RowPlan<'r> {
    pub(crate) layout: &'r OutputLayout,
    pub(crate) columns: &'r ColumnSet,
    pub(crate) projection: &'r Arc<Projection>,
    /// The columns of outputs in which somebody decides, where there are such.
    pub(crate) review: Option<ReviewColumns<'r>>,
    /// Records are sorted into outputs by their outcome.
    pub(crate) by_outcome: bool,
}

/// The columns of outputs in which somebody decides: more than those of the others, in another order.
#[derive(Clone, Copy)]
pub(crate) struct ReviewColumns<'r> {
    pub(crate) columns: &'r ColumnSet,
    pub(crate) projection: &'r Arc<Projection>,
}

/// Judges and encodes chunk after chunk. One for each thread.
pub(crate) struct Annotator<'p> {
    picker: AddressSelector<'p>,
    hasher: Hasher,
    decoders: Vec<Box<dyn Decode>>,
    /// The columns of all outputs together, from which the values of a row follow.
    added: AddedColumns,
    /// Writes the rows of most outputs, and of those in which somebody decides.
    writers: Vec<OutcomeWriter>,
    by_outcome: bool,
    source_names: Vec<String>,
    /// The places of keys in the part in hand.
    keys: HashMap<TemplateKey, u32>,
    /// That of rows without an address.
    key_without_address: Option<u32>,
    /// Rows of plain addresses follow from these alone.
    may_follow_from_address: bool,
    /// The findings for which there may be a suggestion; none where there is no column for it.
    mendable: CodeSet,
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
    /// Records of the batch in hand without a usable address.
    without: Vec<usize>,
    key: Vec<u8>,
    /// What was suggested for the address of the record in hand.
    suggested: Option<Suggestion>,
    /// The name that the address shows, where names are asked for.
    name: DerivedName,
    /// Where in its source the chunk in hand starts.
    chunk_at: u64,
    /// Records before the chunk in hand, where something was decided about some.
    records_before: Option<u64>,
    /// Findings that are not answered by what is remembered.
    never_from_memory: CodeSet,
    /// What came of holding the address of the record in hand against the house's formats.
    house: HeldAgainstHouse,
    /// Records before the chunk in hand, where what is asked of fields depends on that.
    chunk_begins_at: u64,
    /// What the fields of the record in hand break, by place among what is asked of them.
    broken: Vec<usize>,
    /// Why a value cannot be held against a pattern.
    refused: Option<Error>,
}

/// What is settled of a record by itself, and what its row reports.
#[derive(Clone, Copy)]
struct Settled {
    selected: Option<SelectedAddress>,
    pattern: Option<usize>,
    set_aside: Option<usize>,
    outcome: Outcome,
    /// It is for a further address of the record.
    added: bool,
    /// What somebody decided.
    decided: Decided,
}

/// As many ragged records as are reported by line.
const RAGGED_TOLD: usize = 5;

impl<'p> Annotator<'p> {
    /// One for each of so many threads, one at least.
    ///
    /// # Errors
    /// Where a condition is about a field that does not exist.
    pub(crate) fn for_threads(
        threads: usize,
        reading: &Reading,
        judging: Judging<'p>,
        rows: &RowPlan<'_>,
        wanted: &'p Wanted,
    ) -> Result<Vec<Self>> {
        (0..threads.max(1)).map(|_| Self::new(reading, judging, rows, wanted)).collect()
    }

    /// # Errors
    /// Where a condition is about a field that does not exist.
    fn new(reading: &Reading, judging: Judging<'p>, rows: &RowPlan<'_>, wanted: &'p Wanted) -> Result<Self> {
        let Judging { plan, policy, hasher } = judging;
        let sieve = |show: &'p Conditions| show.sieve(plan, Judge::new(policy, hasher));
        let source_names = reading.names();
        let most = rows.review.map_or(rows.columns, |review| review.columns);
        let added =
            AddedColumns::new(most.iter().collect(), &plan.fields, source_names.clone(), plan.has_id())
                .by(policy);
        let mut writers = vec![OutcomeWriter::new(&added, rows.columns, rows.layout, rows.projection)];
        if let Some(review) = rows.review {
            writers.push(OutcomeWriter::new(&added, review.columns, rows.layout, review.projection));
        }
        let mut picker = AddressSelector::new(plan, policy, hasher);
        picker.asks_well_formed |= added.contains(Column::WellFormed);
        let suggests = added.contains(Column::Suggestion);
        Ok(Annotator {
            picker,
            hasher,
            decoders: reading.decoders(),
            may_follow_from_address: Self::may_follow_from_address(&added, wanted) && !plan.fields.is_empty(),
            mendable: if suggests { mendable(policy) } else { CodeSet::default() },
            added,
            writers,
            by_outcome: rows.by_outcome,
            keys: HashMap::new(),
            key_without_address: None,
            kinds: Kinds::new(source_names.len()),
            shown: CodeSet::default(),
            source_names,
            widths: plan.places.iter().map(|places| places.iter().flatten().count()).collect(),
            wanted,
            sieve: wanted.show.as_ref().map(sieve).transpose()?,
            addresses: CellAddresses::default(),
            keys_only: false,
            without: Vec::new(),
            key: Vec::new(),
            suggested: None,
            name: DerivedName::default(),
            chunk_at: 0,
            records_before: None,
            never_from_memory: never_from_memory(policy),
            house: HeldAgainstHouse::default(),
            chunk_begins_at: 0,
            broken: Vec::new(),
            refused: None,
        })
    }

    fn judge_once(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        let outputs = if self.by_outcome { Outcome::ALL.len() } else { 1 };
        part.clear(self.added.values().len(), outputs);
        self.keys.clear();
        self.key_without_address = None;
        let mut tally = part.tally.take().unwrap_or_else(|| self.wanted.tally(self.picker.plan()));
        self.chunk_at = task.chunk.offset;
        self.enter_chunk(task);
        self.chunk_begins_at = self.wanted.fields.records_before(task);
        part.decided_from = self.records_before;
        let mut batch = std::mem::take(&mut part.batch);
        self.decoders[task.source].decode(&task.chunk, &mut batch)?;
        part.not_utf8 = batch.not_utf8(&task.chunk);
        self.gather_ids(&batch, task, part);
        self.judge_records(&batch, task, part, &mut tally);
        for index in std::mem::take(&mut self.without) {
            if self.picker.faulty.takes(index) {
                continue;
            }
            self.count_what_is_left(batch.record(&task.chunk, index), &mut tally);
        }
        self.kinds.settle(self.picker.judge.policy(), &mut tally);
        part.further.sort_unstable();
        part.records = batch.len() as u64;
        (part.lines, part.blank_lines, part.formulas) = (batch.lines, batch.blank_lines, batch.formulas);
        part.tally = Some(tally);
        part.batch = batch;
        self.refused.take().map_or(Ok(()), Err)
    }

    fn judge_records(&mut self, batch: &Batch, task: &Task, part: &mut Part, tally: &mut Tally) {
        let (mut cells, mut candidates) = (Vec::new(), Vec::new());
        let follows_from_address = self.may_follow_from_address && !self.keys_only;
        let may_be_ragged = !batch.is_of_lines() || self.widths[task.source] != 1 || part.not_utf8.is_some();
        for index in 0..batch.len() {
            // Made anew each time: to copy one that was written a moment ago, a processor would have to wait.
            let record = || batch.record(&task.chunk, index);
            if may_be_ragged {
                self.note_shape(record(), part, tally);
            }
            let is_done = follows_from_address
                && self.answer_of(index).is_none()
                && self.has_right_fields(record())
                && (self.add_plain_row(record(), part, tally) || self.add_empty_row(record(), part));
            if !is_done {
                self.one(record(), &mut cells, &mut candidates, part, tally);
            }
        }
    }

    /// The place in the part of what the shared cells of a row without an address follow from.
    #[inline]
    fn template_without_address(&mut self, source: usize, part: &mut Part) -> u32 {
        *self.key_without_address.get_or_insert_with(|| {
            part.keys.push(TemplateKey::without_address(source));
            part.keys.len() as u32 - 1
        })
    }

    /// The place in the part of what the shared cells of such a row follow from.
    fn template(
        &mut self,
        selected: Option<&SelectedAddress>,
        rare_values: bool,
        source: usize,
        part: &mut Part,
    ) -> u32 {
        let key = match selected {
            Some(selected) => TemplateKey::of(selected, source).with_rare_values(rare_values),
            None if self.broken.is_empty() => return self.template_without_address(source, part),
            None => TemplateKey::without_address(source).with_codes(self.field_codes()),
        };
        *self.keys.entry(key).or_insert_with(|| {
            part.keys.push(key);
            part.keys.len() as u32 - 1
        })
    }

    #[inline]
    fn note_shape(&self, record: Record<'_>, part: &mut Part, tally: &mut Tally) {
        let expected = self.widths[record.source()];
        if record.len() != expected || part.not_utf8.is_some() {
            note_odd_shape(record, expected, part, tally);
        }
    }
    #[inline(never)]
    fn one<'c>(
        &mut self,
        record: Record<'c>,
        cells: &mut Vec<Found<'c>>,
        candidates: &mut Candidates<'c>,
        part: &mut Part,
        tally: &mut Tally,
    ) {
        let mut selected = self.picker.pick(record, cells, candidates);
        self.house.verdict = None;
        self.check_fields(record, tally);
        let decided = match &mut selected {
            Some(selected) => {
                self.wanted.fields.faults(&self.broken).add_to(selected, self.picker.judge.policy());
                // What is found before a decision is answered by it.
                self.hold_against_house(selected, record, candidates);
                self.apply_decision(selected, record, candidates, part)
            }
            None => Decided::default(),
        };
        let settled = Settled { decided, ..self.settle(selected, record, candidates, tally) };
        self.count_lookups(record, settled.selected.as_ref(), tally);
        self.add_rows(record, settled, candidates, part, tally);
        if matches!(settled.outcome, Outcome::NoAddress | Outcome::Rejected) {
            self.without.push(record.index());
        }
    }

    /// What is reported about the address that the judge holds, and where its record ends; counted.
    fn settle<'c>(
        &mut self,
        mut selected: Option<SelectedAddress>,
        record: Record<'c>,
        candidates: &Candidates<'c>,
        tally: &mut Tally,
    ) -> Settled {
        if let Some(selected) = &mut selected {
            self.hold_against_names(record, selected, tally);
        }
        if let Some(verdict) = &self.house.verdict {
            tally.house[0] += u64::from(verdict.fits());
            verdict.parts().for_each(|part| tally.house[1 + part as usize] += 1);
        }
        let pattern = selected
            .as_mut()
            .and_then(|selected| self.hold_against_patterns(selected, record, candidates, tally));
        let usable = selected.as_ref().filter(|selected| selected.verdict.is_usable());
        let set_aside = usable.and_then(|selected| self.wanted.selection.sets_aside(selected));
        let outcome = selected
            .map_or(Outcome::NoAddress, |selected| Outcome::of(selected.verdict, set_aside.is_some()));
        if let Some(reason) = set_aside {
            tally.set_aside[reason] += 1;
        }
        if let Some(selected) = &selected {
            self.count(selected, outcome, record, tally);
        }
        Settled { selected, pattern, set_aside, outcome, added: false, decided: Decided::default() }
    }

    /// Adds the row of a record, or its rows, where they are asked for.
    #[inline]
    fn add_rows<'c>(
        &mut self,
        record: Record<'c>,
        settled: Settled,
        candidates: &mut Candidates<'c>,
        part: &mut Part,
        tally: &mut Tally,
    ) {
        let selected = settled.selected;
        if let Some(sieve) = &mut self.sieve {
            let (selected, judge) = (selected.as_ref(), &self.picker.judge);
            let faults = self.wanted.fields.faults(&self.broken);
            if !sieve.lets_through(Candidate { record, selected, judge, faults }) {
                return;
            }
        }
        if self.wanted.split.cuts() > 0 {
            self.count_cuts(record, selected.as_ref(), tally);
        }
        self.add_row(record, settled, candidates, part);
        if self.wanted.row_per_address {
            self.add_further_rows(record, selected, candidates, part, tally);
        } else {
            self.gather_further(record, selected, candidates, part);
        }
    }

    /// Gathers what tells the records of a chunk apart, where duplicates are named by it.
    fn gather_ids(&self, batch: &Batch, task: &Task, part: &mut Part) {
        let (texts, ends) = &mut part.ids;
        texts.clear();
        ends.clear();
        let plan = self.picker.plan();
        if !plan.has_id() || !self.wanted.gathers_ids {
            return;
        }
        for record in batch.records(&task.chunk) {
            plan.write_id(record, texts);
            ends.push(texts.len());
        }
    }

    /// Reads the name that the address shows which the judge holds, where names are asked for.
    fn read_name(&mut self) {
        if self.wanted.split.names {
            let name = |parts: Parts<'_>| parts.name(self.wanted.split.orders.at(parts.domain()));
            self.name = self.picker.judge.parts().map(name).unwrap_or_default();
        }
    }

    /// Notes where the name in the address is another than the record's.
    fn hold_against_names(&mut self, record: Record<'_>, selected: &mut SelectedAddress, tally: &mut Tally) {
        if !self.wanted.split.names || !selected.verdict.is_usable() {
            return;
        }
        self.read_name();
        tally.names[self.name.confidence as usize] += 1;
        let judge = &self.picker.judge;
        let Some(persons) = &self.wanted.split.persons else { return };
        if names::differs(&self.name, &persons.cells(record, self.picker.plan())) {
            selected.codes = judge.policy().in_force(selected.codes.with(Code::NameDiffers));
            selected.verdict = judge.policy().verdict(selected.codes);
        }
    }

    /// The first pattern that fits, by place; where none does, that is a finding.
    fn hold_against_patterns(
        &mut self,
        selected: &mut SelectedAddress,
        record: Record<'_>,
        candidates: &Candidates<'_>,
        tally: &mut Tally,
    ) -> Option<usize> {
        if self.wanted.patterns.is_empty() {
            return None;
        }
        let (as_it_stands, standard_form) = self.forms_of(selected, record, candidates);
        let place = || {
            let source = &self.source_names[record.source()];
            format!("{source}, byte {}", self.chunk_at + record.start_in_chunk())
        };
        let patterns = &self.wanted.patterns;
        let refuse = |wanted: &HousePattern| wanted.refuse(as_it_stands, standard_form, place).err();
        let refused = patterns.iter().find_map(refuse);
        let fitting = patterns.iter().position(|wanted| wanted.fits(as_it_stands, standard_form));
        if let Some(error) = refused {
            self.refused.get_or_insert(error);
        }
        tally.patterns[fitting.unwrap_or(self.wanted.patterns.len())] += 1;
        if fitting.is_none() {
            let policy = self.picker.judge.policy();
            selected.codes = policy.in_force(selected.codes.with(Code::Pattern));
            selected.verdict = policy.verdict(selected.codes);
        }
        fitting
    }

    /// The value exactly as it stands, and the address in it in standard form; where it has none, as it was found.
    fn forms_of<'v>(
        &'v self,
        selected: &SelectedAddress,
        record: Record<'v>,
        candidates: &'v Candidates<'_>,
    ) -> (&'v [u8], &'v [u8]) {
        let as_it_stands = self.picker.plan().cell(record, selected.field).unwrap_or_default();
        let standard_form = match selected.judged.has_standard_form {
            true => self.picker.judge.address(),
            false => &*candidates[selected.candidate].found.text,
        };
        (as_it_stands, standard_form)
    }
}

impl Work<Task, Part> for Annotator<'_> {
    fn judge(&mut self, task: &mut Task, part: &mut Part) -> Result<()> {
        self.picker.faulty.clear();
        until_done(
            self,
            |worker| worker.judge_once(task, part),
            |worker| {
                (worker.kinds, worker.shown) = (Kinds::new(worker.source_names.len()), CodeSet::default());
                worker.without.clear();
                worker.picker.start_again()
            },
        )
    }

    fn encode(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        self.encode_rows(task, part);
        Ok(())
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
    if part.not_utf8.is_some() && record.cells().any(|cell| std::str::from_utf8(cell).is_err()) {
        tally.not_utf8 += 1;
    }
}
