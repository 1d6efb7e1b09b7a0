//! What is gathered in one pass over a source. Sums, sets and samples only, so that it comes out the same however the records
//! were divided among threads.

use std::collections::HashMap;

use compact_str::CompactString;
use ypogram_core::{CellKind, Class, Code, Form, Repair};

use crate::engine::hash_sample::HashSample;
use crate::jobs::survey::values::Values;

/// What was gathered.
#[derive(Debug)]
pub(crate) struct Gathered {
    pub(crate) records: u64,
    pub(crate) fields: Vec<FieldCounts>,
    /// Records by the form of their address, and by what becomes of it.
    pub(crate) forms: Vec<[u64; 3]>,
    /// Usable from an address field, as it stood and after repair, and usable from a text field.
    pub(crate) as_it_stood: u64,
    pub(crate) after_repair: u64,
    pub(crate) from_text: u64,
    pub(crate) verdicts: [u64; 3],
    pub(crate) findings: Vec<Noted>,
    pub(crate) repairs: Vec<u64>,
    pub(crate) classes: Vec<u64>,
    /// Usable records by operator.
    pub(crate) operators: HashMap<&'static str, u64>,
    pub(crate) domains: Values,
    pub(crate) shapes: HashSample<Shape>,
    pub(crate) local_parts: HashSample<LocalPart>,
    /// Records without a usable address: for each set of other fields that would give one, how many.
    pub(crate) elsewhere: HashMap<u128, u64>,
    /// Records without a usable address that hold an @ somewhere.
    pub(crate) at_sign_left: u64,
    /// Records that break what is asked of fields, by place among that.
    pub(crate) field_faults: Vec<u64>,
}

/// What becomes of an address: the places in [`Gathered::forms`].
pub(crate) const AS_IT_STOOD: usize = 0;
pub(crate) const AFTER_REPAIR: usize = 1;
pub(crate) const NOT_USABLE: usize = 2;

/// Counts of one field.
#[derive(Debug)]
pub(crate) struct FieldCounts {
    pub(crate) filled: u64,
    /// Of a field that was not looked at the cells that are an address, in whatever form.
    pub(crate) whole_addresses: u64,
    /// Characters of the shortest and the longest filled cell.
    pub(crate) shortest: u64,
    pub(crate) longest: u64,
    /// Bytes of the cell with the most.
    pub(crate) most_bytes: u64,
    pub(crate) kinds: [u64; CellKind::ALL.len()],
    /// Cells that each pattern fits.
    pub(crate) patterns: Vec<u64>,
    pub(crate) values: Values,
}

/// A count with the first cell that shows what it is about.
#[derive(Clone, Debug, Default)]
pub(crate) struct Noted {
    pub(crate) count: u64,
    /// Place and text.
    pub(crate) example: Option<(u64, String)>,
}

/// A shape of the cells in the address fields.
#[derive(Clone, Debug)]
pub(crate) struct Shape {
    pub(crate) shape: String,
    pub(crate) noted: Noted,
}

/// A local part at one domain.
#[derive(Clone, Debug)]
pub(crate) struct LocalPart {
    pub(crate) hash: u64,
    pub(crate) text: CompactString,
}

/// Up to this many shapes are counted separately.
const SHAPES: usize = 1 << 15;

/// Up to this many pairs of local part and domain are all held.
const PAIRS: usize = 1 << 17;

/// As many sets of fields are counted separately; more are taken for their first field alone.
const SETS: usize = 1 << 16;

impl Gathered {
    pub(crate) fn new(fields: usize, patterns: usize, field_checks: usize) -> Self {
        let field = |_| FieldCounts { patterns: vec![0; patterns], ..FieldCounts::default() };
        Gathered {
            records: 0,
            fields: (0..fields).map(field).collect(),
            forms: vec![[0; 3]; Form::ALL.len()],
            as_it_stood: 0,
            after_repair: 0,
            from_text: 0,
            verdicts: [0; 3],
            findings: vec![Noted::default(); Code::COUNT],
            repairs: vec![0; Repair::ALL.len()],
            classes: vec![0; Class::COUNT],
            operators: HashMap::new(),
            domains: Values::default(),
            shapes: HashSample::new(SHAPES),
            local_parts: HashSample::new(PAIRS),
            elsewhere: HashMap::new(),
            at_sign_left: 0,
            field_faults: vec![0; field_checks],
        }
    }

    /// Counts a record without a usable address, for which the fields of `set` have one.
    pub(crate) fn count_elsewhere(&mut self, set: u128, records: u64) {
        let is_full = self.elsewhere.len() >= SETS && !self.elsewhere.contains_key(&set);
        let set = if is_full { set & set.wrapping_neg() } else { set };
        *self.elsewhere.entry(set).or_default() += records;
    }

    /// Adds what another thread gathered.
    pub(crate) fn merge(&mut self, other: Gathered) {
        self.records += other.records;
        for (field, more) in self.fields.iter_mut().zip(other.fields) {
            field.merge(more);
        }
        for (form, more) in self.forms.iter_mut().zip(&other.forms) {
            add_each(form, more);
        }
        self.as_it_stood += other.as_it_stood;
        self.after_repair += other.after_repair;
        self.from_text += other.from_text;
        add_each(&mut self.verdicts, &other.verdicts);
        for (noted, more) in self.findings.iter_mut().zip(other.findings) {
            noted.merge(more);
        }
        add_each(&mut self.repairs, &other.repairs);
        add_each(&mut self.classes, &other.classes);
        for (operator, count) in other.operators {
            *self.operators.entry(operator).or_default() += count;
        }
        self.domains.merge(other.domains);
        self.shapes.merge(other.shapes, |shape, more| shape.noted.merge(more.noted));
        self.shapes.thin();
        self.local_parts.merge(other.local_parts, |_, _| ());
        self.local_parts.thin();
        for (set, records) in other.elsewhere {
            self.count_elsewhere(set, records);
        }
        self.at_sign_left += other.at_sign_left;
        add_each(&mut self.field_faults, &other.field_faults);
    }
}

fn add_each(sums: &mut [u64], more: &[u64]) {
    sums.iter_mut().zip(more).for_each(|(sum, more)| *sum += more);
}

impl Default for FieldCounts {
    fn default() -> Self {
        FieldCounts {
            filled: 0,
            whole_addresses: 0,
            shortest: u64::MAX,
            longest: 0,
            most_bytes: 0,
            kinds: [0; CellKind::ALL.len()],
            patterns: Vec::new(),
            values: Values::default(),
        }
    }
}

impl FieldCounts {
    /// Whether most cells are an address, in whatever form: one that could be given with `--field`.
    pub(crate) fn is_mostly_addresses(&self) -> bool {
        self.whole_addresses * 2 > self.filled
    }

    fn merge(&mut self, other: FieldCounts) {
        self.filled += other.filled;
        self.whole_addresses += other.whole_addresses;
        self.shortest = self.shortest.min(other.shortest);
        self.longest = self.longest.max(other.longest);
        self.most_bytes = self.most_bytes.max(other.most_bytes);
        add_each(&mut self.kinds, &other.kinds);
        add_each(&mut self.patterns, &other.patterns);
        self.values.merge(other.values);
    }
}

impl Noted {
    /// Counts one more, at `place`.
    pub(crate) fn note(&mut self, place: u64, text: impl FnOnce() -> String) {
        self.count += 1;
        if self.example.as_ref().is_none_or(|(first, _)| place < *first) {
            self.example = Some((place, text()));
        }
    }

    fn merge(&mut self, other: Noted) {
        self.count += other.count;
        if let Some((place, _)) = &other.example
            && self.example.as_ref().is_none_or(|(first, _)| place < first)
        {
            self.example = other.example;
        }
    }
}
