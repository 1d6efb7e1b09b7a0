//! What the threads of `dedupe` do with a chunk: find each record's key, score and person, and write what is wanted of it.

use compact_str::CompactString;
use ypogram_core::{Alike, Code, Found, Hasher, Policy, SameMailbox, Verdict};
use ypogram_tables::csv::CsvEncoder;
use ypogram_tables::{Batch, Decode, Encode, Record, Result};

use crate::engine::faults::caught;
use crate::engine::reading::{Reading, Task};
use crate::jobs::dedupe::near::Traits;
use crate::jobs::dedupe::survivor::{Score, Scoring, folded};
use crate::judge::by_alike::ByAlike;
use crate::judge::conditions::is_blank;
use crate::judge::picking::{Candidates, Picked, Picker};
use crate::plan::fields::FieldPlan;
use crate::plan::layout::OutputLayout;
use crate::plan::person::PersonFields;
use crate::plan::shared::hash_with_person;

/// What came of one chunk.
#[derive(Default)]
pub(crate) struct Part {
    /// What was written of the records, one behind the other.
    bytes: Vec<u8>,
    /// They are written as they stand in the chunk.
    as_they_stand: bool,
    pub(crate) rows: Vec<Row>,
    /// The weight of each, where any has one.
    pub(crate) weights: Vec<Weight>,
    pub(crate) lines: u64,
    pub(crate) blank_lines: u64,
    /// Cells that a spreadsheet would take for formulas.
    pub(crate) formulas: u64,
    pub(crate) rejected: u64,
    pub(crate) review: u64,
    pub(crate) from_text: u64,
    pub(crate) unreadable: u64,
    pub(crate) either_way: u64,
    /// Records without a usable address for which a field has one that was not looked at, by field.
    pub(crate) reachable: Vec<u64>,
    /// Hashes of the keys under each rule, of usable addresses, where these are wanted.
    pub(crate) rules: Vec<[u64; 4]>,
    /// What usable addresses are compared by, where probable twins are wanted.
    pub(crate) traits: Vec<Traits>,
    /// What tells each record apart, behind one another, and where each ends; empty where no field was named for it.
    ids: (Vec<u8>, Vec<usize>),
}

/// The hash of the key of a usable address: even and not 0. That of a rejected address's text is odd.
fn usable(hash: u128) -> u128 {
    (hash & !1).max(2)
}

/// The hash of the text of a rejected address, which no key is like.
fn hash_of_text(cell: &[u8], hasher: Hasher, scratch: &mut Vec<u8>) -> u128 {
    start_with_text(cell, scratch);
    hasher.hash(scratch) | 1
}

fn start_with_text(cell: &[u8], key: &mut Vec<u8>) {
    key.clear();
    key.push(0);
    key.extend_from_slice(cell);
}

impl Part {
    /// The weight of the record at `index`.
    #[inline]
    pub(crate) fn weight(&self, index: usize) -> Weight {
        self.weights.get(index).copied().unwrap_or_default()
    }

    /// Where what is written of the record at hand ends, which has its place for other cells at `split`.
    #[inline]
    fn end_behind(&self, split: u32) -> u32 {
        if self.as_they_stand { split } else { self.bytes.len() as u32 }
    }

    /// What tells each record apart, in order.
    pub(crate) fn ids(&self) -> impl Iterator<Item = &[u8]> {
        let (texts, ends) = &self.ids;
        std::iter::once(&0).chain(ends).zip(ends).map(|(&start, &end)| &texts[start..end])
    }

    /// What is written of the records of `task`, one behind the other.
    pub(crate) fn bytes_of<'t>(&'t self, task: &'t Task) -> &'t [u8] {
        if self.as_they_stand { &task.chunk.bytes } else { &self.bytes }
    }

    /// Each record with what is written of it, and the place in that for cells that depend on the others.
    pub(crate) fn written<'t>(&'t self, task: &'t Task) -> impl Iterator<Item = (&'t Row, &'t [u8], usize)> {
        let (mut start, bytes) = (0, self.bytes_of(task));
        self.rows.iter().map(move |row| {
            let from = std::mem::replace(&mut start, row.end as usize);
            (row, &bytes[from..row.end as usize], row.split as usize - from)
        })
    }
}

/// One record.
#[derive(Clone, Copy)]
pub(crate) struct Row {
    /// Hash of the key; 0 where there is no address, even where it is usable, odd where it is not.
    pub(crate) hash: u128,
    /// Line breaks before it in the chunk.
    pub(crate) line: u32,
    /// Where cells that depend on the other records belong, and where what is written of it ends.
    pub(crate) split: u32,
    pub(crate) end: u32,
}

/// One thread writes rows, and another may read them: the less there is of them, the less it waits.
const _: () = assert!(size_of::<Row>() == 32);

impl Row {
    /// Whether its address is usable.
    pub(crate) fn is_usable(&self) -> bool {
        self.hash != 0 && self.hash & 1 == 0
    }
}

/// What counts among records of one mailbox.
#[derive(Clone, Copy, Default)]
pub(crate) struct Weight {
    pub(crate) score: u64,
    /// The hash of the person; 0 where none is known.
    pub(crate) person: u64,
}

/// What is written of a record.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Written {
    Nothing,
    /// Its own fields.
    Record,
    /// Its own fields and the key.
    RecordAndKey,
    /// Its address in standard form and how it stood, a zero between them.
    Spelling,
    /// Each of its cells with its length in front, in the order of the plan, then those it has beyond.
    Cells,
}

/// What makes records duplicates, and which of them stays.
#[derive(Debug)]
pub(crate) struct Asked<'p> {
    pub(crate) plan: &'p FieldPlan,
    pub(crate) policy: &'p Policy,
    pub(crate) hasher: Hasher,
    /// Fields that must be equal, letter case and white space folded.
    pub(crate) by: Vec<usize>,
    /// Fields within whose values duplicates are looked for.
    pub(crate) within: Vec<usize>,
    pub(crate) scoring: Scoring,
    pub(crate) persons: PersonFields,
    /// Texts of rejected addresses are the same only where the person is.
    pub(crate) texts_by_person: bool,
    pub(crate) compare_rules: bool,
    /// Probable twins are wanted.
    pub(crate) near: bool,
}

impl Asked<'_> {
    /// Whether one record counts for more than another, or persons are told apart.
    fn weighs(&self) -> bool {
        !self.persons.is_empty() || !matches!(self.scoring, Scoring::First | Scoring::Last)
    }

    fn asks_for_keys_only(&self) -> bool {
        self.by.is_empty() && self.within.is_empty() && !self.weighs() && !self.compare_rules && !self.near
    }
}

fn verdict_of(alike: Alike, policy: &Policy, known: &mut ByAlike<Verdict>) -> Option<Verdict> {
    let place = known.place(alike, || alike.judged(policy).verdict)?;
    Some(*known.at(place))
}

pub(crate) struct Worker<'p> {
    asked: &'p Asked<'p>,
    picker: Picker<'p>,
    decoders: Vec<Box<dyn Decode>>,
    encoders: Vec<CsvEncoder>,
    source_names: Option<Vec<String>>,
    /// The records of a text as lines rather than as cells.
    lines: bool,
    written: Written,
    /// Nothing but the key and the verdict is asked of a record.
    keys_only: bool,
    /// The records of the chunk in hand are written as they stand.
    as_they_stand: bool,
    /// Records have a weight.
    weighs: bool,
    /// Addresses in fields that are not looked at are counted.
    counts_elsewhere: bool,
    verdicts: ByAlike<Verdict>,
    batch: Batch,
    key: Vec<u8>,
}

impl<'p> Worker<'p> {
    pub(crate) fn new(
        reading: &Reading,
        asked: &'p Asked<'p>,
        layout: &OutputLayout,
        lines: bool,
        written: Written,
    ) -> Self {
        let names = || reading.names();
        let keys_only = asked.asks_for_keys_only() && matches!(written, Written::Nothing | Written::Record);
        Worker {
            asked,
            picker: Picker::new(asked.plan, asked.policy, asked.hasher),
            decoders: reading.decoders(),
            encoders: layout.encoders.clone(),
            source_names: (reading.len() > 1 && !lines).then(names),
            lines,
            written,
            keys_only,
            as_they_stand: false,
            weighs: asked.weighs(),
            counts_elsewhere: asked.plan.looks_in_the_wrong_place(),
            verdicts: ByAlike::default(),
            batch: Batch::default(),
            key: Vec::new(),
        }
    }

    pub(crate) fn work(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        self.picker.faulty.clear();
        loop {
            if let Some(done) = caught(|| self.work_once(task, part)) {
                return done;
            }
            self.picker.forget_what_is_ahead();
            self.picker.faulty.note()?;
        }
    }

    fn work_once(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        part.bytes.clear();
        part.rows.clear();
        part.weights.clear();
        part.rules.clear();
        part.traits.clear();
        part.reachable.clear();
        part.reachable.resize(self.asked.plan.fields.len(), 0);
        (part.rejected, part.review, part.from_text) = (0, 0, 0);
        (part.unreadable, part.either_way) = (0, 0);
        let mut batch = std::mem::take(&mut self.batch);
        batch.clear();
        self.decoders[task.source].decode(&task.chunk, &mut batch)?;
        self.gather_ids(&batch, task, part);
        part.as_they_stand =
            self.lines && self.written == Written::Record && batch.is_as_written(&task.chunk);
        self.as_they_stand = part.as_they_stand;
        let (mut cells, mut candidates) = (Vec::new(), Vec::new());
        for index in 0..batch.len() {
            // Made anew each time: to copy one that was written a moment ago, a processor would have to wait.
            let record = || batch.record(&task.chunk, index);
            if !(self.keys_only && self.key_alone(record(), task.source, part)) {
                self.one(record(), task.source, &mut cells, &mut candidates, part);
            }
        }
        (part.lines, part.blank_lines) = (batch.lines, batch.blank_lines);
        part.formulas = if self.lines { 0 } else { batch.formulas };
        self.batch = batch;
        Ok(())
    }

    fn gather_ids(&self, batch: &Batch, task: &Task, part: &mut Part) {
        let (texts, ends) = &mut part.ids;
        texts.clear();
        ends.clear();
        let Some(id) = self.asked.plan.id else { return };
        for record in batch.records(&task.chunk) {
            texts.extend_from_slice(self.asked.plan.cell(record, task.source, id).unwrap_or_default());
            ends.push(texts.len());
        }
    }

    /// Tells the key of a record of which nothing else is asked, where its address is plain; tells whether it is.
    #[inline]
    fn key_alone(&mut self, record: Record<'_>, source: usize, part: &mut Part) -> bool {
        let asked = self.asked;
        let Some(plain) = self.picker.plain_address(record, source, asked.policy.same) else { return false };
        let Some(verdict) = verdict_of(plain.alike, asked.policy, &mut self.verdicts) else { return false };
        let bare = plain.alike.unwrapping().is_empty();
        let hash = if verdict.is_usable() {
            part.review += u64::from(verdict == Verdict::Review);
            usable(asked.hasher.hash(plain.key()))
        } else {
            part.rejected += 1;
            if self.counts_elsewhere {
                self.picker.count_elsewhere(record, source, &mut part.reachable);
            }
            let cell = asked.plan.cell(record, source, asked.plan.address[0]).unwrap_or_default();
            hash_of_text(cell, asked.hasher, &mut self.key)
        };
        let split = match self.as_it_stands(record) {
            Some(split) => split,
            None => self.write(None, bare, record, source, &mut part.bytes),
        };
        let (line, end) = (record.line_in_chunk() as u32, part.end_behind(split));
        part.rows.push(Row { hash, line, split, end });
        true
    }

    fn one<'c>(
        &mut self,
        record: Record<'c>,
        source: usize,
        cells: &mut Vec<Found<'c>>,
        candidates: &mut Candidates<'c>,
        part: &mut Part,
    ) {
        let asked = self.asked;
        let picked = self.picker.pick(record, source, cells, candidates);
        let hash = picked.as_ref().map_or(0, |picked| self.hash(picked, record, source, part));
        let score = asked.scoring.score(record, source, picked.as_ref(), asked.plan);
        let Score { score, unreadable, either_way } = score;
        if hash != 0 {
            part.unreadable += u64::from(unreadable);
            part.either_way += u64::from(either_way);
        }
        let person = if asked.persons.is_empty() || hash == 0 {
            0
        } else {
            asked.persons.hash(record, source, asked.plan, asked.hasher)
        };
        let is_text = hash & 1 == 1;
        let hash = match asked.texts_by_person && is_text && person != 0 {
            true => hash_with_person(hash, person) | 1,
            false => hash,
        };
        if asked.near
            && let Some(picked) = picked.as_ref().filter(|picked| picked.has_mailbox())
        {
            let text = self.picker.text(picked, candidates).to_vec();
            let traits = self.traits(picked, &text, person);
            part.traits.push(traits);
        }
        let split = match self.as_it_stands(record) {
            Some(split) => split,
            None => self.write(picked.as_ref(), false, record, source, &mut part.bytes),
        };
        let (line, end) = (record.line_in_chunk() as u32, part.end_behind(split));
        part.rows.push(Row { hash, line, split, end });
        if self.weighs {
            part.weights.push(Weight { score, person });
        }
        // Last, since the judge then holds another address.
        let is_faulty = self.picker.faulty.takes(record.index());
        if self.counts_elsewhere && !is_faulty && picked.is_none_or(|picked| !picked.verdict.is_usable()) {
            self.picker.count_elsewhere(record, source, &mut part.reachable);
        }
    }

    /// The hash of what duplicates have in common. Where no mailbox is told, cells are equal as text only.
    #[inline]
    fn hash(&mut self, picked: &Picked, record: Record<'_>, source: usize, part: &mut Part) -> u128 {
        let Asked { plan, policy, hasher, .. } = *self.asked;
        part.review += u64::from(picked.verdict == Verdict::Review);
        part.from_text += u64::from(picked.from_text && picked.verdict.is_usable());
        if picked.has_mailbox() {
            if self.asked.compare_rules {
                part.rules.push(self.hashes_by_rule());
            }
            if self.asked.by.is_empty() && self.asked.within.is_empty() {
                return usable(hasher.hash(self.picker.judge.key_in(policy.same, &mut self.key)));
            }
            self.key.clear();
            self.picker.judge.key(policy.same, &mut self.key);
        } else {
            part.rejected += u64::from(!picked.verdict.is_usable());
            let cell = plan.cell(record, source, picked.field).unwrap_or_default();
            if is_blank(cell) {
                return 0;
            }
            start_with_text(cell, &mut self.key);
        }
        for &field in &self.asked.by {
            self.key.push(0);
            let cell = plan.cell(record, source, field).unwrap_or_default();
            self.key.extend_from_slice(folded(cell).as_bytes());
        }
        for &field in &self.asked.within {
            self.key.push(1);
            self.key.extend_from_slice(plan.cell(record, source, field).unwrap_or_default().trim_ascii());
        }
        let hash = hasher.hash(&self.key);
        if picked.has_mailbox() { usable(hash) } else { hash | 1 }
    }

    fn traits(&mut self, picked: &Picked, as_found: &[u8], person: u64) -> Traits {
        let Asked { policy, hasher, .. } = *self.asked;
        let judge = &self.picker.judge;
        let mut key = Vec::new();
        judge.key(policy.same, &mut key);
        let at = memchr::memrchr(b'@', &key).unwrap_or(key.len());
        let operator = picked.judged.operator.name();
        let sibling = [operator.as_bytes(), b" ", &key[..at]].concat();
        let slip = picked.codes.contains(Code::TypingSlip);
        let meant = slip.then(|| ypogram_core::suggest(as_found, picked.codes, policy)).flatten();
        let meant = meant.and_then(|meant| {
            ypogram_core::examine(meant.address.as_bytes(), policy).key(policy.same, policy)
        });
        Traits {
            key: hasher.hash(&key) as u64,
            meant: meant.map(|meant| hasher.hash(meant.as_bytes()) as u64),
            sibling: (!operator.is_empty()).then(|| hasher.hash(&sibling) as u64),
            domain: judge.domain_hash(),
            person,
            local_part: CompactString::from_utf8_lossy(&key[..at]),
        }
    }

    fn hashes_by_rule(&mut self) -> [u64; 4] {
        SameMailbox::ALL.map(|rule| {
            let key = self.picker.judge.key_in(rule, &mut self.key);
            self.asked.hasher.hash(key) as u64
        })
    }

    /// The place for cells that depend on the others where the record is written as it stands, as most lines are.
    #[inline]
    fn as_it_stands(&self, record: Record<'_>) -> Option<u32> {
        self.as_they_stand.then(|| record.end_of_line_in_chunk() as u32)
    }

    /// Writes what is wanted of a record that is not written as it stands; gives the place for cells that depend on the others.
    /// `bare` tells that its first cell is known to need no quotes if it is its only one.
    fn write(
        &mut self,
        picked: Option<&Picked>,
        bare: bool,
        record: Record<'_>,
        source: usize,
        out: &mut Vec<u8>,
    ) -> u32 {
        match self.written {
            Written::Nothing => out.len() as u32,
            Written::Record if self.lines => {
                record.append_line(out);
                out.len() as u32
            }
            Written::Record | Written::RecordAndKey => {
                let encoder = &mut self.encoders[source];
                match bare {
                    true => encoder.own_plain(record, out),
                    false => encoder.own(record, out),
                }
                if self.written == Written::RecordAndKey {
                    self.key.clear();
                    if picked.is_some_and(Picked::has_mailbox) {
                        self.picker.judge.key(self.asked.policy.same, &mut self.key);
                    }
                    encoder.cell(&self.key, out);
                }
                if let Some(names) = &self.source_names {
                    encoder.cell(names[source].as_bytes(), out);
                }
                let split = out.len() as u32;
                encoder.end(record, out);
                split
            }
            Written::Cells => {
                let plan = self.asked.plan;
                let own =
                    (0..plan.fields.len()).map(|field| plan.cell(record, source, field).unwrap_or_default());
                let expected = plan.places[source].iter().flatten().count();
                for cell in own.chain(record.cells().skip(expected)) {
                    out.extend_from_slice(&(cell.len() as u32).to_le_bytes());
                    out.extend_from_slice(cell);
                }
                out.len() as u32
            }
            Written::Spelling => {
                if let Some(picked) = picked {
                    out.extend_from_slice(self.picker.judge.address());
                    out.push(0);
                    let id = self.asked.plan.id(record, source).unwrap_or_default();
                    out.extend_from_slice(id.replace('\0', " ").as_bytes());
                    out.push(0);
                    let cell = self.asked.plan.cell(record, source, picked.field);
                    out.extend_from_slice(cell.unwrap_or_default());
                }
                out.len() as u32
            }
        }
    }
}
