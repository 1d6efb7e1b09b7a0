//! What `lists check` and the commands that change a list report.

use serde::Serialize;
use ypogram_jobs::decisions::IdleDecision;
use ypogram_jobs::lists::check::{Kinds, ListCheck};
use ypogram_jobs::lists::edit::EditReport;

use crate::render::json::summary::Summary;

#[derive(Serialize)]
struct CheckCounts {
    entries: u64,
    with_several_cells: u64,
    kinds: Kinds,
}

#[derive(Serialize)]
struct Checked<'a> {
    name: &'a str,
    bytes: u64,
    blake3: &'a str,
    joins: bool,
    twice: Vec<Twice>,
    unfit: Vec<Entry<'a>>,
    never: Vec<Entry<'a>>,
    shadowing: Vec<Entry<'a>>,
    known: Vec<Entry<'a>>,
}

#[derive(Serialize)]
struct Twice {
    line: u64,
    first: u64,
}

/// An entry and what there is to say of it.
#[derive(Serialize)]
struct Entry<'a> {
    entry: &'a str,
    #[serde(skip_serializing_if = "Option::is_none")]
    line: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    why: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    class: Option<&'a str>,
}

impl<'a> Entry<'a> {
    fn at(line: u64, entry: &'a str) -> Self {
        Entry { entry, line: Some(line), why: None, class: None }
    }
}

/// What was found in a list.
pub(crate) fn list_checked(report: &ListCheck) -> String {
    let read = &report.read;
    let counts = CheckCounts {
        entries: read.entries,
        with_several_cells: read.with_several_cells,
        kinds: report.kinds,
    };
    Summary::of_names("lists check", [&*read.from].into_iter(), counts).text(Checked {
        name: &read.name,
        bytes: read.bytes,
        blake3: &read.blake3,
        joins: read.joins,
        twice: read.twice.iter().map(|&(line, first)| Twice { line, first }).collect(),
        unfit: with_reason(&read.unfit),
        never: with_reason(&report.never),
        shadowing: report
            .shadowing
            .iter()
            .map(|(line, entry, class)| Entry { class: Some(class), ..Entry::at(*line, entry) })
            .collect(),
        known: report.known.iter().map(|(line, entry)| Entry::at(*line, entry)).collect(),
    })
}

fn with_reason(entries: &[(u64, String, String)]) -> Vec<Entry<'_>> {
    entries.iter().map(|(line, entry, why)| Entry { why: Some(why), ..Entry::at(*line, entry) }).collect()
}

/// What was found in the `entries` decisions that are remembered.
pub(crate) fn decisions_checked(entries: usize, idle: &[IdleDecision]) -> String {
    #[derive(Serialize)]
    struct Counts {
        entries: usize,
        idle: usize,
    }
    #[derive(Serialize)]
    struct More<'a> {
        idle: &'a [IdleDecision],
    }
    let counts = Counts { entries, idle: idle.len() };
    Summary::of_names("lists check", ["decisions"].into_iter(), counts).text(More { idle })
}

#[derive(Serialize)]
struct EditCounts {
    new: usize,
    changed: usize,
    removed: usize,
}

#[derive(Serialize)]
struct Edited<'a> {
    new: &'a [String],
    changed: &'a [String],
    removed: &'a [String],
    there: Vec<Entry<'a>>,
    differ: Vec<Entry<'a>>,
    missing: &'a [String],
    unfit: Vec<Entry<'a>>,
}

/// What `command` has changed in the list that comes from `from`.
pub(crate) fn list_edited(command: &'static str, from: &str, report: &EditReport) -> String {
    let counts =
        EditCounts { new: report.new.len(), changed: report.changed.len(), removed: report.removed.len() };
    Summary::of_names(command, [from].into_iter(), counts).text(Edited {
        new: &report.new,
        changed: &report.changed,
        removed: &report.removed,
        there: report.there.iter().map(placed).collect(),
        differ: report.differ.iter().map(placed).collect(),
        missing: &report.missing,
        unfit: report
            .unfit
            .iter()
            .map(|(entry, why)| Entry { entry, line: None, why: Some(why), class: None })
            .collect(),
    })
}

fn placed((entry, line): &(String, u64)) -> Entry<'_> {
    Entry::at(*line, entry)
}
