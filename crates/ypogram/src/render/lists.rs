//! Lists for people: which are in force, what is on them, which entry decides, what is wrong with one.

use std::fmt::Write as _;
use std::path::Path;

use comfy_table::CellAlignment;
use serde::Serialize;
use ypogram_core::lists::{BuiltIn, List};
use ypogram_core::{Class, Decided, shown};
use ypogram_io::Target;
use ypogram_jobs::decisions::IdleDecision;
use ypogram_jobs::lists::ListSpec;
use ypogram_jobs::lists::check::ListCheck;
use ypogram_jobs::lists::edit::EditReport;

use crate::render::head::JudgedBy;
use crate::render::places::place;
use crate::render::plain_table::plain_table;
use crate::render::style;
use crate::render::words::{counted, number};

/// One entry of a list.
#[derive(Debug, Serialize)]
pub(crate) struct Shown {
    pub(crate) entry: String,
    /// The line in a list of one's own.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) line: Option<u64>,
    /// What stands beside it.
    pub(crate) beside: Vec<String>,
}

/// What lists say of one value.
#[derive(Debug, Serialize)]
pub(crate) struct Tested {
    pub(crate) value: String,
    pub(crate) class: Option<Class>,
    pub(crate) verdict: ypogram_core::Verdict,
    /// Why it is not usable.
    pub(crate) trouble: Option<String>,
    pub(crate) entries: Vec<Decided>,
}

/// A list in force.
#[derive(Debug, Serialize)]
pub(crate) struct Overview {
    name: String,
    entries: u64,
    from: String,
    does: String,
}

/// Decisions that change nothing any more.
pub(crate) fn idle_decisions(idle: &[IdleDecision], all: usize) -> String {
    let all = counted(all as u64, "decision", "decisions");
    if idle.is_empty() {
        return format!("{all}, and each still changes something\n");
    }
    let mut text = format!("{} of {all} change nothing any more\n\n", number(idle.len() as u64));
    for decision in idle {
        let (as_found, why) = (shown(decision.as_found.as_bytes()), &decision.why);
        let _ = writeln!(text, "  line {}: {as_found}  {}", decision.line, style::dim(why));
    }
    text.push_str("\nRemove one with  ypogram lists remove decisions ADDRESS\n");
    text
}

impl Overview {
    /// Of what was decided.
    pub(crate) fn of_decisions(entries: usize, file: &Path) -> Self {
        Overview {
            name: "decisions".to_owned(),
            entries: entries as u64,
            from: file.display().to_string(),
            does: "answer what was decided before".to_owned(),
        }
    }

    /// Of a list of one's own.
    pub(crate) fn of_own(list: &List) -> Self {
        let purpose = &list.purpose;
        let mut does = vec![purpose.of.word().to_owned()];
        does.extend(purpose.class.map(|class| format!("give class {}", class.word())));
        does.extend(purpose.finding.map(|finding| format!("raise {}", finding.name())));
        if !purpose.columns.is_empty() {
            does.push(format!("append {}", purpose.columns.join(", ")));
        }
        Overview {
            name: purpose.name.clone(),
            entries: list.len() as u64,
            from: purpose.from.clone(),
            does: does.join("; "),
        }
    }

    /// Of a built-in list.
    pub(crate) fn of_built_in(list: &BuiltIn) -> Self {
        Overview {
            name: list.name.into(),
            entries: list.entries.len() as u64,
            from: "built in".into(),
            does: list.what.into(),
        }
    }
}

/// Every list in force.
pub(crate) fn overview(lists: &[Overview], by: JudgedBy<'_>) -> String {
    let mut out = String::new();
    let rulebook = by.rulebook.map_or_else(
        || "no rulebook: only the built-in ones".to_owned(),
        |path| format!("rulebook: {}", path.display()),
    );
    let _ = writeln!(out, "{} {}\n", style::title("Lists in force"), style::dim(&format!("({rulebook})")));
    let mut table = plain_table();
    for list in lists {
        let (name, from) = (shown(list.name.as_bytes()), shown(list.from.as_bytes()));
        table.add_row([format!(" {name}"), number(list.entries), from, list.does.clone()]);
    }
    if let Some(column) = table.column_mut(1) {
        column.set_cell_alignment(CellAlignment::Right);
    }
    let _ = writeln!(out, "{}\n", table.trim_fmt());
    let endings = "education and government follow the public suffixes: edu, ac.uk, gov, gouv.fr …";
    let next = "what is on one: ypogram lists show NAME   which entry decides: ypogram lists test ADDRESS";
    let _ = writeln!(out, "{}\n{}", style::dim(endings), style::dim(next));
    out
}

/// Entries with what stands beside them, separated by tabs, for people and pipes alike.
pub(crate) fn entries(entries: &[Shown]) -> String {
    let mut out = String::new();
    for Shown { entry, beside, .. } in entries {
        let cells = std::iter::once(entry).chain(beside).map(|cell| shown(cell.as_bytes()));
        let _ = writeln!(out, "{}", cells.collect::<Vec<_>>().join("\t").trim_end());
    }
    out
}

/// What the entries that speak of an address do, a row each.
pub(crate) fn rows(decided: &[Decided]) -> Vec<(&'static str, String)> {
    decided.iter().map(|decided| ("listed", told(decided))).collect()
}

/// `class partner ← ‘*.marshmill.example’, by a domain above, on partners (partners.csv, line 3)`
fn told(decided: &Decided) -> String {
    let mut does = Vec::new();
    if let Some(class) = decided.class {
        let counts = if decided.gives_the_class { "" } else { " (does not count: another entry decides)" };
        does.push(format!("class {}{counts}", class.word()));
    }
    does.extend(decided.finding.map(|finding| format!("finding {}", finding.name())));
    let cells = decided.columns.iter().filter(|(_, cell)| !cell.is_empty());
    does.extend(cells.map(|(name, cell)| format!("{name} = {cell}")));
    let place =
        decided.line.map_or_else(|| decided.from.clone(), |line| format!("{}, line {line}", decided.from));
    format!(
        "{} ← ‘{}’ on {} ({place}), by {}",
        does.join(", "),
        decided.entry,
        decided.list,
        decided.by.word()
    )
}

/// Which entries speak of each value, the one that decides first.
pub(crate) fn tested(tested: &[Tested]) -> String {
    let mut out = String::new();
    for (place, one) in tested.iter().enumerate() {
        if place > 0 {
            out.push('\n');
        }
        let class = one.class.map_or_else(String::new, |class| format!("  class {}", class.word()));
        let _ = writeln!(out, "{}{}", style::title(&shown(one.value.as_bytes())), style::good(&class));
        if let Some(trouble) = &one.trouble {
            let _ = writeln!(out, "  {}", style::bad(&shown(trouble.as_bytes())));
        }
        for decided in &one.entries {
            let _ = writeln!(out, "  {}", shown(told(decided).as_bytes()));
        }
        if !one.entries.iter().any(|decided| decided.gives_the_class)
            && let Some(class) = one.class
        {
            let why = match class.word() {
                "business" => "a public domain on no list",
                "education" | "government" => "by its public suffix",
                "reserved" => "by the standards",
                _ => "by the rulebook",
            };
            let _ = writeln!(out, "  {}", style::dim(&format!("class {}: {why}", class.word())));
        }
        if one.entries.is_empty() {
            let _ = writeln!(out, "  {}", style::dim("no list speaks of it"));
        }
    }
    out
}

/// What an edit did.
pub(crate) fn edited(report: &EditReport, spec: &ListSpec) -> String {
    let mut out = String::new();
    let with_line = |entries: &[(String, u64)]| -> Vec<String> {
        entries
            .iter()
            .map(|(entry, line)| if *line == 0 { entry.clone() } else { format!("{entry} (line {line})") })
            .collect()
    };
    let unfit: Vec<String> =
        report.unfit.iter().map(|(entry, reason)| format!("{entry}: {reason}")).collect();
    for (word, entries) in [
        ("new", report.new.clone()),
        ("changed", report.changed.clone()),
        ("removed", report.removed.clone()),
        ("already so", with_line(&report.there)),
        ("there with other cells; `lists change` changes them", with_line(&report.differ)),
        ("not there", report.missing.clone()),
        ("cannot be used", unfit),
    ] {
        if !entries.is_empty() {
            let _ = writeln!(out, "{:>5}  {word}{}", number(entries.len() as u64), few(&entries));
        }
    }
    let _ = match report.changes_something() {
        true => writeln!(out, "{} is written", spec.from),
        false => writeln!(out, "{} stays as it is", spec.from),
    };
    out
}

/// As many entries as people read.
const TOLD: usize = 5;

fn few(entries: &[String]) -> String {
    let told: Vec<String> = entries.iter().take(TOLD).map(|entry| shown(entry.as_bytes())).collect();
    let more = if entries.len() > TOLD { ", …" } else { "" };
    format!(": {}{more}", told.join(", "))
}

/// What is wrong with a list.
pub(crate) fn checked(report: &ListCheck, target: &Target) -> String {
    let mut out = String::new();
    let read = &report.read;
    let _ = writeln!(
        out,
        "{} {}",
        style::title(&shown(read.from.as_bytes())),
        style::dim(&format!("({})", counted(read.entries, "entry", "entries")))
    );
    let kinds = [
        (report.kinds.addresses, "addresses"),
        (report.kinds.domains, "domains"),
        (report.kinds.domains_with_those_below, "domains with those below them"),
        (report.kinds.others, "other texts"),
    ];
    for (count, what) in kinds.iter().filter(|(count, _)| *count > 0) {
        let _ = writeln!(out, "  {:>7}  {what}", number(*count));
    }
    let twice = read.twice.iter().map(|(line, first)| (*line, format!("as in line {first}")));
    block("Twice, and counted once", &twice.collect::<Vec<_>>(), style::doubtful, &mut out);
    let because = |rows: &[(u64, String, String)]| -> Vec<(u64, String)> {
        rows.iter().map(|(line, entry, reason)| (*line, format!("{entry}: {reason}"))).collect()
    };
    block("Cannot be used", &because(&read.unfit), style::bad, &mut out);
    block("No usable address can meet them", &because(&report.never), style::bad, &mut out);
    let shadowing = report.shadowing.iter().map(|(line, entry, class)| (*line, format!("{entry}: {class}")));
    block(
        "Built in with another class, which they override",
        &shadowing.collect::<Vec<_>>(),
        style::doubtful,
        &mut out,
    );
    block("Built in with the same class", &report.known, style::dim, &mut out);
    if !report.finds_fault() {
        let _ = writeln!(out, "\n{}", style::good("every entry can be used, and stands there once"));
    }
    if *target != Target::Nowhere {
        let _ = writeln!(
            out,
            "\nThe list was written {}: every entry as it is looked up, each once",
            place(target)
        );
    }
    out
}

fn block(head: &str, rows: &[(u64, String)], colour: fn(&str) -> String, out: &mut String) {
    if rows.is_empty() {
        return;
    }
    let _ =
        writeln!(out, "\n{} {}", style::title(head), style::dim(&format!("({})", number(rows.len() as u64))));
    for (line, text) in rows.iter().take(20) {
        let _ = writeln!(out, "  {} {}", colour(&format!("line {line:<5}")), shown(text.as_bytes()));
    }
    if rows.len() > 20 {
        let _ = writeln!(out, "  {}", style::dim("… all of them with --json"));
    }
}
