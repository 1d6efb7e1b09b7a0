//! What `dedupe` reports.

use std::collections::{BTreeMap, HashSet};

use serde::Serialize;
use ypogram_io::some_of;

use crate::duplicates::decisions::{End, GroupCounts};
use crate::engine::distinct::DistinctCount;
use crate::engine::reading::{Reading, SourceReport};
use crate::jobs::dedupe::DedupeOptions;
use crate::jobs::dedupe::near::Twins;
use crate::jobs::dedupe::part::Part;
use crate::jobs::dedupe::worker::Asked;
use crate::judge::tally::by_verdict;
use crate::plan::fields::{FieldPlan, HowChosen};
use crate::plan::read_columns::ReadColumns;
use crate::plan::shared::Shared;

/// What `dedupe` reports. Records unless said otherwise.
#[derive(Clone, Debug)]
pub struct DedupeReport {
    /// What was read.
    pub sources: Vec<SourceReport>,
    pub(crate) fields: Vec<String>,
    /// Where addresses were looked for.
    pub columns: ReadColumns,
    /// How the address fields were chosen.
    pub how: HowChosen,
    /// The rule for the same mailbox.
    pub rule: &'static str,
    /// Records read: kept, dropped, and set apart for want of an address where that was asked for.
    pub records: u64,
    /// Lines without anything in them.
    pub blank_lines: u64,
    /// Cells that a spreadsheet would take for formulas.
    pub formula_cells: u64,
    /// Records without an address.
    pub no_address: u64,
    /// Records with an address that stay, or would; known at the end.
    pub kept: u64,
    /// Records whose address is rejected; they are duplicates only where their text is the same, and the person.
    pub rejected: u64,
    /// Records whose address is for review.
    pub review: u64,
    /// Usable records whose address comes from a text field.
    pub usable_from_text: u64,
    /// Distinct mailboxes of usable addresses.
    pub mailboxes: u64,
    /// Distinct texts of rejected ones.
    pub rejected_texts: u64,
    /// Mailboxes that several records have; none where one pass was enough.
    pub groups: Option<u64>,
    /// The records in these.
    pub in_groups: Option<u64>,
    /// Records that are dropped, or would be.
    pub dropped: u64,
    /// Records that somebody has to look at, or would have to, as another person's record has their mailbox.
    pub for_review: u64,
    /// Records whose person is another than that of the preferred record of their mailbox.
    pub shared: u64,
    /// Those of them that stay as well, one for each person.
    pub shared_kept: u64,
    /// Cells that should hold a date or a number and do not.
    pub unreadable: u64,
    /// Dates whose day and month could be the other way round; the day was taken to come first.
    pub either_way: u64,
    /// Cells that were filled by merging.
    pub filled: u64,
    /// The rules side by side, where the groups are shown.
    pub rules: Vec<RuleFigures>,
    /// The largest groups.
    pub largest: Vec<Group>,
    /// Probable twins, where these are wanted.
    pub twins: Vec<Twins>,
    /// Records without a usable address for which a field has one that was not looked at, by field.
    pub reachable: BTreeMap<String, u64>,
    /// What else is to be known.
    pub notes: Vec<String>,
}

/// What one rule sees.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct RuleFigures {
    /// Its name.
    pub rule: String,
    /// Distinct mailboxes of usable addresses.
    pub mailboxes: DistinctCount,
    /// Records beyond the first of each.
    pub duplicates: u64,
}

/// Records of one mailbox.
#[derive(Clone, Debug, Serialize)]
pub struct Group {
    /// How many there are.
    pub count: u64,
    /// The record that stays.
    pub survivor: u64,
    /// The first of them, the one that stays in front.
    pub members: Vec<GroupMember>,
}

/// A record of a group.
#[derive(Clone, Debug, Serialize)]
pub struct GroupMember {
    /// Its number, from 1.
    pub record: u64,
    /// Its source, by place in the list of sources.
    pub source: usize,
    /// The line it starts at, from 1.
    pub line: u64,
    /// What it says in the field that distinguishes records; empty where none was named.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub id: String,
    /// The address in standard form; empty where it is rejected.
    pub address: String,
    /// How it stood.
    pub as_found: String,
    #[serde(skip)]
    pub(crate) rank: u32,
    /// Its person is another than the survivor's.
    pub other_person: bool,
}

impl Group {
    pub(crate) fn of(count: u64, survivor: u64) -> Self {
        Group { count, survivor, members: Vec::new() }
    }
}

impl DedupeReport {
    pub(super) fn new(
        options: &DedupeOptions,
        plan: &FieldPlan,
        reading: &Reading,
        asked: &Asked<'_>,
    ) -> Self {
        DedupeReport {
            sources: Vec::new(),
            columns: ReadColumns { person: asked.persons.names(plan), ..ReadColumns::of(plan) },
            how: plan.how.clone(),
            rule: options.policy.same.word(),
            records: 0,
            blank_lines: reading.blank_lines_before(),
            formula_cells: 0,
            no_address: 0,
            kept: 0,
            rejected: 0,
            review: 0,
            usable_from_text: 0,
            mailboxes: 0,
            rejected_texts: 0,
            groups: None,
            in_groups: None,
            dropped: 0,
            for_review: 0,
            shared: 0,
            shared_kept: 0,
            unreadable: 0,
            either_way: 0,
            filled: 0,
            rules: Vec::new(),
            largest: Vec::new(),
            twins: Vec::new(),
            reachable: plan.fields.iter().map(|field| (field.clone(), 0)).collect(),
            fields: plan.fields.clone(),
            notes: notes(options, plan, reading).into_iter().chain(asked.scoring.notes(plan)).collect(),
        }
    }

    pub(super) fn count(&mut self, part: &Part) {
        self.blank_lines += part.blank_lines;
        self.formula_cells += part.formulas;
        self.rejected += part.rejected;
        self.review += part.review;
        self.usable_from_text += part.from_text;
        self.unreadable += part.unreadable;
        self.either_way += part.either_way;
        for (field, count) in self.fields.iter().zip(&part.reachable) {
            *self.reachable.entry(field.clone()).or_default() += count;
        }
    }

    pub(super) fn take_groups(&mut self, counts: &GroupCounts, shared: Shared) {
        (self.mailboxes, self.rejected_texts) = (counts.distinct, counts.texts);
        (self.groups, self.in_groups) = (Some(counts.groups), Some(counts.in_groups));
        self.shared = counts.shared;
        match shared {
            Shared::Review => self.for_review = counts.told_apart,
            Shared::Keep => self.shared_kept = counts.told_apart,
            Shared::Drop => {}
        }
        self.dropped = counts.in_groups - counts.groups - self.for_review - self.shared_kept;
    }

    /// Counts what becomes of a record.
    pub(super) fn count_end(&mut self, end: End) {
        match end {
            End::Stays => {}
            End::Dropped(_) => self.dropped += 1,
            End::Review(_) => self.for_review += 1,
        }
    }

    /// Counts what stays, once all else is counted.
    pub(super) fn settle(mut self) -> Self {
        self.reachable.retain(|_, count| *count > 0);
        self.kept = self.mailboxes + self.rejected_texts + self.shared_kept;
        self
    }

    /// The counts under their names.
    pub fn summed(&self) -> DedupeSummed {
        let usable = self.records - self.no_address - self.rejected;
        DedupeSummed {
            records: self.records,
            blank_lines: self.blank_lines,
            formula_cells: self.formula_cells,
            no_address: self.no_address,
            outcomes: BTreeMap::from([
                ("kept", self.kept),
                ("review", self.for_review),
                ("duplicate", self.dropped),
                ("no-address", self.no_address),
            ]),
            verdicts: by_verdict(&[usable - self.review, self.review, self.rejected]),
            usable: DedupeUsable { from_text: self.usable_from_text, total: usable },
            mailboxes: self.mailboxes,
            rejected_texts: self.rejected_texts,
            groups: self.groups,
            in_groups: self.in_groups,
            shared_mailbox: self.shared,
            shared_kept: self.shared_kept,
            unreadable: self.unreadable,
            either_way: self.either_way,
            merged_cells: self.filled,
            reachable: self.reachable.clone(),
        }
    }
}

/// The counts under their names, as `--json` gives them.
#[derive(Clone, Debug, Serialize)]
pub struct DedupeSummed {
    records: u64,
    blank_lines: u64,
    formula_cells: u64,
    no_address: u64,
    outcomes: BTreeMap<&'static str, u64>,
    verdicts: BTreeMap<&'static str, u64>,
    usable: DedupeUsable,
    mailboxes: u64,
    rejected_texts: u64,
    groups: Option<u64>,
    in_groups: Option<u64>,
    shared_mailbox: u64,
    shared_kept: u64,
    unreadable: u64,
    either_way: u64,
    merged_cells: u64,
    reachable: BTreeMap<String, u64>,
}

#[derive(Clone, Copy, Debug, Serialize)]
struct DedupeUsable {
    from_text: u64,
    total: u64,
}

/// A file that is given twice, and fields that not all sources have.
fn notes(options: &DedupeOptions, plan: &FieldPlan, reading: &Reading) -> Vec<String> {
    let mut notes = Vec::new();
    let mut seen = HashSet::new();
    for path in &options.sources {
        if !seen.insert(path.canonicalize().unwrap_or_else(|_| path.clone())) {
            notes.push(format!(
                "{} is given twice: all its records are duplicates of themselves",
                path.display()
            ));
        }
    }
    for (source, schema) in reading.schemas().enumerate() {
        let there = schema.places();
        let missing: Vec<&String> =
            plan.fields.iter().filter(|field| !there.contains_key(field.as_str())).collect();
        if !missing.is_empty() && reading.len() > 1 {
            notes.push(format!(
                "{} has no field {}; its cells are left empty",
                reading.name(source),
                some_of(&missing)
            ));
        }
    }
    notes
}
