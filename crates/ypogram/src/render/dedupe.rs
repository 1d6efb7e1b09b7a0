//! The groups of records that reach the same mailbox, for people.

use std::fmt::Write as _;

use ypogram_core::shown;
use ypogram_jobs::DistinctCount;
use ypogram_jobs::dedupe::{DedupeOptions, DedupeReport, Group};
use ypogram_tables::Target;

use crate::render::figures::{Figure, block};
use crate::render::head::{Head, JudgedBy, names, told};
use crate::render::style;
use crate::render::words::{counted, for_shell_all, number};

/// What was found, for people.
pub(crate) fn summary(report: &DedupeReport, options: &DedupeOptions, by: JudgedBy<'_>) -> String {
    let mut out = String::new();
    head(report, by, &mut out);
    figures(report, options, &mut out);
    rules(report, &mut out);
    groups(report, &mut out);
    twins(report, &mut out);
    doubts(report, options, &mut out);
    places(report, options, &mut out);
    out
}

fn head(report: &DedupeReport, by: JudgedBy<'_>, out: &mut String) {
    let persons =
        (!report.person_fields.is_empty()).then(|| format!("person: {}", names(&report.person_fields)));
    Head {
        sources: told(&report.sources),
        how: &report.how,
        address_fields: report.address_fields.iter().map(String::as_str).collect(),
        text_fields: report.text_fields.iter().map(String::as_str).collect(),
        more: persons.into_iter().collect(),
        by,
    }
    .write(out);
}

fn figures(report: &DedupeReport, options: &DedupeOptions, out: &mut String) {
    let of = Some(report.records);
    let remark =
        style::dim(&format!("({}, rule {})", counted(report.records, "record", "records"), report.rule));
    let _ = writeln!(out, "{} {remark}", style::title("Same mailbox"));
    let dropped = match (&options.output, options.mark) {
        (Some(_), false) => "dropped",
        _ => "duplicates",
    };
    let groups = match (report.groups, report.in_groups) {
        (Some(groups), Some(records)) if groups > 0 => {
            let groups = counted(groups, "mailbox that several have", "mailboxes that several have");
            format!("beyond the one that stays, of {} in {groups}", counted(records, "record", "records"))
        }
        _ => "beyond the one that stays".into(),
    };
    let mut figures = vec![
        Figure::new("distinct mailboxes", report.mailboxes, of, ""),
        Figure::new(dropped, report.dropped, of, groups),
        Figure::new("rejected, each once", report.rejected_texts, of, "told apart by their text alone"),
        Figure::new("without an address", report.no_address, of, ""),
    ];
    if report.shared > 0 && options.shared == ypogram_jobs::Shared::Keep {
        figures.push(Figure::new("of another person", report.shared, of, "they share a mailbox, and stay"));
    }
    out.push_str(&block(&figures));
    let mut parts = vec![report.mailboxes, report.dropped, report.rejected_texts, report.no_address];
    if options.shared == ypogram_jobs::Shared::Keep {
        parts.push(report.shared);
    }
    let parts: Vec<String> = parts.into_iter().map(number).collect();
    let _ = writeln!(out, "  {} = {}", number(report.records), parts.join(" + "));
}

fn estimate(count: DistinctCount) -> String {
    if count.exact { String::new() } else { "an estimate".into() }
}

fn rules(report: &DedupeReport, out: &mut String) {
    if report.rules.is_empty() {
        return;
    }
    let _ = writeln!(
        out,
        "\n{} {}",
        style::title("Duplicates by rule"),
        style::dim("(of usable addresses; choose with --same, compare with --rule-differences FILE)")
    );
    let of = Some(report.records);
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
            let chosen = if rule.rule == report.rule { " ← in force" } else { "" };
            let about = estimate(rule.mailboxes);
            let about = if about.is_empty() { about } else { format!("{about}; ") };
            Figure::new(&rule.rule, rule.duplicates, of, format!("{about}{what}{chosen}"))
        })
        .collect();
    out.push_str(&block(&figures));
}

fn groups(report: &DedupeReport, out: &mut String) {
    if report.largest.is_empty() {
        return;
    }
    let all = report.groups.unwrap_or_default();
    let remark = match all.saturating_sub(report.largest.len() as u64) {
        0 => format!("{}", all),
        _ => format!("the largest {} of {}; all with --report FILE", report.largest.len(), number(all)),
    };
    let _ = writeln!(out, "\n{} {}", style::title("Groups"), style::dim(&format!("({remark})")));
    for group in &report.largest {
        one_group(group, report, out);
    }
}

fn one_group(group: &Group, report: &DedupeReport, out: &mut String) {
    let Some(first) = group.members.first() else { return };
    let name = if first.address.is_empty() { &first.as_found } else { &first.address };
    let _ = writeln!(out, "  {}  {}", style::title(&number(group.count)), shown(name.as_bytes()));
    for member in &group.members {
        let source = match report.sources.len() {
            1 => String::new(),
            _ => format!("{}, ", report.sources[member.source].name),
        };
        let id = if member.id.is_empty() {
            String::new()
        } else {
            format!(" {:<10}", shown(member.id.as_bytes()))
        };
        let stays = match (member.record == group.survivor, member.other_person) {
            (true, _) => style::good("stays"),
            (_, true) => style::doubtful("another person"),
            _ => String::new(),
        };
        let _ = writeln!(
            out,
            "     {source}line {:<6}{id}  {:<44}  {stays}",
            number(member.line),
            shown(member.as_found.as_bytes())
        );
    }
    let more = group.count - group.members.len() as u64;
    if more > 0 {
        let _ = writeln!(out, "     {}", style::dim(&format!("and {} more", number(more))));
    }
}

/// Twins that are shown.
const TWINS: usize = 12;

fn twins(report: &DedupeReport, out: &mut String) {
    if report.twins.is_empty() {
        return;
    }
    let all = counted(report.twins.len() as u64, "pair", "pairs");
    let remark = style::dim(&format!("({all}; proposed, never dropped)"));
    let _ = writeln!(out, "\n{} {remark}", style::title("Probable twins"));
    for twins in report.twins.iter().take(TWINS) {
        let one = |(_, line, address): &(u64, u64, String)| {
            format!("line {} {}", number(*line), shown(address.as_bytes()))
        };
        let _ = writeln!(out, "  {:<14} {}  {}", twins.likeness.word(), one(&twins.other), one(&twins.one));
    }
}

fn doubts(report: &DedupeReport, options: &DedupeOptions, out: &mut String) {
    let mut lines: Vec<String> = report.notes.clone();
    if report.shared > 0 && options.shared != ypogram_jobs::Shared::Keep {
        let records = counted(report.shared, "duplicate names", "duplicates name");
        let what = if options.output.is_some() {
            "were dropped all the same"
        } else {
            "would be dropped all the same"
        };
        lines.push(format!(
            "{records} another person than the record that stays and {what}: keep them with --shared keep"
        ));
    }
    if report.rejected > 0 {
        let records = counted(report.rejected, "record has", "records have");
        lines.push(format!(
            "{records} a rejected address: they are duplicates only where the text is the same"
        ));
    }
    if report.unreadable > 0 {
        let cells = counted(report.unreadable, "cell is", "cells are");
        lines.push(format!(
            "{cells} neither a date nor a number: such a record only stays where no other can be told by it"
        ));
    }
    if report.either_way > 0 {
        let dates = counted(report.either_way, "date", "dates");
        lines.push(format!("{dates} could be read with day or month first: the day was taken to come first"));
    }
    if !lines.is_empty() {
        let _ = writeln!(out, "\n{}", style::title("To be known"));
        lines.iter().for_each(|line| {
            let _ = writeln!(out, "  {line}");
        });
    }
}

fn places(report: &DedupeReport, options: &DedupeOptions, out: &mut String) {
    let place = |target: &Target| match target {
        Target::Standard => "standard output".to_owned(),
        Target::File { path, .. } => path.display().to_string(),
    };
    let apart = if options.no_address.is_some() { report.no_address } else { 0 };
    let main = if options.mark { report.records } else { report.records - report.dropped - apart };
    let written = [
        (&options.output, counted(main, "record", "records")),
        (&options.dropped, counted(report.dropped, "record that does not stay", "records that do not stay")),
        (
            &options.no_address,
            counted(report.no_address, "record without an address", "records without an address"),
        ),
        (&options.changes, counted(report.filled, "cell that was filled", "cells that were filled")),
        (&options.report, "all groups".into()),
        (&options.rule_differences, "pairs that the rules see differently".into()),
        (
            &options.near,
            counted(report.twins.len() as u64, "pair of probable twins", "pairs of probable twins"),
        ),
    ];
    let mut written: Vec<String> = written
        .iter()
        .filter_map(|(target, what)| target.as_ref().map(|target| format!("  {}: {what}", place(target))))
        .collect();
    if options.output.is_none() && report.dropped > 0 {
        let sources = for_shell_all(&options.sources);
        let command = format!("ypogram dedupe {sources} -o unique.csv --dropped dropped.csv");
        written.push(format!("  {} {command}", style::dim("to keep one record of each:")));
    }
    if !written.is_empty() {
        let _ = writeln!(out, "\n{}", written.join("\n"));
    }
}
