//! The summary of `clean`, in the order in which an administrator asks.

use std::fmt::Write as _;

use ypogram_core::{Class, Code, Repair, shown};
use ypogram_jobs::clean::CleanReport;
use ypogram_jobs::{Example, Outcome, Selection, SourceReport, Tally};

use crate::render::figures::{Figure, block};
use crate::render::head::{Head, JudgedBy};
use crate::render::style;
use crate::render::words::{counted, for_shell, number};

/// What was found, for people.
pub(crate) fn summary(report: &CleanReport, by: JudgedBy<'_>) -> String {
    let mut out = String::new();
    Head::of(&report.sources, &report.plan, by).write(&mut out);
    usable(report, &mut out);
    repaired(report, &mut out);
    reasons(report, "Rejected, under the first reason", &report.counts.tally.rejected, &mut out);
    reasons(report, "For you to decide", &report.counts.tally.review, &mut out);
    set_aside(&report.counts.tally, &report.selection, &mut out);
    mailboxes(report, &mut out);
    places(report, &mut out);
    troubles(report, &mut out);
    out
}

fn usable(report: &CleanReport, out: &mut String) {
    let (counts, tally) = (&report.counts, &report.counts.tally);
    let of = Some(counts.records);
    let _ = writeln!(out, "{}", style::title("Usable addresses"));
    let mut figures = vec![
        Figure::new("as the file stood", tally.as_it_stood, of, ""),
        Figure::new("after repair", tally.after_repair, of, ""),
    ];
    if !report.plan.text.is_empty() {
        figures.push(Figure::new("from text fields", tally.from_text, of, ""));
    }
    figures.push(Figure::new(
        "in all",
        tally.usable(),
        of,
        format!("of {}", counted(counts.records, "record", "records")),
    ));
    out.push_str(&block(&figures));
    if tally.more > 0 {
        let further = counted(tally.more, "further address", "further addresses");
        let _ = writeln!(out, "  {further} in the same records: column yp_more");
    }
}

fn repaired(report: &CleanReport, out: &mut String) {
    let repairs = Repair::ALL.iter().map(|repair| (repair, report.counts.tally.repairs[*repair as usize]));
    let mut figures: Vec<Figure> = repairs
        .filter(|(_, count)| *count > 0)
        .map(|(repair, count)| Figure::new(repair.name(), count, None, repair.sentence()))
        .collect();
    if figures.is_empty() {
        return;
    }
    figures.sort_by_key(|figure| std::cmp::Reverse(figure.count));
    let _ = writeln!(
        out,
        "\n{} {}",
        style::title("Repaired"),
        style::dim("(usable records; one can have several)")
    );
    out.push_str(&block(&figures));
}

fn reasons(report: &CleanReport, head: &str, counts: &[u64], out: &mut String) {
    let all: u64 = counts.iter().sum();
    if all == 0 {
        return;
    }
    let mut figures: Vec<Figure> = Code::all()
        .map(|code| (code, counts[code.index()]))
        .filter(|(_, count)| *count > 0)
        .map(|(code, count)| {
            Figure::new(code.name(), count, None, example(&report.counts.tally, &report.sources, code))
        })
        .collect();
    figures.sort_by_key(|figure| std::cmp::Reverse(figure.count));
    let _ = writeln!(
        out,
        "\n{} {}",
        style::title(head),
        style::dim(&format!("({})", counted(all, "record", "records")))
    );
    out.push_str(&block(&figures));
}

/// What was not asked for, by reason.
pub(crate) fn set_aside(tally: &Tally, selection: &Selection, out: &mut String) {
    let by_reason = tally.set_aside_by_reason(selection);
    let all: u64 = by_reason.values().sum();
    if selection.is_everything() {
        return;
    }
    let figures: Vec<Figure> =
        by_reason.into_iter().map(|(reason, count)| Figure::new(reason, count, None, "")).collect();
    let records = counted(all, "usable record", "usable records");
    let _ = writeln!(out, "\n{} {}", style::title("Set aside"), style::dim(&format!("({records})")));
    out.push_str(&block(&figures));
}

/// Where the first record with that finding stands, and what its cell says.
pub(crate) fn example(tally: &Tally, sources: &[SourceReport], code: Code) -> String {
    if code == Code::SharedMailbox {
        return "an earlier record of another person has it: column yp_same_as".into();
    }
    let Some(example) = &tally.examples[code.index()] else { return String::new() };
    format!("{}: {}", place_of(example, sources), shown(example.text.as_bytes()))
}

/// The line of an example, with its source where there are several and what tells its record apart.
pub(crate) fn place_of(example: &Example, sources: &[SourceReport]) -> String {
    let line = format!("line {}", number(example.line));
    let id = example.id.as_ref().map_or_else(String::new, |id| format!(" ({})", shown(id.as_bytes())));
    match sources.len() {
        1 => format!("{line}{id}"),
        _ => format!("{}, {line}{id}", sources[example.source].name),
    }
}

fn mailboxes(report: &CleanReport, out: &mut String) {
    let counts = &report.counts;
    let handed_over: u64 = counts.handed_over.iter().sum();
    let _ =
        writeln!(out, "\n{} {}", style::title("Kinds of mailbox"), style::dim("(records kept or to decide)"));
    let mut figures: Vec<Figure> = Class::all()
        .map(|class| (class, counts.handed_over[class.index()]))
        .filter(|(class, count)| *count > 0 || *class == Class::Free)
        .map(|(class, count)| Figure::new(class.word(), count, Some(handed_over), kind_remark(class)))
        .collect();
    figures.sort_by_key(|figure| std::cmp::Reverse(figure.count));
    out.push_str(&block(&figures));
    if counts.tally.listed > 0 {
        let records = counted(counts.tally.listed, "usable record is", "usable records are");
        let note = format!("({records} free by published lists alone, which can be out of date)");
        let _ = writeln!(out, "  {}", style::dim(&note));
    }
    let duplicates = counts.of(Outcome::Duplicate);
    let _ = writeln!(
        out,
        "\n{}  {} of {} usable records reach a mailbox that an earlier record has; {}",
        style::title("Duplicates"),
        style::doubtful(&number(duplicates)),
        number(counts.tally.usable()),
        counted(counts.mailboxes, "distinct mailbox", "distinct mailboxes"),
    );
}

fn kind_remark(class: Class) -> &'static str {
    match class {
        Class::Free => "free provider",
        Class::Isp => "comes with an Internet connection",
        Class::Disposable => "throw-away service",
        Class::Relay => "passes mail on to a hidden address",
        Class::House => "your own",
        Class::Business => "a public domain on no list",
        class if !class.is_built_in() => "from your list",
        _ => "",
    }
}

fn places(report: &CleanReport, out: &mut String) {
    let counts = &report.counts;
    let _ = writeln!(
        out,
        "\n{} {}",
        style::title("Every record is in one place"),
        style::dim(&format!("({}/)", report.folder.display()))
    );
    let figures: Vec<Figure> = Outcome::ALL
        .iter()
        .map(|&outcome| {
            let stem = outcome.file_stem();
            let file = report.outputs.iter().find(|output| output.name.starts_with(&format!("{stem}.")));
            (outcome, file.map_or_else(String::new, |file| file.name.clone()))
        })
        .filter(|(outcome, _)| counts.of(*outcome) > 0 || *outcome == Outcome::Kept)
        .map(|(outcome, file)| Figure::new(outcome.word(), counts.of(outcome), Some(counts.records), file))
        .collect();
    out.push_str(&block(&figures));
    let sum: u64 = counts.outcomes.iter().sum();
    let terms: Vec<String> =
        Outcome::ALL.iter().map(|&o| counts.of(o)).filter(|&count| count > 0).map(number).collect();
    let adds_up = if sum == counts.records {
        style::good("✓")
    } else {
        style::bad("does not add up: please report it")
    };
    let terms = if terms.is_empty() { "0".into() } else { terms.join(" + ") };
    let _ = writeln!(out, "  {terms} = {} read {adds_up}", counted(counts.records, "record", "records"));
}

fn troubles(report: &CleanReport, out: &mut String) {
    let (counts, tally) = (&report.counts, &report.counts.tally);
    let mut lines: Vec<String> = Vec::new();
    if tally.at_sign_left > 0 {
        lines.push(left_over(report));
    }
    let ragged = tally.short + tally.long;
    if ragged > 0 {
        let places: Vec<String> = counts
            .ragged_lines
            .iter()
            .map(|(_, line, cells)| format!("{} ({cells})", number(*line)))
            .collect();
        let more = if ragged > places.len() as u64 { ", …" } else { "" };
        lines.push(format!(
            "{} not have {} cells like the header; short ones were filled up, surplus cells follow the added columns.\n  Lines (cells): {}{more}",
            counted(ragged, "record does", "records do"),
            report.plan.fields.len(),
            places.join(", "),
        ));
    }
    if let Some((source, byte)) = counts.not_utf8_at {
        lines.push(format!(
            "{} bytes that are not UTF-8, first at byte {} of {}; they pass through unchanged",
            counted(tally.not_utf8, "record has", "records have"),
            number(byte),
            report.sources[source].name,
        ));
    }
    if counts.blank_lines > 0 {
        lines.push(format!(
            "{} passed over",
            counted(counts.blank_lines, "blank line was", "blank lines were")
        ));
    }
    if lines.is_empty() {
        return;
    }
    let _ = writeln!(out, "\n{}", style::title("To know"));
    for line in lines {
        let _ = writeln!(out, "  {line}");
    }
}

fn left_over(report: &CleanReport) -> String {
    let tally = &report.counts.tally;
    let left =
        counted(tally.at_sign_left, "record without an address holds", "records without an address hold");
    let mut reachable: Vec<(u64, &str)> = tally
        .reachable
        .iter()
        .zip(&report.plan.fields)
        .filter(|(count, _)| **count > 0)
        .map(|(count, field)| (*count, &**field))
        .collect();
    reachable.sort_by_key(|(count, _)| std::cmp::Reverse(*count));
    if reachable.is_empty() {
        return format!("{left} an @ in another field, but no address");
    }
    let options: Vec<String> =
        reachable.iter().map(|(_, field)| format!("--also {}", for_shell(field))).collect();
    let most: Vec<String> = reachable
        .iter()
        .map(|(count, field)| format!("{} in {}", number(*count), shown(field.as_bytes())))
        .collect();
    format!("{left} an @ elsewhere; addresses: {}. To reach them: {}", most.join(", "), options.join(" "))
}
