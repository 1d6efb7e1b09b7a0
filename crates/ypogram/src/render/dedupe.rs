//! The groups of records that reach the same mailbox, for people.

use ypogram_core::shown;
use ypogram_io::Target;
use ypogram_jobs::dedupe::{DedupeOptions, DedupeReport, Group, Twin};
use ypogram_jobs::{DistinctCount, Shared};

use crate::call::Call;
use crate::render::figures::Figure;
use crate::render::head::{Head, JudgedBy, names};
use crate::render::judged::warn_of_nothing;
use crate::render::layout::Cell;
use crate::render::notes::Notes;
use crate::render::places::place;
use crate::render::style;
use crate::render::summary::{Block, Summary, outcomes};
use crate::render::words::{counted, number};

/// What was found, for people.
pub(crate) fn summary(
    report: &DedupeReport,
    options: &DedupeOptions,
    call: &Call,
    by: JudgedBy<'_>,
) -> Summary {
    let mut summary = Summary::new(answer(report, options));
    summary.head(head(report, by));
    summary.block(figures(report, options));
    summary.block(rules(report));
    summary.block(groups(report, options.shared));
    summary.block(twins(report));
    let mut notes = notes(report, options);
    notes.say_all(&by.unfit_entries());
    summary.block(notes.block());
    steps(report, options, call, &mut summary);
    summary
}

/// The first line: where the records end, and how many share a mailbox with another person.
fn answer(report: &DedupeReport, options: &DedupeOptions) -> String {
    let mut counts = vec![("kept", report.kept)];
    if options.shared == Shared::Review {
        counts.push(("review", report.for_review));
    }
    counts.extend([("duplicate", report.dropped), ("no-address", report.no_address)]);
    let shared =
        counted(report.shared, "shares a mailbox with another person", "share a mailbox with another person");
    let shared = if report.columns.person.is_empty() { String::new() } else { format!("; {shared}") };
    outcomes(&counts, report.records) + &shared
}

fn head(report: &DedupeReport, by: JudgedBy<'_>) -> Vec<String> {
    let persons =
        (!report.columns.person.is_empty()).then(|| format!("person: {}", names(&report.columns.person)));
    Head::of_columns(&report.sources, &report.columns, &report.how, by).with(persons).lines()
}

fn figures(report: &DedupeReport, options: &DedupeOptions) -> Block {
    let of = Some(report.records);
    let mut kept = vec![
        counted(report.mailboxes, "mailbox", "mailboxes"),
        counted(report.rejected_texts, "rejected text", "rejected texts"),
    ];
    if options.shared == Shared::Keep && report.shared_kept > 0 {
        kept.push(format!("{} of another person", number(report.shared_kept)));
    }
    let duplicate = match (report.groups, report.in_groups) {
        (Some(groups), Some(records)) if groups > 0 => {
            let records = counted(records, "record has", "records have");
            format!(
                "{records} {}",
                counted(groups, "mailbox or text in common", "mailboxes or texts in common")
            )
        }
        _ => String::new(),
    };
    let mut figures = vec![Figure::new("kept", report.kept, of, kept.join(" + "))];
    if options.shared == Shared::Review {
        figures.push(Figure::new("review", report.for_review, of, "another person's record has the mailbox"));
    }
    figures.push(Figure::new("duplicate", report.dropped, of, duplicate));
    figures.push(Figure::new("no-address", report.no_address, of, ""));
    let parts: Vec<u64> = figures.iter().map(|figure| figure.count).collect();
    let adds_up = match parts.iter().sum::<u64>() == report.records {
        true => style::good("✓"),
        false => style::bad("does not add up: please report it"),
    };
    let parts: Vec<String> = parts.into_iter().map(number).collect();
    let records = counted(report.records, "record", "records");
    Block::of("Same mailbox", &format!("by rule {}; of {records}", report.rule), &figures)
        .whole()
        .note(format!("{} = {records} read {adds_up}", parts.join(" + ")))
}

fn estimate(count: DistinctCount) -> String {
    if count.exact { String::new() } else { "an estimate".into() }
}

fn rules(report: &DedupeReport) -> Block {
    let figures: Vec<Figure> = report
        .rules
        .iter()
        .map(|rule| {
            let what = match &*rule.rule {
                "exact" => "the local part as written",
                "case" => "letter case ignored",
                "provider" => "and what the domain's provider documents: dots, tags, joined domains",
                _ => "letter case, dots and tags ignored at every domain",
            };
            let chosen = if rule.rule == report.rule { "← in force; " } else { "" };
            let about = estimate(rule.mailboxes);
            let about = if about.is_empty() { about } else { format!("{about}; ") };
            Figure::new(&rule.rule, rule.duplicates, None, format!("{chosen}{about}{what}"))
        })
        .collect();
    let remark = "usable records beyond the first of each mailbox; choose with --same";
    Block::of("Duplicates by rule", remark, &figures).rank(3)
}

fn groups(report: &DedupeReport, shared: Shared) -> Block {
    let all = report.groups.unwrap_or_default();
    let remark = match all.saturating_sub(report.largest.len() as u64) {
        0 => format!("all {}", number(all)),
        _ => format!("the largest of {}; all with --groups FILE", number(all)),
    };
    let rows = report.largest.iter().flat_map(|group| one_group(group, report, shared)).collect();
    Block::of_rows("Groups", &remark, rows).rank(2)
}

/// Its size and its members, the one that stays in front.
fn one_group(group: &Group, report: &DedupeReport, shared: Shared) -> Vec<Vec<Cell>> {
    let more = group.count - group.members.len() as u64;
    let mut rows: Vec<Vec<Cell>> = group
        .members
        .iter()
        .enumerate()
        .map(|(nth, member)| {
            let source = match report.sources.len() {
                1 => String::new(),
                _ => format!("{}, ", report.sources[member.source].name),
            };
            let stays = match (member.record == group.survivor, member.other_person, shared) {
                (true, ..) => "stays",
                (_, true, Shared::Keep) => "another person: stays",
                (_, true, Shared::Review) => "another person: review",
                (_, true, Shared::Drop) => "another person",
                _ => "",
            };
            vec![
                Cell::right(if nth == 0 { number(group.count) } else { String::new() }),
                Cell::text(format!("{source}line {}", number(member.line))),
                Cell::text(shown(member.id.as_bytes())),
                Cell::flexible(shown(member.as_found.as_bytes())),
                Cell::text(stays),
            ]
        })
        .collect();
    if more > 0 {
        rows.push(vec![Cell::text(""), Cell::dim(format!("and {} more", number(more)))]);
    }
    rows
}

/// Twins that are shown.
const TWINS: usize = 12;

fn twins(report: &DedupeReport) -> Block {
    let all = counted(report.twins.len() as u64, "pair", "pairs");
    let one = |twin: &Twin| {
        let line = format!("line {}", number(twin.line));
        [Cell::text(line), Cell::flexible(shown(twin.address.as_bytes()))]
    };
    let row = |twins: &ypogram_jobs::dedupe::Twins| -> Vec<Cell> {
        let likeness = [Cell::text(twins.likeness.word())];
        likeness.into_iter().chain(one(&twins.other)).chain(one(&twins.one)).collect()
    };
    let rows = report.twins.iter().take(TWINS).map(row).collect();
    Block::of_rows("Probable twins", &format!("{all}; proposed, never dropped"), rows).rank(1)
}

fn notes(report: &DedupeReport, options: &DedupeOptions) -> Notes {
    let mut notes = Notes::default();
    notes.say_all(&report.notes);
    warn_of_nothing(report.records - report.no_address, report.records, &mut notes);
    if report.shared > 0 && options.shared == Shared::Drop {
        let what = if options.output.is_some() { "were" } else { "would be" };
        let records = counted(report.shared, "duplicate names", "duplicates name");
        notes.say(format!(
            "{records} another person than the record that stays and {what} dropped all the same"
        ));
    }
    notes.count(
        report.usable_from_text,
        "record has its address from a text field",
        "records have their address from a text field",
    );
    notes.count(
        report.rejected,
        "record has a rejected address: it is a duplicate only where the text is the same",
        "records have a rejected address: they are duplicates only where the text is the same",
    );
    notes.unclear_preference(report.unreadable, report.either_way);
    // Where nothing but the groups is shown, no record is written that could be opened.
    let formulas = if options.output.is_some() { report.formula_cells } else { 0 };
    let guarded = options.rows.guard_formulas;
    notes.blank_lines_and_formulas(report.blank_lines, formulas, guarded);
    for (target, what) in written(report, options) {
        notes.say(format!("{what} written {}", place(target)));
    }
    notes
}

/// What was written where.
fn written<'o>(report: &DedupeReport, options: &'o DedupeOptions) -> Vec<(&'o Target, String)> {
    let apart = if options.no_address.is_some() { 0 } else { report.no_address };
    let main = match (options.mark, apart) {
        (true, _) => format!("{}, marked", counted(report.records, "record", "records")),
        (_, 0) => counted(report.kept, "record kept", "records kept"),
        (_, apart) => format!("{} kept + {} without an address", number(report.kept), number(apart)),
    };
    let dropped = counted(report.dropped, "record that does not stay", "records that do not stay");
    let review = counted(report.for_review, "record for review", "records for review");
    let no_address = counted(report.no_address, "record without an address", "records without an address");
    let twins = counted(report.twins.len() as u64, "pair of probable twins", "pairs of probable twins");
    let written = [
        (&options.output, main),
        (&options.dropped, dropped),
        (&options.review, review),
        (&options.no_address, no_address),
        (&options.changes, counted(report.filled, "cell that was filled", "cells that were filled")),
        (&options.report, "each mailbox once, with its count".into()),
        (&options.groups, "all groups".into()),
        (&options.rule_differences, "pairs that the rules see differently".into()),
        (&options.near, twins),
    ];
    written.into_iter().filter_map(|(target, what)| Some((target.as_ref()?, what))).collect()
}

fn steps(report: &DedupeReport, options: &DedupeOptions, call: &Call, summary: &mut Summary) {
    if let Some((field, count)) = report.reachable.iter().max_by_key(|(_, count)| **count) {
        let what = format!("more with an address in {}:", shown(field.as_bytes()));
        summary.step(*count, &what, &call.again("dedupe").option("also", field));
    }
    if options.output.is_some() {
        return;
    }
    let unique = call.again("dedupe").option("o", "unique.csv");
    summary.step(
        report.dropped,
        "duplicates to be dropped:",
        &unique.clone().option("dropped", "dropped.csv"),
    );
    if options.shared == Shared::Keep {
        let review = call.again("dedupe").without("shared").option("shared", "review");
        summary.step(
            report.shared,
            "share a mailbox with another person; to look at them:",
            &review.option("o", "unique.csv"),
        );
    }
    summary.step(
        report.mailboxes,
        "mailboxes, each once with its count:",
        &call.again("dedupe").option("report", "mailboxes.csv"),
    );
}
