//! The summary of `clean`, in the order in which an administrator asks.

use ypogram_core::{Class, Code, Repair, WordOf};
use ypogram_io::{Format, NotUtf8};
use ypogram_jobs::clean::CleanReport;
use ypogram_jobs::{Outcome, Shared, Tally};

use crate::call::Call;
use crate::render::figures::Figure;
use crate::render::head::{Head, JudgedBy};
use crate::render::house;
use crate::render::judged::{elsewhere, field_faults, lookups, patterns, set_aside, usable, warn_of_nothing};
use crate::render::notes::Notes;
use crate::render::places::example;
use crate::render::style;
use crate::render::summary::{Block, Summary, outcomes};
use crate::render::words::{counted, for_shell, number};

/// What was found, for people. Where nothing was written, no file is named.
pub(crate) fn summary(report: &CleanReport, call: &Call, by: JudgedBy<'_>, shared: Shared) -> Summary {
    let mut summary = Summary::new(answer(report));
    summary.head(Head::of(&report.sources, &report.plan, by).lines());
    let counts = &report.counts;
    summary.block(places(report));
    summary.block(decided(report));
    summary.block(changed(report));
    summary.block(usable(&counts.tally, &report.plan, counts.rows()));
    summary.block(repaired(&counts.tally));
    summary.block(field_faults(&counts.tally, &report.sources));
    summary.block(lookups(&counts.tally));
    summary.block(patterns(&counts.tally));
    summary.block(house::parts(&counts.tally));
    summary.block(house::clashes(&counts.tally));
    summary.block(reasons(report, "Rejected", "under the first reason", &counts.tally.rejected));
    let decide = match report.is_settled_later() {
        true => format!(
            "decide in the column {}decision, then ypogram settle {}",
            report.prefix,
            for_shell(&report.folder.display().to_string())
        ),
        false => "for you to decide".to_owned(),
    };
    summary.block(reasons(report, "Review", &decide, &counts.tally.review));
    set_aside(&counts.tally, &report.selection, &mut summary);
    summary.block(classes(report));
    let mut notes = notes(report, shared, call.guards_formulas());
    notes.say_all(&by.unfit_entries());
    summary.block(notes.block());
    steps(report, call, &mut summary);
    summary
}

/// The first line.
fn answer(report: &CleanReport) -> String {
    let counts = &report.counts;
    let of = |outcome: Outcome| {
        let own = report.words.own(WordOf::Outcome, outcome.word());
        let built_in = if outcome == Outcome::SetAside { "set aside" } else { outcome.word() };
        (own.unwrap_or(built_in), counts.of(outcome))
    };
    let mut told =
        [Outcome::Kept, Outcome::Review, Outcome::Rejected, Outcome::Duplicate, Outcome::NoAddress]
            .map(of)
            .to_vec();
    told.push(of(Outcome::SetAside));
    let added = match counts.tally.rows_added {
        0 => String::new(),
        added => format!(" + {}", counted(added, "further address", "further addresses")),
    };
    outcomes(&told, counts.records) + &added
}

fn places(report: &CleanReport) -> Block {
    let counts = &report.counts;
    let figures: Vec<Figure> = Outcome::ALL
        .iter()
        .map(|&outcome| {
            let stem = outcome.file_stem();
            let file = report.outputs.iter().find(|output| is_of(&output.name, stem));
            (outcome, file.map_or_else(String::new, |file| file.name.clone()))
        })
        .filter(|(outcome, _)| counts.of(*outcome) > 0 || *outcome == Outcome::Kept)
        .map(|(outcome, file)| {
            let label = report.words.label(WordOf::Outcome, outcome.word());
            Figure::new(label, counts.of(outcome), Some(counts.rows()), file)
        })
        .collect();
    let sum: u64 = counts.outcomes.iter().sum();
    let terms: Vec<String> =
        Outcome::ALL.iter().map(|&o| counts.of(o)).filter(|&count| count > 0).map(number).collect();
    let adds_up = match sum == counts.rows() {
        true => style::good("✓"),
        false => style::bad("does not add up: please report it"),
    };
    let terms = if terms.is_empty() { "0".into() } else { terms.join(" + ") };
    let read = counted(counts.records, "record", "records");
    let read = match counts.tally.rows_added {
        0 => format!("{read} read"),
        added => format!("{read} read + {}", counted(added, "further address", "further addresses")),
    };
    let remark = match is_book(report) {
        true => report.folder.display().to_string(),
        false => format!("{}/", report.folder.display()),
    };
    let what = if counts.tally.rows_added == 0 {
        "Every record is in one place"
    } else {
        "Every row is in one place"
    };
    Block::of(what, &remark, &figures).whole().note(format!("{terms} = {read} {adds_up}"))
}

/// What somebody decided.
fn decided(report: &CleanReport) -> Block {
    let by_kind = report.counts.decisions_by_kind();
    let all: u64 = by_kind.values().sum();
    let told = [
        ("kept", "kept", "as it is"),
        ("taken", "taken", "what was suggested"),
        ("typed", "typed", "another address"),
        ("moved", "moved", "the new address of a mailbox that has moved"),
        ("dropped", "dropped", "to rejected, or to duplicates where it stood against another record"),
        ("from_memory", "from memory", "decided in an earlier run"),
    ];
    let figures: Vec<Figure> = told
        .into_iter()
        .map(|(kind, shown, what)| {
            Figure::new(shown, by_kind.get(kind).copied().unwrap_or_default(), None, what)
        })
        .filter(|figure| figure.count > 0)
        .collect();
    Block::of("Decided", &counted(all, "record", "records"), &figures).whole()
}

/// What changed since an earlier run.
fn changed(report: &CleanReport) -> Block {
    let since = report.since.unwrap_or_default();
    let told = [
        ("new", since.new, "were not there"),
        ("gone", since.gone, "are not there any more"),
        ("changed", since.changed, "ended as before, with other fields"),
        ("moved", since.moved, "ended elsewhere"),
    ];
    let figures: Vec<Figure> =
        told.into_iter().map(|(name, count, what)| Figure::new(name, count, None, what)).collect();
    match report.since {
        Some(_) => Block::of("Since the earlier run", "records; see changes.csv", &figures).whole(),
        None => Block::of("Since the earlier run", "", &[]),
    }
}

fn repaired(tally: &Tally) -> Block {
    let repairs = Repair::ALL.iter().map(|repair| (repair, tally.repairs[*repair as usize]));
    let mut figures: Vec<Figure> = repairs
        .filter(|(_, count)| *count > 0)
        .map(|(repair, count)| Figure::new(repair.name(), count, None, repair.sentence()))
        .collect();
    figures.sort_by_key(|figure| std::cmp::Reverse(figure.count));
    Block::of("Repaired", "usable records; one can have several", &figures).rank(4)
}

fn reasons(report: &CleanReport, head: &str, remark: &str, counts: &[u64]) -> Block {
    let all: u64 = counts.iter().sum();
    let mut figures: Vec<Figure> = Code::all()
        .map(|code| (code, counts[code.index()]))
        .filter(|(_, count)| *count > 0)
        .map(|(code, count)| {
            Figure::new(code.name(), count, None, example(&report.counts.tally, &report.sources, code))
        })
        .collect();
    figures.sort_by_key(|figure| std::cmp::Reverse(figure.count));
    Block::of(head, &format!("{}, {remark}", counted(all, "record", "records")), &figures).rank(2)
}

fn classes(report: &CleanReport) -> Block {
    let counts = &report.counts;
    let handed_over: u64 = counts.handed_over.iter().sum();
    let mut figures: Vec<Figure> = Class::all()
        .map(|class| (class, counts.handed_over[class.index()]))
        .filter(|(class, count)| *count > 0 || *class == Class::Free)
        .map(|(class, count)| {
            let label = report.words.label(WordOf::Class, class.word());
            Figure::new(label, count, Some(handed_over), kind_remark(class))
        })
        .collect();
    figures.sort_by_key(|figure| std::cmp::Reverse(figure.count));
    let remark =
        format!("of {}", counted(handed_over, "record kept or for review", "records kept or for review"));
    let block = Block::of("Classes", &remark, &figures).rank(3);
    match counts.tally.listed {
        0 => block,
        listed => block.note(format!(
            "{} free by published lists alone, which can be out of date",
            counted(listed, "usable record is", "usable records are")
        )),
    }
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

fn notes(report: &CleanReport, shared: Shared, guarded: bool) -> Notes {
    let (counts, tally) = (&report.counts, &report.counts.tally);
    let mut notes = Notes::default();
    notes.say_all(&report.notes);
    warn_of_nothing(tally.verdicts.iter().sum(), counts.records, &mut notes);
    notes.say(format!(
        "{} among the usable{}",
        counted(counts.mailboxes, "mailbox", "mailboxes"),
        match (counts.shared, shared) {
            (0, _) => String::new(),
            (count, shared) => format!(
                "; {} one with another person: {}",
                counted(count, "record shares", "records share"),
                match (shared, counts.shared_decided) {
                    (Shared::Keep, _) => "kept as well".to_owned(),
                    (_, 0) => "for review".to_owned(),
                    (_, decided) if decided == count => "as was decided".to_owned(),
                    (_, decided) => format!("{} as was decided, the others for review", number(decided)),
                }
            ),
        }
    ));
    if let Some(filled) = report.filled {
        notes.say(match (filled.cells, is_book(report)) {
            (0, _) => "no cell was filled from duplicates: none that stays lacks what they have".to_owned(),
            (cells, is_book) => format!(
                "{} in {} from duplicates{}",
                counted(cells, "cell was filled", "cells were filled"),
                counted(filled.records, "record", "records"),
                if is_book { "" } else { ": see filled.csv" }
            ),
        });
    }
    notes.unclear_preference(report.unclear.unreadable, report.unclear.either_way);
    if tally.at_sign_left > 0 {
        let left = counted(
            tally.at_sign_left,
            "record without a usable address holds",
            "records without a usable address hold",
        );
        notes.say(format!("{left} an @ in another field"));
    }
    let ragged = tally.short + tally.long;
    if ragged > 0 {
        let places: Vec<String> = counts
            .ragged_lines
            .iter()
            .map(|(_, line, cells)| format!("{} ({cells})", number(*line)))
            .collect();
        let more = if ragged > places.len() as u64 { ", …" } else { "" };
        notes.say(format!(
            "{} not have {} cells like the header; short ones were filled up, surplus cells follow the added columns; lines (cells): {}{more}",
            counted(ragged, "record does", "records do"),
            report.plan.fields.len(),
            places.join(", "),
        ));
    }
    if let Some((source, at)) = counts.not_utf8 {
        let place = match at {
            NotUtf8::Byte(byte) => format!("at byte {}", number(byte)),
            NotUtf8::Line(line) => format!("in line {}", number(line)),
        };
        notes.say(format!(
            "{} bytes that are not UTF-8, first {place} of {}; they pass through unchanged",
            counted(tally.not_utf8, "record has", "records have"),
            report.sources[source].name,
        ));
    }
    notes.blank_lines_and_formulas(counts.blank_lines, counts.formula_cells, guarded);
    notes
}

fn steps(report: &CleanReport, call: &Call, summary: &mut Summary) {
    let counts = &report.counts;
    let beside = |what: &str| match is_book(report) {
        true => format!("{}-{what}.xlsx", report.folder.with_extension("").display()),
        false => format!("{}-{what}", report.folder.display()),
    };
    let to = |what: &str| call.again("clean").option("o", &beside(what));
    elsewhere(&counts.tally, &report.plan, to("more"), summary);
    if counts.further_not_kept > 0 {
        let what = format!(
            "further usable addresses, {} of them in no kept record:",
            number(counts.further_not_kept)
        );
        summary.step(counts.tally.more, &what, &to("per-address").flag("row-per-address"));
    }
    step_to_file(report, Outcome::Review, "to decide:", summary);
    if report.is_settled_later() {
        let [likely, sure] = counts.suggestions;
        let (count, confidence) = if sure > 0 { (sure, "sure") } else { (likely, "likely") };
        let folder = for_shell(&report.folder.display().to_string());
        let how = format!("ypogram settle --take {confidence} {folder}");
        summary.step_to(count, &format!("{confidence} suggestions, to take them all:"), how);
    }
    step_to_file(report, Outcome::Rejected, "rejected, with the reason:", summary);
    step_to_file(report, Outcome::Kept, "kept, to be used:", summary);
}

fn step_to_file(report: &CleanReport, outcome: Outcome, what: &str, summary: &mut Summary) {
    let file = report.outputs.iter().find(|output| is_of(&output.name, outcome.file_stem()));
    if let Some(file) = file {
        let between = if is_book(report) { '#' } else { '/' };
        summary.step_to(file.records, what, format!("{}{between}{}", report.folder.display(), file.name));
    }
}

/// Whether the outputs are sheets of a workbook.
fn is_book(report: &CleanReport) -> bool {
    Format::named_by(&report.folder) == Some(Format::Xlsx)
}

/// Whether an output of that name is the one of an outcome: a file, or a sheet.
fn is_of(name: &str, stem: &str) -> bool {
    name.split('.').next() == Some(stem)
}
