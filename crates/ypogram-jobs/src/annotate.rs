//! What worker threads do with a chunk: judge its records and encode them with the columns asked for, all but what depends
//! on the order of the records.

use ypogram_core::names::DerivedName;
use ypogram_core::{
    CellKind, Class, Code, Found, Hasher, Judge, Parts, Pattern, Policy, Verdict, cell, names, text,
};
use ypogram_tables::csv::CsvEncoder;
use ypogram_tables::{Batch, Decode, Encode, Record, Result};

use crate::cell_addresses::CellAddresses;
use crate::columns::{Column, ColumnSet};
use crate::conditions::{Candidate, Conditions, Sieve};
use crate::fields::FieldPlan;
use crate::kinds::{Kind, Kinds};
use crate::layout::OutputLayout;
use crate::lists::AppendedColumn;
use crate::outcome::Outcome;
use crate::person::PersonFields;
use crate::picking::{Candidates, Picked, Picker};
use crate::plain_row::{Letters, Places, PlainRows, words, write_row, write_word};
use crate::reading::{Reading, Task};
use crate::selection::Selection;
use crate::split::SplitPlan;
use crate::tally::{Example, Tally};

/// What came of one chunk.
#[derive(Default)]
pub(crate) struct Part {
    /// The records, encoded one behind the other.
    pub(crate) bytes: Vec<u8>,
    /// How many these are.
    pub(crate) written: u64,
    /// Each of them, where that is asked for.
    pub(crate) rows: Vec<Row>,
    /// Records in the chunk; more than rows where only some are shown.
    pub(crate) records: u64,
    pub(crate) tally: Option<Tally>,
    /// Line breaks in the chunk.
    pub(crate) lines: u64,
    pub(crate) blank_lines: u64,
    /// The first records whose number of cells is not that of the fields: line in the chunk, cells.
    pub(crate) ragged: Vec<(u64, usize)>,
    /// Where in the chunk the first byte stands that is not UTF-8.
    pub(crate) not_utf8_at: Option<usize>,
}

impl Part {
    /// Counts the row that was written last, and keeps it where that is asked for.
    #[inline]
    fn end_row(&mut self, row: Row, wanted: &Wanted) {
        self.written += 1;
        if wanted.rows() {
            self.rows.push(row);
        }
    }
}

/// One record, encoded.
#[derive(Clone, Copy, Default)]
pub(crate) struct Row {
    /// Line breaks before it in the chunk.
    pub(crate) line: u32,
    /// Where the cells that the committer fills in belong.
    pub(crate) split: u32,
    /// Where the record ends.
    pub(crate) end: u32,
    pub(crate) outcome: Outcome,
    pub(crate) class: Option<Class>,
    /// Hash of the key; only for records to be kept or reviewed.
    pub(crate) key: u128,
    /// Hash of the person; 0 where none is known or asked for.
    pub(crate) person: u32,
    /// Where the cells of verdict and findings start and end; they follow one another.
    pub(crate) verdict: u32,
    pub(crate) findings: (u32, u32),
}

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
    /// How many cells a record of each source should have.
    widths: Vec<usize>,
    wanted: &'p Wanted,
    sieve: Option<Sieve<'p>>,
    /// For other texts of a record, since the picker's judge stays with its address.
    aside: Judge<'p>,
    addresses: CellAddresses,
    /// Give only the keys and persons of the records.
    pub(crate) keys_only: bool,
    /// Write just the cell that was looked at and whether it is well formed.
    pub(crate) plain: bool,
    batch: Batch,
    key: Vec<u8>,
    cell: Vec<u8>,
    /// The name that the address shows, where names are asked for.
    name: DerivedName,
}

/// A row to be written.
#[derive(Clone, Copy)]
struct Written {
    picked: Option<Picked>,
    pattern: Option<usize>,
    set_aside: Option<usize>,
    outcome: Outcome,
}

/// What is wanted beyond the verdict.
#[derive(Debug, Default)]
pub(crate) struct Wanted {
    /// Patterns of which one should fit.
    pub(crate) patterns: Vec<Pattern>,
    /// Only records that meet these are encoded.
    pub(crate) show: Option<Conditions>,
    /// The field whose cells are told by kind.
    pub(crate) label: Option<usize>,
    /// Which usable records are wanted.
    pub(crate) selection: Selection,
    /// The columns that lists append.
    pub(crate) from_lists: Vec<AppendedColumn>,
    /// What addresses and other values are split into.
    pub(crate) split: SplitPlan,
    /// Records are held against each other by mailbox.
    pub(crate) duplicates: bool,
    /// The fields that name a person, where persons are told apart.
    pub(crate) persons: Option<PersonFields>,
}

impl Wanted {
    /// Whether it matters which rows were written: some are written on, others sorted by outcome.
    fn rows(&self) -> bool {
        self.duplicates || self.show.is_some()
    }

    /// What records of one mailbox have in common, where duplicates are looked for.
    #[inline]
    fn hash(&self, key: &[u8], hasher: Hasher) -> u128 {
        if self.duplicates && !key.is_empty() { hasher.hash(key) } else { 0 }
    }

    /// The person that a record names, where persons are told apart; else 0.
    #[inline]
    fn person(&self, record: Record<'_>, source: usize, plan: &FieldPlan, hasher: Hasher) -> u32 {
        let persons = self.persons.as_ref();
        persons.map_or(0, |persons| persons.hash(record, source, plan, hasher) as u32)
    }

    /// Counts of nothing yet.
    pub(crate) fn tally(&self, plan: &FieldPlan) -> Tally {
        Tally::new(plan.fields.len(), &self.selection, self.split.cuts())
    }
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
        Ok(Annotator {
            picker: Picker::new(plan, policy, hasher),
            hasher,
            decoders: reading.decoders(),
            encoders: layout.encoders.clone(),
            plain_rows: PlainRows::of(&columns, &layout.encoders[0], &plan.fields, &source_names)
                .filter(|_| !plan.fields.is_empty()),
            kinds: Kinds::new(source_names.len()),
            source_names,
            widths: plan.places.iter().map(|places| places.iter().flatten().count()).collect(),
            columns,
            wanted,
            sieve: wanted.show.as_ref().map(sieve).transpose()?,
            aside: Judge::new(policy, hasher),
            addresses: CellAddresses::default(),
            plain: false,
            keys_only: false,
            batch: Batch::default(),
            key: Vec::new(),
            cell: Vec::new(),
            name: DerivedName::default(),
        })
    }

    pub(crate) fn work(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        part.bytes.clear();
        part.written = 0;
        part.rows.clear();
        part.ragged.clear();
        let mut tally = self.wanted.tally(self.picker.plan());
        let mut batch = std::mem::take(&mut self.batch);
        batch.clear();
        self.decoders[task.source].decode(&task.chunk, &mut batch)?;
        part.not_utf8_at =
            simdutf8::compat::from_utf8(&task.chunk.bytes).err().map(|error| error.valid_up_to());
        let (mut cells, mut candidates) = (Vec::new(), Vec::new());
        let at_once = self.may_write_at_once();
        for record in batch.records(&task.chunk) {
            self.note_shape(record, task.source, part, &mut tally);
            if !(at_once && self.write_at_once(record, task.source, part, &mut tally)) {
                self.one(record, task.source, &mut cells, &mut candidates, part, &mut tally);
            }
        }
        self.kinds.settle(self.picker.judge.policy(), &mut tally);
        part.records = batch.len() as u64;
        (part.lines, part.blank_lines) = (batch.lines, batch.blank_lines);
        part.tally = Some(tally);
        self.batch = batch;
        Ok(())
    }

    fn note_shape(&self, record: Record<'_>, source: usize, part: &mut Part, tally: &mut Tally) {
        let expected = self.widths[source];
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
        let mut picked = self.picker.pick(record, source, cells, candidates);
        if let Some(picked) = &mut picked {
            self.hold_against_names(record, source, picked, tally);
        }
        let pattern = picked.as_mut().and_then(|picked| self.hold_against_patterns(picked, candidates));
        let usable = picked.as_ref().filter(|picked| picked.verdict.is_usable());
        let set_aside = usable.and_then(|picked| self.wanted.selection.sets_aside(picked));
        let outcome =
            picked.map_or(Outcome::NoAddress, |picked| Outcome::of(picked.verdict, set_aside.is_some()));
        if let Some(reason) = set_aside {
            tally.set_aside[reason] += 1;
        }
        self.count(picked.as_ref(), outcome, record, source, tally);
        if let Some(sieve) = &mut self.sieve {
            let (picked, judge) = (picked.as_ref(), &self.picker.judge);
            let (local_part, domain) = (judge.local_part(), judge.domain());
            if !sieve.lets_through(Candidate { record, source, picked, local_part, domain }) {
                return;
            }
        }
        if self.plain {
            return self.answer_plainly(record, source, picked.as_ref(), part);
        }
        if self.wanted.split.cuts() > 0 {
            self.count_cuts(record, source, tally);
        }
        if let (Some(picked), Outcome::Kept | Outcome::Review) = (&picked, outcome)
            && self.encode_at_once(record, source, picked, outcome, part)
        {
            return;
        }
        let written = Written { picked, pattern, set_aside, outcome };
        if self.wanted.split.row_per_address && self.picker.more_count > 0 {
            for candidate in self.picker.usable(candidates) {
                let (field, found) = &candidates[candidate];
                let mut picked = self.picker.judged(candidate, *field, found);
                let first = written.picked.filter(|first| first.candidate == candidate);
                match first {
                    Some(first) => {
                        picked = first;
                        self.read_name();
                    }
                    None => self.hold_against_names(record, source, &mut picked, tally),
                }
                let picked = Some(picked);
                tally.rows_added += u64::from(first.is_none());
                self.encode(record, source, Written { picked, ..written }, candidates, part);
            }
            return;
        }
        self.encode(record, source, written, candidates, part);
    }

    /// Writes a row for the record with the address that the judge holds.
    fn encode<'c>(
        &mut self,
        record: Record<'c>,
        source: usize,
        written: Written,
        candidates: &Candidates<'c>,
        part: &mut Part,
    ) {
        let Written { picked, pattern, set_aside, outcome } = written;
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
            return part.rows.push(Row { outcome, key, person, ..Row::default() });
        }
        let out = &mut part.bytes;
        // The cells are filled while it writes.
        let mut encoders = std::mem::take(&mut self.encoders);
        let encoder = &mut encoders[source];
        encoder.own(record, out);
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
                (Some(picked), Column::Suggestion) => {
                    self.fill_suggestion(picked, record, source, candidates)
                }
                (Some(picked), column) => self.fill(column, picked),
                (None, _) => {}
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
        let key = self.wanted.hash(&self.key, self.hasher);
        let (line, end) = (record.line_in_chunk() as u32, out.len() as u32);
        part.end_row(Row { line, split, end, outcome, class, key, person, verdict, findings }, self.wanted);
    }

    /// Whether a row may follow from the address alone.
    fn may_write_at_once(&self) -> bool {
        let Wanted { patterns, show, split, .. } = self.wanted;
        let more_is_asked = !patterns.is_empty() || show.is_some() || split.names || split.cuts() > 0;
        self.plain_rows.is_some() && !more_is_asked && !self.plain && !self.keys_only
    }

    /// Writes the row of a record whose address is plain, as most are, and counts it; tells whether it could.
    #[inline]
    fn write_at_once(
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
    fn encode_at_once(
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
        let well_formed = picked.is_some_and(|picked| picked.judged.well_formed);
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

    fn count_cuts(&self, record: Record<'_>, source: usize, tally: &mut Tally) {
        let plan = self.picker.plan();
        self.wanted.split.misses(
            |field| plan.cell(record, source, field),
            |cut, cell| {
                tally.cut_misses[cut] += 1;
                tally.cut_examples[cut].get_or_insert_with(|| self.example(cell, record, source));
            },
        );
    }

    fn example(&self, cell: &[u8], record: Record<'_>, source: usize) -> Example {
        let id = self.picker.plan().id(record, source);
        Example { source, line: record.line_in_chunk(), id, text: shortened(cell) }
    }

    /// The first pattern that fits, by place; where none does, that is a finding.
    fn hold_against_patterns(&self, picked: &mut Picked, candidates: &Candidates<'_>) -> Option<usize> {
        if self.wanted.patterns.is_empty() {
            return None;
        }
        let value = match picked.judged.well_formed {
            true => self.picker.judge.address(),
            false => &*candidates[picked.candidate].1.text,
        };
        let fitting = self.wanted.patterns.iter().position(|pattern| pattern.fits(value));
        if fitting.is_none() {
            let policy = self.picker.judge.policy();
            picked.codes = policy.in_force(picked.codes.with(Code::Pattern));
            picked.verdict = policy.verdict(picked.codes);
        }
        fitting
    }

    /// What the cell holds that is to be told by kind.
    fn fill_kind(&mut self, record: Record<'_>, source: usize) {
        let plan = self.picker.plan();
        let field = self.wanted.label.expect("a field is named");
        let cell = plan.cell(record, source, field).unwrap_or_default();
        self.addresses.look(cell, plan.address.contains(&field), &mut self.aside);
        let kind = CellKind::of(cell, self.addresses.spans.len());
        self.cell.extend_from_slice(kind.word().as_bytes());
    }

    /// The entry of the list at `list` that speaks of the record or its address.
    fn entry_in(&self, list: usize, record: Record<'_>, source: usize, with_address: bool) -> Option<usize> {
        let (plan, judge) = (self.picker.plan(), &self.picker.judge);
        match plan.lists.iter().find(|placed| placed.list == list) {
            Some(placed) => placed.entry(&judge.policy().lists, plan, record, source),
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
            (patterns, Some(first)) => &patterns[first].name,
            (_, None) => "",
        };
        self.cell.extend_from_slice(word.as_bytes());
    }

    /// What was probably meant, where the address is not accepted.
    fn fill_suggestion(
        &mut self,
        picked: &Picked,
        record: Record<'_>,
        source: usize,
        candidates: &Candidates<'_>,
    ) {
        if picked.verdict == Verdict::Accept {
            return;
        }
        let policy = self.picker.judge.policy();
        let cell = || self.picker.plan().cell(record, source, picked.field).unwrap_or_default();
        let text = if picked.plain { cell() } else { &*candidates[picked.candidate].1.text };
        let suggestion = if picked.codes.contains(Code::WordBeside) {
            cell::suggest_joined(cell(), policy)
        } else {
            self.aside.suggest(text, picked.codes)
        };
        if let Some(suggestion) = suggestion {
            self.cell.extend_from_slice(suggestion.address.as_bytes());
        }
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

    fn count(
        &mut self,
        picked: Option<&Picked>,
        outcome: Outcome,
        record: Record<'_>,
        source: usize,
        tally: &mut Tally,
    ) {
        let Some(picked) = picked else { return self.count_what_is_left(record, source, tally) };
        self.note_examples(picked, record, source, tally);
        tally.count(picked, outcome, self.picker.judge.policy(), 1);
        if outcome == Outcome::Rejected {
            return self.count_what_is_left(record, source, tally);
        }
        tally.more += self.picker.more_count;
        tally.with_more += u64::from(self.picker.more_count > 0);
    }

    /// Keeps the record as an example of findings that were not met in the chunk before.
    fn note_examples(&self, picked: &Picked, record: Record<'_>, source: usize, tally: &mut Tally) {
        for code in picked.codes.iter() {
            tally.examples[code.index()].get_or_insert_with(|| {
                let cell = self.picker.plan().cell(record, source, picked.field).unwrap_or_default();
                self.example(cell, record, source)
            });
        }
    }

    /// Counts a record without a usable address that still holds an @, and the fields that would give one.
    fn count_what_is_left(&mut self, record: Record<'_>, source: usize, tally: &mut Tally) {
        if memchr::memchr(b'@', record.raw()).is_none() {
            return;
        }
        let plan = self.picker.plan();
        let mut left = false;
        for (field, place) in plan.places[source].iter().enumerate() {
            let looked_at = plan.address.contains(&field) || plan.text.contains(&field);
            let Some(cell) = place.filter(|_| !looked_at).and_then(|place| record.cell(place)) else {
                continue;
            };
            if !cell.contains(&b'@') {
                continue;
            }
            left = true;
            let mut usable = false;
            let judge = &mut self.aside;
            text::find(cell, judge.policy(), |hit| usable |= judge.judge_hit(&hit).verdict.is_usable());
            tally.reachable[field] += u64::from(usable);
        }
        tally.at_sign_left += u64::from(left);
    }
}

/// A cell as an example shows it: at most 60 characters.
pub(crate) fn shortened(cell: &[u8]) -> String {
    let text = String::from_utf8_lossy(cell);
    let mut chars = text.chars();
    let mut out: String = chars.by_ref().take(60).collect();
    if chars.next().is_some() {
        out.push('…');
    }
    out
}
