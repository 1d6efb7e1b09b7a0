//! What the threads of `dedupe` do with a chunk: find each record's key, score and person, and note what is wanted of it.

use compact_str::CompactString;
use ypogram_core::{Code, Found, Hasher, Policy, SameMailbox, SummaryKey, Verdict};
use ypogram_io::{Batch, Decode, Record, Result};

use crate::duplicates::survivor::{Score, Scoring};
use crate::engine::blank::is_blank;
use crate::engine::faults::until_done;
use crate::engine::packed_cells::pack;
use crate::engine::pipeline::Work;
use crate::engine::reading::{Reading, Task};
use crate::jobs::dedupe::near::Traits;
use crate::jobs::dedupe::output_writers::OutputWriters;
use crate::jobs::dedupe::part::{Part, Row, Weight, value};
use crate::judge::by_summary_key::BySummaryKey;
use crate::judge::select_address::{AddressSelector, Candidates, SelectedAddress};
use crate::plan::fields::FieldPlan;
use crate::plan::person::PersonFields;
use crate::plan::same_fields::SameFields;
use crate::plan::shared::hash_with_person;

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

/// What is noted of a record in a pass.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Noted {
    Nothing,
    /// Its key, for the output.
    Key,
    /// Its address in standard form and how it stood, a zero between them.
    Spelling,
    /// Its cells in the order of the plan, packed.
    Cells,
}

/// What makes records duplicates, and which of them stays.
#[derive(Debug)]
pub(crate) struct Asked<'p> {
    pub(crate) plan: &'p FieldPlan,
    pub(crate) policy: &'p Policy,
    pub(crate) hasher: Hasher,
    /// Fields that have to be equal as well.
    pub(crate) same: SameFields,
    pub(crate) scoring: Scoring,
    pub(crate) persons: PersonFields,
    /// Texts of rejected addresses are the same only where the person is.
    pub(crate) texts_by_person: bool,
    pub(crate) compare_rules: bool,
    /// The records of a text come out as lines rather than as cells.
    pub(crate) lines: bool,
    /// Probable twins are wanted.
    pub(crate) near: bool,
}

impl Asked<'_> {
    /// Whether one record counts for more than another, or persons are distinguished.
    fn weighs(&self) -> bool {
        !self.persons.is_empty() || !matches!(self.scoring, Scoring::First | Scoring::Last)
    }

    fn asks_for_keys_only(&self) -> bool {
        self.same.is_none() && !self.weighs() && !self.compare_rules && !self.near
    }
}

fn verdict_of(
    summary_key: SummaryKey,
    policy: &Policy,
    known: &mut BySummaryKey<Verdict>,
) -> Option<Verdict> {
    let place = known.place(summary_key, || summary_key.summary(policy).verdict)?;
    Some(*known.at(place))
}

pub(crate) struct Worker<'p> {
    asked: &'p Asked<'p>,
    picker: AddressSelector<'p>,
    decoders: Vec<Box<dyn Decode>>,
    /// Of a pass that writes.
    writers: Option<OutputWriters>,
    noted: Noted,
    /// Nothing but the key and the verdict is asked of a record.
    keys_only: bool,
    /// Records have a weight.
    weighs: bool,
    /// Addresses in fields that are not looked at are counted.
    counts_elsewhere: bool,
    verdicts: BySummaryKey<Verdict>,
    key: Vec<u8>,
}

impl<'p> Worker<'p> {
    pub(crate) fn new(
        reading: &Reading,
        asked: &'p Asked<'p>,
        noted: Noted,
        writers: Option<OutputWriters>,
    ) -> Self {
        Worker {
            asked,
            picker: AddressSelector::new(asked.plan, asked.policy, asked.hasher),
            decoders: reading.decoders(),
            writers,
            noted,
            keys_only: asked.asks_for_keys_only() && noted == Noted::Nothing,
            weighs: asked.weighs(),
            counts_elsewhere: asked.plan.looks_in_the_wrong_place(),
            verdicts: BySummaryKey::default(),
            key: Vec::new(),
        }
    }

    fn judge_once(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        part.clear(self.asked.plan.fields.len());
        part.with_keys = self.noted == Noted::Key;
        let mut batch = std::mem::take(&mut part.batch);
        self.decoders[task.source].decode(&task.chunk, &mut batch)?;
        self.gather_ids(&batch, task, part);
        let (mut cells, mut candidates) = (Vec::new(), Vec::new());
        for index in 0..batch.len() {
            // Made anew each time: to copy one that was written a moment ago, a processor would have to wait.
            let record = || batch.record(&task.chunk, index);
            if !(self.keys_only && self.key_alone(record(), part)) {
                self.one(record(), &mut cells, &mut candidates, part);
            }
        }
        (part.lines, part.blank_lines, part.formulas) = (batch.lines, batch.blank_lines, batch.formulas);
        if self.asked.lines {
            part.formulas = 0;
        }
        part.batch = batch;
        Ok(())
    }

    fn gather_ids(&self, batch: &Batch, task: &Task, part: &mut Part) {
        let plan = self.asked.plan;
        if !plan.has_id() {
            return;
        }
        for record in batch.records(&task.chunk) {
            part.ids.add(|out| plan.write_id(record, out));
        }
    }

    /// Tells the key of a record of which nothing else is asked, where its address is plain; tells whether it is.
    #[inline]
    fn key_alone(&mut self, record: Record<'_>, part: &mut Part) -> bool {
        let asked = self.asked;
        let Some(plain) = self.picker.plain_address(record, asked.policy.same) else { return false };
        let Some(verdict) = verdict_of(plain.summary_key, asked.policy, &mut self.verdicts) else {
            return false;
        };
        let is_simple = plain.summary_key.unwrapping().is_empty();
        let hash = if verdict.is_usable() {
            part.review += u64::from(verdict == Verdict::Review);
            usable(asked.hasher.hash(plain.key()))
        } else {
            part.rejected += 1;
            if self.counts_elsewhere {
                self.picker.count_elsewhere(record, &mut part.reachable);
            }
            let cell = asked.plan.cell(record, asked.plan.address[0]).unwrap_or_default();
            hash_of_text(cell, asked.hasher, &mut self.key)
        };
        part.rows.push(Row { hash, line: record.line_in_chunk() as u32, is_simple });
        true
    }

    fn one<'c>(
        &mut self,
        record: Record<'c>,
        cells: &mut Vec<Found<'c>>,
        candidates: &mut Candidates<'c>,
        part: &mut Part,
    ) {
        let asked = self.asked;
        let selected = self.picker.pick(record, cells, candidates);
        let hash = selected.as_ref().map_or(0, |selected| self.hash(selected, record, part));
        let score =
            asked.scoring.score(record, selected.as_ref().map(|selected| selected.verdict), asked.plan);
        let Score { score, unreadable, either_way } = score;
        if hash != 0 {
            part.unreadable += u64::from(unreadable);
            part.either_way += u64::from(either_way);
        }
        let person = if asked.persons.is_empty() || hash == 0 {
            0
        } else {
            asked.persons.hash(record, asked.plan, asked.hasher)
        };
        let is_text = hash & 1 == 1;
        let hash = match asked.texts_by_person && is_text && person != 0 {
            true => hash_with_person(hash, person) | 1,
            false => hash,
        };
        if asked.near
            && let Some(selected) = selected.as_ref().filter(|selected| selected.has_mailbox())
        {
            let text = self.picker.text(selected, candidates).to_vec();
            let traits = self.traits(selected, &text, person);
            part.traits.push(traits);
        }
        self.note(selected.as_ref(), record, part);
        part.rows.push(Row { hash, line: record.line_in_chunk() as u32, is_simple: false });
        if self.weighs {
            part.weights.push(Weight { score, person });
        }
        // Last, since the judge then holds another address.
        let is_faulty = self.picker.faulty.takes(record.index());
        if self.counts_elsewhere
            && !is_faulty
            && selected.is_none_or(|selected| !selected.verdict.is_usable())
        {
            self.picker.count_elsewhere(record, &mut part.reachable);
        }
    }

    /// The hash of what duplicates have in common. Where no mailbox is reported, cells are equal as text only.
    #[inline]
    fn hash(&mut self, selected: &SelectedAddress, record: Record<'_>, part: &mut Part) -> u128 {
        let Asked { plan, policy, hasher, .. } = *self.asked;
        part.review += u64::from(selected.verdict == Verdict::Review);
        part.from_text += u64::from(selected.from_text && selected.verdict.is_usable());
        if selected.has_mailbox() {
            if self.asked.compare_rules {
                part.rules.push(self.hashes_by_rule());
            }
            if self.asked.same.is_none() {
                return usable(hasher.hash(self.picker.judge.key_in(policy.same, &mut self.key)));
            }
            self.key.clear();
            self.picker.judge.key(policy.same, &mut self.key);
        } else {
            part.rejected += u64::from(!selected.verdict.is_usable());
            let cell = plan.cell(record, selected.field).unwrap_or_default();
            if is_blank(cell) {
                return 0;
            }
            start_with_text(cell, &mut self.key);
        }
        self.asked.same.append(record, plan, &mut self.key);
        let hash = hasher.hash(&self.key);
        if selected.has_mailbox() { usable(hash) } else { hash | 1 }
    }

    fn traits(&mut self, selected: &SelectedAddress, as_found: &[u8], person: u64) -> Traits {
        let Asked { policy, hasher, .. } = *self.asked;
        let judge = &self.picker.judge;
        let mut key = Vec::new();
        judge.key(policy.same, &mut key);
        let at = memchr::memrchr(b'@', &key).unwrap_or(key.len());
        let operator = selected.judged.operator.name();
        let sibling = [operator.as_bytes(), b" ", &key[..at]].concat();
        let slip = selected.codes.contains(Code::TypingSlip);
        let meant = slip.then(|| ypogram_core::suggest(as_found, selected.codes, policy)).flatten();
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

    /// Notes what is wanted of a record whose address the judge holds.
    fn note(&mut self, selected: Option<&SelectedAddress>, record: Record<'_>, part: &mut Part) {
        let plan = self.asked.plan;
        match self.noted {
            Noted::Nothing => {}
            Noted::Key => {
                let row = part.values.add_row();
                self.key.clear();
                if selected.is_some_and(SelectedAddress::has_mailbox) {
                    self.picker.judge.key(self.asked.policy.same, &mut self.key);
                }
                let place = part.values.append(&self.key);
                part.values.set(row, value::KEY, place);
            }
            Noted::Cells => part.notes.add(|out| {
                for field in 0..plan.fields.len() {
                    pack(plan.cell(record, field).unwrap_or_default(), out);
                }
            }),
            Noted::Spelling => part.notes.add(|out| {
                if let Some(selected) = selected {
                    out.extend_from_slice(self.picker.judge.address());
                    out.push(0);
                    let id = plan.id(record).unwrap_or_default();
                    out.extend_from_slice(id.replace('\0', " ").as_bytes());
                    out.push(0);
                    out.extend_from_slice(plan.cell(record, selected.field).unwrap_or_default());
                }
            }),
        }
    }
}

impl Work<Task, Part> for Worker<'_> {
    fn judge(&mut self, task: &mut Task, part: &mut Part) -> Result<()> {
        self.picker.faulty.clear();
        until_done(self, |worker| worker.judge_once(task, part), |worker| worker.picker.start_again())
    }

    fn encode(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        if let Some(writers) = &mut self.writers {
            writers.encode(task, part);
        }
        Ok(())
    }
}
