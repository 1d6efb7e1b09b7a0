//! The rule as the formula of a rule on cells, and a workbook that has it.

use std::path::Path;

use ypogram_core::Code;
use ypogram_core::entry_rule::EntryRule;
use ypogram_io::{
    BookFile, BookSummary, EntryRefusal, OutputFile, Projection, Result, RowSpec, entry_formula,
};

/// The findings that a formula of 255 characters sees.
const HELD: [Code; 12] = [
    Code::NoAtSign,
    Code::SpaceInside,
    Code::EmptyLocalPart,
    Code::EmptyDomain,
    Code::SeveralAtSigns,
    Code::LocalPartTooLong,
    Code::AddressTooLong,
    Code::TooLongForHouse,
    Code::EmptyLabel,
    Code::TrailingDot,
    Code::OneLabelDomain,
    Code::DotAtEdge,
];

/// The names of the conditions that it does not hold.
pub(super) fn without(rule: &EntryRule) -> Vec<String> {
    let is_held = |code: Code| HELD.contains(&code) || code == Code::DoubleDot;
    let others = rule.conditions.iter().filter(|condition| !is_held(condition.code));
    others.map(|condition| condition.name.clone()).collect()
}

/// The formula for `cell`.
pub(super) fn formula(rule: &EntryRule, cell: &str) -> String {
    entry_formula(cell, longest(rule))
}

fn longest(rule: &EntryRule) -> usize {
    rule.longest.unwrap_or(254)
}

/// A workbook at `path`, not published yet, with a sheet for entries and one that says what its rule does.
///
/// # Errors
/// Where it exists and is not to be replaced, or cannot be written.
pub(super) fn write(
    rule: &EntryRule,
    path: &Path,
    replace: bool,
    refusal: &EntryRefusal,
    remarks: &[String],
) -> Result<OutputFile> {
    const SHEET: &str = "entries";
    let file = BookFile::create(path, replace)?;
    let columns = vec!["email".to_owned()];
    let projection = Projection::new(&RowSpec::default(), &columns, &[])?;
    let refusal = EntryRefusal { columns, longest: longest(rule), ..refusal.clone() };
    file.add_sheet(SHEET, &projection, Some(&refusal))?;
    let facts = remarks.iter().map(|line| (line.clone(), String::new())).collect();
    let title = "The rule on the column of this workbook".to_owned();
    file.finish(&BookSummary { title, facts, ..BookSummary::default() }, &[SHEET])
}
