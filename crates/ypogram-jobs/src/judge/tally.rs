//! Counts of what was found, gathered by the workers and added up in the order of the input.

use std::collections::BTreeMap;
use std::mem::take;

use serde::Serialize;
use ypogram_core::house_format::HousePart;
use ypogram_core::names::NameConfidence;
use ypogram_core::providers::Certainty;
use ypogram_core::{Class, Code, CodeSet, Form, Policy, Repair, Verdict};

use crate::judge::house_clashes::HouseClash;
use crate::judge::select_address::SelectedAddress;
use crate::judge::selection::Selection;
use crate::plan::outcome::Outcome;

/// A place to look at: the first record of its kind.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Example {
    /// The source it stands in, by place in the list of sources.
    pub source: usize,
    /// The line its record starts at, from 1.
    pub line: u64,
    /// What the field says that distinguishes records, where one was named.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub id: Option<String>,
    /// The cell, shortened, with control characters shown.
    pub text: String,
}

/// How many records a list that adds columns had an entry for.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Lookup {
    /// The list's name.
    pub list: String,
    /// Records with something to look up.
    pub looked_up: u64,
    /// Those of them that it has an entry for.
    pub matched: u64,
}

/// Counts of what was found. Records unless said otherwise.
#[derive(Clone, Debug)]
pub struct Tally {
    /// Usable as it stood.
    pub as_it_stood: u64,
    /// Usable after repair.
    pub after_repair: u64,
    /// Usable, from a text field.
    pub from_text: u64,
    /// Usable records in which a repair was made, by repair.
    pub repairs: Vec<u64>,
    /// Records with an address by its form.
    pub forms: Vec<u64>,
    /// Usable records by class.
    pub classes: Vec<u64>,
    /// Usable records whose class is that of published lists alone.
    pub listed: u64,
    /// Records by verdict: accept, review, reject.
    pub verdicts: Vec<u64>,
    /// Records with an address by where they would end if there were no duplicates.
    pub outcomes: [u64; 6],
    /// Records by finding, whatever their outcome.
    pub findings: Vec<u64>,
    /// Rejected records under their first rejecting finding.
    pub rejected: Vec<u64>,
    /// Records for review under their first finding that asks for it.
    pub review: Vec<u64>,
    /// Records that were set aside, by reason of the selection.
    pub set_aside: Vec<u64>,
    /// Cells that a cut does not fit, by cut.
    pub cut_misses: Vec<u64>,
    /// The first of these, by cut.
    pub cut_examples: Vec<Option<Example>>,
    /// Addresses by how much of a name they show, where names are asked for.
    pub names: Vec<u64>,
    /// Values by the first pattern that fits, then those that none fits.
    pub patterns: Vec<u64>,
    /// The names of the patterns.
    pub pattern_names: Vec<String>,
    /// Records by the lists that add columns to them.
    pub lookups: Vec<Lookup>,
    /// What is asked of other fields, as `lent on: filled`, with how many records break it.
    pub field_faults: Vec<(String, u64)>,
    /// The first record that breaks each, by place above.
    pub field_examples: Vec<Option<Example>>,
    /// Addresses that fit the house's format, then those with each part at fault.
    pub house: Vec<u64>,
    /// Addresses that the house's format would give to several records.
    pub clashes: Vec<HouseClash>,
    /// Rows beyond one for each record.
    pub rows_added: u64,
    /// The first record with each finding, by code.
    pub examples: Vec<Option<Example>>,
    /// Records with further usable addresses, and how many these are.
    pub with_more: u64,
    /// Further usable addresses.
    pub more: u64,
    /// Records left without a usable address that hold an @ in a field that was not looked at.
    pub at_sign_left: u64,
    /// How many of them have a usable address there, by field.
    pub reachable: Vec<u64>,
    /// Records with fewer cells than fields.
    pub short: u64,
    /// Records with more cells than fields.
    pub long: u64,
    /// Records with bytes that are not UTF-8.
    pub not_utf8: u64,
}

/// Counts of the three verdicts under their words.
pub(crate) fn by_verdict(counts: &[u64]) -> BTreeMap<&'static str, u64> {
    let words = [Verdict::Accept, Verdict::Review, Verdict::Reject].map(Verdict::word);
    words.into_iter().zip(counts.iter().copied()).collect()
}

/// Usable records, as receipts and `--json` tell them.
#[derive(Clone, Debug, Serialize)]
pub(crate) struct Usable {
    as_it_stood: u64,
    after_repair: u64,
    from_text: u64,
    total: u64,
}

impl Usable {
    pub(crate) fn of(tally: &Tally) -> Self {
        Usable {
            as_it_stood: tally.as_it_stood,
            after_repair: tally.after_repair,
            from_text: tally.from_text,
            total: tally.usable(),
        }
    }
}

impl Tally {
    pub(crate) fn new(
        fields: usize,
        selection: &Selection,
        cuts: usize,
        patterns: impl Iterator<Item = String>,
    ) -> Self {
        let pattern_names: Vec<String> = patterns.collect();
        Tally {
            as_it_stood: 0,
            after_repair: 0,
            from_text: 0,
            repairs: vec![0; Repair::ALL.len()],
            forms: vec![0; Form::ALL.len()],
            classes: vec![0; Class::COUNT],
            listed: 0,
            verdicts: vec![0; 3],
            outcomes: [0; 6],
            findings: vec![0; Code::COUNT],
            rejected: vec![0; Code::COUNT],
            review: vec![0; Code::COUNT],
            set_aside: vec![0; selection.reasons()],
            cut_misses: vec![0; cuts],
            cut_examples: vec![None; cuts],
            names: vec![0; NameConfidence::ALL.len()],
            patterns: vec![0; pattern_names.len() + 1],
            pattern_names,
            lookups: Vec::new(),
            field_faults: Vec::new(),
            field_examples: Vec::new(),
            house: vec![0; 1 + HousePart::ALL.len()],
            clashes: Vec::new(),
            rows_added: 0,
            examples: vec![None; Code::COUNT],
            with_more: 0,
            more: 0,
            at_sign_left: 0,
            reachable: vec![0; fields],
            short: 0,
            long: 0,
            not_utf8: 0,
        }
    }

    /// The same with room for what is asked of other fields.
    pub(crate) fn with_field_checks(mut self, names: Vec<String>) -> Self {
        self.field_examples = vec![None; names.len()];
        self.field_faults = names.into_iter().map(|name| (name, 0)).collect();
        self
    }

    /// Usable records: accepted or for review.
    pub fn usable(&self) -> u64 {
        self.as_it_stood + self.after_repair + self.from_text
    }

    /// Records that were set aside, under their reasons.
    pub fn set_aside_by_reason(&self, selection: &Selection) -> BTreeMap<String, u64> {
        let counts = self.set_aside.iter().copied().enumerate();
        counts.map(|(place, count)| (selection.reason(place), count)).collect()
    }

    /// Counts `times` records whose address is alike, and what became of them.
    pub(crate) fn count(
        &mut self,
        selected: &SelectedAddress,
        outcome: Outcome,
        policy: &Policy,
        times: u64,
    ) {
        for code in selected.codes.iter() {
            self.findings[code.index()] += times;
        }
        self.verdicts[selected.verdict as usize] += times;
        self.outcomes[outcome as usize] += times;
        self.forms[selected.form as usize] += times;
        let first_of =
            |codes: CodeSet| selected.codes.intersection(codes).first().expect("one gave the verdict");
        match outcome {
            Outcome::Rejected => {
                self.rejected[first_of(policy.rejecting()).index()] += times;
                return;
            }
            Outcome::Review => self.review[usize::from(reason_for_review(selected, policy))] += times,
            _ => {}
        }
        match (selected.from_text, selected.repairs.is_empty()) {
            (true, _) => self.from_text += times,
            (false, true) => self.as_it_stood += times,
            (false, false) => self.after_repair += times,
        }
        for repair in selected.repairs.iter() {
            self.repairs[repair as usize] += times;
        }
        if let Some(class) = selected.judged.class {
            self.classes[class.index()] += times;
            self.listed += if selected.judged.certainty == Certainty::Listed { times } else { 0 };
        }
    }

    /// Moves over the counts of a later part, whose examples stand `lines` lines further down; it can be used again.
    pub(crate) fn take_from(&mut self, part: &mut Tally, lines: u64) {
        for (sum, more) in [
            (&mut self.as_it_stood, &mut part.as_it_stood),
            (&mut self.after_repair, &mut part.after_repair),
            (&mut self.from_text, &mut part.from_text),
            (&mut self.listed, &mut part.listed),
            (&mut self.with_more, &mut part.with_more),
            (&mut self.rows_added, &mut part.rows_added),
            (&mut self.more, &mut part.more),
            (&mut self.at_sign_left, &mut part.at_sign_left),
            (&mut self.short, &mut part.short),
            (&mut self.long, &mut part.long),
            (&mut self.not_utf8, &mut part.not_utf8),
        ] {
            *sum += take(more);
        }
        for (sums, mores) in [
            (&mut self.repairs, &mut part.repairs),
            (&mut self.forms, &mut part.forms),
            (&mut self.classes, &mut part.classes),
            (&mut self.verdicts, &mut part.verdicts),
            (&mut self.findings, &mut part.findings),
            (&mut self.rejected, &mut part.rejected),
            (&mut self.review, &mut part.review),
            (&mut self.set_aside, &mut part.set_aside),
            (&mut self.cut_misses, &mut part.cut_misses),
            (&mut self.names, &mut part.names),
            (&mut self.patterns, &mut part.patterns),
            (&mut self.house, &mut part.house),
            (&mut self.reachable, &mut part.reachable),
        ] {
            for (sum, more) in sums.iter_mut().zip(mores) {
                *sum += take(more);
            }
        }
        for (sum, more) in self.outcomes.iter_mut().zip(&mut part.outcomes) {
            *sum += take(more);
        }
        for (sum, more) in self.lookups.iter_mut().zip(&mut part.lookups) {
            sum.looked_up += take(&mut more.looked_up);
            sum.matched += take(&mut more.matched);
        }
        for ((_, sum), (_, more)) in self.field_faults.iter_mut().zip(&mut part.field_faults) {
            *sum += take(more);
        }
        let examples = self.examples.iter_mut().zip(&mut part.examples);
        let of_cuts = self.cut_examples.iter_mut().zip(&mut part.cut_examples);
        let of_fields = self.field_examples.iter_mut().zip(&mut part.field_examples);
        for (mine, theirs) in examples.chain(of_cuts).chain(of_fields) {
            if let Some(mut example) = theirs.take()
                && mine.is_none()
            {
                example.line += lines;
                *mine = Some(example);
            }
        }
    }
}

/// The first finding of an address that asks for a decision, by place among all; of little meaning where none does.
pub(crate) fn reason_for_review(selected: &SelectedAddress, policy: &Policy) -> u8 {
    selected.codes.intersection(policy.reviewing()).first().map_or(0, |code| code.index() as u8)
}

impl Tally {
    /// Addresses that fit the house's format, and those with each part at fault; empty where none was held against one.
    pub fn house_by_word(&self) -> BTreeMap<&'static str, u64> {
        let words = std::iter::once("fits").chain(HousePart::ALL.map(HousePart::word));
        let held = self.house.iter().any(|count| *count > 0);
        words
            .zip(self.house.iter().copied())
            .filter(|(word, count)| held && (*word == "fits" || *count > 0))
            .collect()
    }

    /// Whether some record has the finding, be it one without an address.
    pub fn has(&self, code: Code) -> bool {
        let of_field = code.name().strip_prefix("field-").map(|word| format!(": {word}"));
        self.findings[code.index()] > 0
            || of_field.is_some_and(|end| {
                self.field_faults.iter().any(|(name, count)| *count > 0 && name.ends_with(&end))
            })
    }

    /// Records that break what is asked of other fields, by what that is.
    pub fn field_faults_by_name(&self) -> BTreeMap<&str, u64> {
        self.field_faults.iter().map(|(name, count)| (&**name, *count)).collect()
    }

    /// Values by the first pattern that fits; empty where they were held against none.
    pub fn patterns_by_name(&self) -> BTreeMap<&str, u64> {
        self.pattern_names.iter().map(String::as_str).zip(self.patterns.iter().copied()).collect()
    }
}

/// Counts under their names, those that are not zero.
pub(crate) fn named(
    names: impl Iterator<Item = &'static str>,
    counts: &[u64],
) -> BTreeMap<&'static str, u64> {
    names.zip(counts.iter().copied()).filter(|(_, count)| *count > 0).collect()
}
