//! What the threads of `survey` do with a chunk: look at every cell and count.

use compact_str::CompactString;
use ypogram_core::{CellKind, Found, Hasher, Judge, Span, Verdict, shape};
use ypogram_io::{Batch, Decode, Record, Result};

use crate::engine::blank::is_blank;
use crate::engine::faults::caught;
use crate::engine::header_cells::holds_whole_cell_address;
use crate::engine::reading::{Reading, Task};
use crate::engine::shortened::shortened;
use crate::jobs::survey::gathered::{
    AFTER_REPAIR, AS_IT_STOOD, Gathered, LocalPart, NOT_USABLE, Noted, Shape,
};
use crate::jobs::survey::options::SurveyOptions;
use crate::judge::cell_addresses::CellAddresses;
use crate::judge::checked_fields::CheckedFields;
use crate::judge::conditions::{Candidate, Sieve};
use crate::judge::select_address::{AddressSelector, Candidates, SelectedAddress};
use crate::plan::fields::FieldPlan;
use crate::plan::house_pattern::HousePattern;

/// What of a chunk depends on the chunks before.
#[derive(Default)]
pub(crate) struct Part {
    /// Hashes of the keys of usable addresses.
    pub(crate) keys: Vec<u64>,
    pub(crate) lines: u64,
    pub(crate) blank_lines: u64,
}

/// Counts what is in chunk after chunk. One for each thread.
pub(crate) struct Worker<'p> {
    picker: AddressSelector<'p>,
    /// Judges the addresses of single cells, so that the picker's judge stays with the record's.
    judge: Judge<'p>,
    sieve: Option<Sieve<'p>>,
    hasher: Hasher,
    decoders: Vec<Box<dyn Decode>>,
    fine: bool,
    patterns: &'p [HousePattern],
    fields: &'p CheckedFields,
    /// Records before the chunk in hand, where what is asked of fields depends on that.
    chunk_begins_at: u64,
    /// What the fields of the record in hand break.
    broken: Vec<usize>,
    batch: Batch,
    key: Vec<u8>,
    shape: String,
    addresses: CellAddresses,
    /// Other fields of the present record that hold a usable address.
    others: u128,
    gathered: &'p mut Gathered,
}

/// What is known of the record whose cells are counted.
struct Present<'r, 'c> {
    place: u64,
    selected: Option<&'r SelectedAddress>,
    candidates: &'r Candidates<'c>,
    usable: bool,
}

impl<'p> Worker<'p> {
    /// # Errors
    /// Where a condition is about a field that does not exist.
    pub(crate) fn new(
        reading: &Reading,
        plan: &'p FieldPlan,
        options: &'p SurveyOptions,
        fields: &'p CheckedFields,
        gathered: &'p mut Gathered,
    ) -> Result<Self> {
        let (policy, only, fine) = (&options.policy, options.only.as_ref(), options.fine);
        // Nothing depends on the hashes but estimates, which are to be the same in every run.
        let hasher = Hasher::with_key(0);
        let judge = || Judge::new(policy, hasher);
        Ok(Worker {
            picker: AddressSelector::new(plan, policy, hasher),
            judge: judge(),
            sieve: only.map(|only| only.sieve(plan, judge())).transpose()?,
            hasher,
            decoders: reading.decoders(),
            fine,
            patterns: &options.patterns,
            fields,
            chunk_begins_at: 0,
            broken: Vec::new(),
            batch: Batch::default(),
            key: Vec::new(),
            shape: String::new(),
            addresses: CellAddresses::default(),
            others: 0,
            gathered,
        })
    }

    pub(crate) fn work(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        part.keys.clear();
        self.picker.faulty.clear();
        self.chunk_begins_at = self.fields.records_before(task);
        let mut batch = std::mem::take(&mut self.batch);
        batch.clear();
        self.decoders[task.source].decode(&task.chunk, &mut batch)?;
        let (mut cells, mut candidates) = (Vec::new(), Vec::new());
        // Those that are counted, each with the number drawn for it.
        let mut counted = Vec::new();
        for record in batch.records(&task.chunk) {
            // The same for a record in every run, and in the order of the input.
            let place = (task.source as u64) << 48 | (task.chunk.offset + record.start_in_chunk());
            let drawn = self.hasher.hash(&place.to_le_bytes()) as u64;
            if self.one(record, place, &mut cells, &mut candidates, part) {
                counted.push((record, drawn));
            }
        }
        self.count_values(&counted);
        (part.lines, part.blank_lines) = (batch.lines, batch.blank_lines);
        self.batch = batch;
        Ok(())
    }

    /// Counts a record, but for the values of its fields; tells whether it counts, or conditions leave it out.
    fn one<'c>(
        &mut self,
        record: Record<'c>,
        place: u64,
        cells: &mut Vec<Found<'c>>,
        candidates: &mut Candidates<'c>,
        part: &mut Part,
    ) -> bool {
        let mut selected = self.picker.pick_caught(record, cells, candidates);
        let (plan, judge) = (self.picker.plan(), &self.picker.judge);
        self.fields.look(record, self.chunk_begins_at, plan, judge, &mut self.broken);
        if let Some(selected) = &mut selected {
            self.fields.faults(&self.broken).add_to(selected, self.picker.judge.policy());
        }
        if let Some(sieve) = &mut self.sieve {
            let (selected, judge) = (selected.as_ref(), &self.picker.judge);
            let faults = self.fields.faults(&self.broken);
            if !sieve.lets_through(Candidate { record, selected, judge, faults }) {
                return false;
            }
        }
        for &check in &self.broken {
            self.gathered.field_faults[check] += 1;
        }
        self.gathered.records += 1;
        let usable = selected.is_some_and(|selected| selected.verdict.is_usable());
        if let Some(selected) = &selected {
            self.count_address(selected, record, place, part);
        }
        let present = Present { place, selected: selected.as_ref(), candidates, usable };
        self.others = 0;
        for field in 0..self.picker.plan().fields.len() {
            if let Some(cell) = self.picker.plan().cell(record, field) {
                self.count_cell(cell, field, &present);
            } else {
                self.gathered.fields[field].kinds[CellKind::Empty as usize] += 1;
            }
        }
        if !usable {
            self.gathered.count_elsewhere(self.others, 1);
            let left = record.cells().any(|cell| cell.contains(&b'@'));
            self.gathered.at_sign_left += u64::from(left);
        }
        true
    }

    /// Counts the values of the records, field by field: the table of one is then near, and waiting for a value does not wait for
    /// the others.
    fn count_values(&mut self, records: &[(Record<'_>, u64)]) {
        let plan = self.picker.plan();
        for (field, counts) in self.gathered.fields.iter_mut().enumerate() {
            for &(record, drawn) in records {
                let cell = plan.cell(record, field).unwrap_or_default();
                if !is_blank(cell) {
                    counts.values.add(self.hasher.hash(cell) as u64, cell, drawn);
                }
            }
        }
    }

    fn count_address(&mut self, selected: &SelectedAddress, record: Record<'_>, place: u64, part: &mut Part) {
        let gathered = &mut *self.gathered;
        gathered.verdicts[selected.verdict as usize] += 1;
        for code in selected.codes.iter() {
            let cell = || self.picker.plan().cell(record, selected.field).unwrap_or_default();
            gathered.findings[code.index()].note(place, || shortened(cell()));
        }
        let usable = selected.verdict != Verdict::Reject;
        let becomes = match (usable, selected.repairs.is_empty()) {
            (false, _) => NOT_USABLE,
            (true, true) => AS_IT_STOOD,
            (true, false) => AFTER_REPAIR,
        };
        gathered.forms[selected.form as usize][becomes] += 1;
        if !usable {
            return;
        }
        match (selected.from_text, becomes) {
            (true, _) => gathered.from_text += 1,
            (false, AS_IT_STOOD) => gathered.as_it_stood += 1,
            (false, _) => gathered.after_repair += 1,
        }
        for repair in selected.repairs.iter() {
            gathered.repairs[repair as usize] += 1;
        }
        if let Some(class) = selected.judged.class {
            gathered.classes[class.index()] += 1;
        }
        if !selected.judged.operator.name().is_empty() {
            *gathered.operators.entry(selected.judged.operator.name()).or_default() += 1;
        }
        if !selected.has_mailbox() {
            return;
        }
        let judge = &self.picker.judge;
        let domain_hash = judge.domain_hash();
        let drawn = self.hasher.hash(&place.to_be_bytes()) as u64;
        gathered.domains.add(domain_hash, judge.domain(), drawn);
        let key = judge.key_in(judge.policy().same, &mut self.key);
        part.keys.push(self.hasher.hash(key) as u64);
        let hash = self.hasher.hash(judge.local_part()) as u64;
        // Sampled by domain, so that a local part is held with its due share of the domains it is at.
        let pair = domain_hash & !0xFFFF_FFFF | (hash ^ domain_hash) & 0xFFFF_FFFF;
        gathered
            .local_parts
            .value(pair, || LocalPart { hash, text: CompactString::from_utf8_lossy(judge.local_part()) });
        gathered.local_parts.thin();
    }

    /// Looks for addresses in `cell`; a panic leaves none.
    fn look_caught(&mut self, cell: &[u8], of_address_field: bool) {
        let Worker { addresses, judge, .. } = self;
        if caught(|| addresses.look(cell, of_address_field, judge)).is_none() {
            addresses.clear();
        }
    }

    fn count_cell(&mut self, cell: &[u8], field: usize, of: &Present<'_, '_>) {
        let plan = self.picker.plan();
        let of_address_field = plan.address.contains(&field);
        let looked_at = of_address_field || plan.text.contains(&field);
        let plain = of_address_field && is_plain_address(cell, field, of.selected, of.candidates);
        if plain {
            self.addresses.clear();
            self.addresses.spans.push(Span::new(0, cell.len()));
        } else {
            self.look_caught(cell, of_address_field);
        }
        if !of.usable && !looked_at && self.addresses.usable && field < 128 {
            self.others |= 1 << field;
        }
        let policy = self.judge.policy();
        let is_whole = !looked_at && self.addresses.usable && holds_whole_cell_address(cell, policy);
        let counts = &mut self.gathered.fields[field];
        counts.whole_addresses += u64::from(is_whole);
        let kind = CellKind::of(cell, self.addresses.spans.len());
        counts.kinds[kind as usize] += 1;
        if kind != CellKind::Empty {
            counts.filled += 1;
            let bytes = cell.len() as u64;
            let characters =
                if cell.is_ascii() { bytes } else { String::from_utf8_lossy(cell).chars().count() as u64 };
            counts.shortest = counts.shortest.min(characters);
            counts.longest = counts.longest.max(characters);
            counts.most_bytes = counts.most_bytes.max(bytes);
        }
        if kind != CellKind::Empty && !self.patterns.is_empty() {
            self.count_patterns(cell, field, of);
        }
        if of_address_field {
            self.count_shape(cell, plain, of.place);
        }
    }

    /// Counts the patterns that a cell fits.
    #[cold]
    fn count_patterns(&mut self, cell: &[u8], field: usize, of: &Present<'_, '_>) {
        let address = of.selected.filter(|selected| selected.field == field);
        let standard_form = match address.is_some_and(|selected| selected.judged.has_standard_form) {
            true => self.picker.judge.address(),
            false => cell,
        };
        let counts = &mut self.gathered.fields[field].patterns;
        for (count, pattern) in counts.iter_mut().zip(self.patterns) {
            *count += u64::from(pattern.fits(cell, standard_form));
        }
    }

    fn count_shape(&mut self, cell: &[u8], plain: bool, place: u64) {
        self.shape.clear();
        if plain && !self.fine {
            self.shape.push_str(shape::ADDRESS);
        } else {
            shape::write(cell, &self.addresses.spans, self.fine, &mut self.shape);
        }
        let (shapes, text) = (&mut self.gathered.shapes, &self.shape);
        let hash = self.hasher.hash(text.as_bytes()) as u64;
        let new = || Shape { shape: text.clone(), noted: Noted::default() };
        if let Some(shape) = shapes.value(hash, new) {
            shape.noted.note(place, || shortened(cell));
        }
        shapes.thin();
    }
}

/// Whether the cell is the record's address and nothing else, as most are; it was judged already.
fn is_plain_address(
    cell: &[u8],
    field: usize,
    selected: Option<&SelectedAddress>,
    candidates: &Candidates<'_>,
) -> bool {
    selected.is_some_and(|selected| {
        if selected.plain {
            return selected.field == field && !selected.wrapped;
        }
        let whole = candidates.len() == 1 && candidates[0].found.as_found.len() == cell.len();
        selected.field == field
            && selected.judged.has_standard_form
            && whole
            && candidates[0].found.text.len() == cell.len()
    })
}
