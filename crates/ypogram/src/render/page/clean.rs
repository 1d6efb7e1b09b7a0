//! What came of a list that was cleaned, as a page for whoever asked for it.

use ypogram_core::{Class, Code, Repair, WordOf, shown};
use ypogram_jobs::clean::CleanReport;
use ypogram_jobs::{Example, Outcome};

use crate::render::figure_names::Figures;
use crate::render::page::examples::Examples;
use crate::render::page::parts::{Cell, Count, Figure, Page, Part, Section, Sort, Table, Tile, bars};
use crate::render::words::{counted, number, share};

/// The page.
pub(crate) fn clean(report: &CleanReport, examples: &Examples) -> Page {
    let counts = &report.counts;
    let names: Vec<String> = report.sources.iter().map(|source| shown(source.name.as_bytes())).collect();
    let kept = report.words.own(WordOf::Outcome, Outcome::Kept.word()).unwrap_or("kept");
    let rows = if counts.tally.rows_added == 0 { "records" } else { "records and further addresses" };
    let mut subtitle = format!("address field: {}", report.plan.address_names().join(", "));
    if !report.plan.text.is_empty() {
        subtitle.push_str(&format!(" · text field: {}", report.plan.text_names().join(", ")));
    }
    let source = |source: &ypogram_jobs::SourceReport| {
        format!(
            "{}: {}, {} bytes, BLAKE3 {}",
            shown(source.name.as_bytes()),
            source.format,
            number(source.bytes),
            source.blake3
        )
    };
    Page {
        title: format!("{}, cleaned", names.join(", ")),
        answer: format!("{} of {} {rows} {kept}", number(counts.of(Outcome::Kept)), number(counts.rows())),
        subtitle,
        sections: sections(report, examples),
        sources: report.sources.iter().map(source).collect(),
    }
}

fn sections(report: &CleanReport, examples: &Examples) -> Vec<Section> {
    let counts = &report.counts;
    let mut sections = vec![
        Section::new("", "", vec![Part::Tiles(tiles(report))]),
        outcomes(report, examples),
        before_and_after(report),
        duplicates(report),
    ];
    sections.extend(repairs(report, examples));
    sections.extend(reasons(
        report,
        examples,
        "Why records were rejected",
        "rejected",
        &counts.tally.rejected,
    ));
    sections.extend(reasons(report, examples, "What is left to decide", "review", &counts.tally.review));
    sections.extend(set_aside(report));
    sections.extend(classes(report, examples));
    sections.extend(decided(report));
    sections.extend(changed(report));
    sections.push(receipt(report));
    sections
}

fn tiles(report: &CleanReport) -> Vec<Tile> {
    let counts = &report.counts;
    let rows = counts.rows();
    let label = |outcome: Outcome| report.words.label(WordOf::Outcome, outcome.word()).to_owned();
    let of_outcome = |outcome: Outcome| Tile {
        count: Count::new(outcome.word(), counts.of(outcome)),
        label: label(outcome),
        remark: share(counts.of(outcome), rows),
    };
    let added = match counts.tally.rows_added {
        0 => counted(report.plan.fields.len() as u64, "field", "fields"),
        added => format!("+ {}", counted(added, "further address", "further addresses")),
    };
    let mut tiles = vec![
        Tile { count: Count::new("records", counts.records), label: "records read".into(), remark: added },
        of_outcome(Outcome::Kept),
        of_outcome(Outcome::Review),
        of_outcome(Outcome::Rejected),
        of_outcome(Outcome::Duplicate),
    ];
    tiles.push(Tile {
        count: Count::new("mailboxes", counts.mailboxes),
        label: "mailboxes".into(),
        remark: "among the usable".into(),
    });
    tiles
}

fn outcomes(report: &CleanReport, examples: &Examples) -> Section {
    let counts = &report.counts;
    let rows = counts.rows();
    let colour = |outcome| match outcome {
        Outcome::Kept => "good",
        Outcome::Review => "doubt",
        Outcome::Rejected => "bad",
        Outcome::Duplicate => "twin",
        Outcome::SetAside => "aside",
        Outcome::NoAddress => "none",
    };
    let there = Outcome::ALL.into_iter().filter(|outcome| counts.of(*outcome) > 0);
    let part = |outcome: Outcome| {
        let (name, count) = (outcome.word(), counts.of(outcome));
        Figure::new(report.words.label(WordOf::Outcome, name), Count::new(name, count), (rows, rows))
            .in_colour(colour(outcome))
            .opening(examples.behind(name, count))
    };
    let figures: Vec<Figure> = there.map(part).collect();
    let sum: Vec<&str> = figures.iter().map(|figure| &*figure.count.shown).collect();
    let read = match counts.tally.rows_added {
        0 => format!("{} records read", number(counts.records)),
        added => format!("{} records read + {} further addresses", number(counts.records), number(added)),
    };
    let adds_up = format!("{} = {read}", if sum.is_empty() { "0".to_owned() } else { sum.join(" + ") });
    Section::new("Where every record is", "each in one place", vec![Part::Division(figures)]).noting(adds_up)
}

fn before_and_after(report: &CleanReport) -> Section {
    let (tally, rows) = (&report.counts.tally, report.counts.rows());
    let bar = |label: &str, name: &str, count, class: &str| {
        Figure::new(label, Count::new(name, count), (rows, rows)).in_colour(class)
    };
    let mut figures = vec![
        bar("as they stood", "usable-as-it-stood", tally.as_it_stood, "good"),
        bar("+ after repair", "usable-after-repair", tally.after_repair, "mended"),
    ];
    if !report.plan.text.is_empty() {
        figures.push(bar("+ from text fields", "usable-from-text", tally.from_text, "text"));
    }
    figures.push(bar("= usable now", "usable", tally.usable(), "good"));
    Section::new("Usable before and after", "accepted or for review", vec![Part::Bars(figures)]).half()
}

fn duplicates(report: &CleanReport) -> Section {
    let counts = &report.counts;
    let mut table = Table::of(&[("", Sort::Text), ("", Sort::Number)]);
    let mut add =
        |what: &str, name: &str, count| table.add(vec![what.into(), Count::new(name, count).into()], None);
    add("distinct mailboxes among the usable records", "mailboxes", counts.mailboxes);
    add("records of a mailbox that another record has already", "duplicate", counts.of(Outcome::Duplicate));
    add("records that share a mailbox with another person", "shared-mailbox", counts.shared);
    if let Some(filled) = report.filled {
        add("cells that were filled from duplicates", "merged-cells", filled.cells);
    }
    Section::new("Duplicates", "", vec![Part::Table(table)]).half()
}

fn repairs(report: &CleanReport, examples: &Examples) -> Option<Section> {
    let tally = &report.counts.tally;
    let mut figures: Vec<(Repair, u64)> =
        Repair::ALL.iter().map(|repair| (*repair, tally.repairs[*repair as usize])).collect();
    figures.retain(|(_, count)| *count > 0);
    figures.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
    let mut table =
        Table::of(&[("repair", Sort::Name), ("records", Sort::Number), ("what was done", Sort::Text)]);
    for (repair, count) in figures {
        let name = format!("repair.{}", repair.name());
        let records = examples.behind(&name, count);
        table.add(
            vec![repair.name().into(), Count::new(name, count).into(), repair.sentence().into()],
            records,
        );
    }
    let remark = "usable records; one can have several";
    (!table.rows.is_empty()).then(|| Section::new("What was repaired", remark, vec![Part::Table(table)]))
}

/// Records by the finding under which they count.
fn reasons(
    report: &CleanReport,
    examples: &Examples,
    title: &str,
    kind: &str,
    counts: &[u64],
) -> Option<Section> {
    let mut figures: Vec<(Code, u64)> = Code::all().map(|code| (code, counts[code.index()])).collect();
    figures.retain(|(_, count)| *count > 0);
    figures.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
    let mut table = Table::of(&[
        ("finding", Sort::Name),
        ("records", Sort::Number),
        ("what it says", Sort::Text),
        ("first example", Sort::Code),
    ]);
    for &(code, count) in &figures {
        let name = format!("{kind}.{}", code.name());
        let records = examples.behind(&name, count);
        let example = match &report.counts.tally.examples[code.index()] {
            Some(example) if code != Code::SharedMailbox => {
                place(example, report) + &examples.cell(&example.text)
            }
            _ => String::new(),
        };
        let cells: Vec<Cell> = vec![
            code.name().into(),
            Count::new(name, count).into(),
            report.words.sentence(code).into(),
            example.into(),
        ];
        table.add(cells, records);
    }
    let all: u64 = figures.iter().map(|(_, count)| count).sum();
    let section = Section::new(title, counted(all, "record", "records"), vec![Part::Table(table)]);
    match (all, kind) {
        (0, _) => None,
        (_, "review") => {
            let suggested: u64 = report.counts.suggestions.iter().sum();
            let told = counted(
                suggested,
                "of these and the rejected records has",
                "of these and the rejected records have",
            );
            Some(if suggested > 0 {
                section.noting(format!("{told} a suggestion of what was meant."))
            } else {
                section
            })
        }
        _ => Some(section),
    }
}

/// Where an example stands.
fn place(example: &Example, report: &CleanReport) -> String {
    match report.sources.len() {
        1 => format!("line {}: ", number(example.line)),
        _ => format!(
            "{}, line {}: ",
            shown(report.sources[example.source].name.as_bytes()),
            number(example.line)
        ),
    }
}

fn set_aside(report: &CleanReport) -> Option<Section> {
    if report.selection.is_everything() {
        return None;
    }
    let by_reason = report.counts.tally.set_aside_by_reason(&report.selection);
    let whole: u64 = by_reason.values().sum();
    let figures = by_reason.into_iter().map(|(reason, count)| {
        let name = format!("set-aside.{reason}");
        (reason, Count::new(name, count), None)
    });
    let parts = bars(figures.collect(), whole);
    let remark = counted(
        whole,
        "usable record of a kind that was not asked for",
        "usable records of a kind that was not asked for",
    );
    (!parts.is_empty()).then(|| Section::new("Set aside", remark, parts).half())
}

fn classes(report: &CleanReport, examples: &Examples) -> Option<Section> {
    let counts = &report.counts;
    let whole: u64 = counts.handed_over.iter().sum();
    let mut figures: Vec<(Class, u64)> =
        Class::all().map(|class| (class, counts.handed_over[class.index()])).collect();
    figures.retain(|(_, count)| *count > 0);
    figures.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
    let figures = figures.into_iter().map(|(class, count)| {
        let name = format!("handed-over.{}", class.word());
        let records = examples.behind(&name, count);
        (report.words.label(WordOf::Class, class.word()).to_owned(), Count::new(name, count), records)
    });
    let parts = bars(figures.collect(), whole);
    let remark = format!("of {}", counted(whole, "record kept or for review", "records kept or for review"));
    (!parts.is_empty()).then(|| Section::new("Kinds of mailbox", remark, parts).half())
}

fn decided(report: &CleanReport) -> Option<Section> {
    let told = [
        ("kept", "kept as it is"),
        ("taken", "taken as suggested"),
        ("typed", "another address typed"),
        ("moved", "new address of a mailbox that has moved"),
        ("dropped", "dropped"),
        ("from_memory", "remembered from an earlier run"),
    ];
    let by_kind = report.counts.decisions_by_kind();
    let whole: u64 = by_kind.values().sum();
    let figures = told.into_iter().filter_map(|(kind, label)| {
        let count = by_kind.get(kind).copied()?;
        Some((label.to_owned(), Count::new(format!("decisions.{}", kind.replace('_', "-")), count), None))
    });
    let parts = bars(figures.collect(), whole);
    (!parts.is_empty())
        .then(|| Section::new("What was decided", counted(whole, "record", "records"), parts).half())
}

fn changed(report: &CleanReport) -> Option<Section> {
    let since = report.since?;
    let told = [
        ("new", since.new, "were not there"),
        ("gone", since.gone, "are not there any more"),
        ("changed", since.changed, "are where they were, with other fields"),
        ("moved", since.moved, "ended elsewhere"),
    ];
    let mut table = Table::of(&[("", Sort::Name), ("records", Sort::Number), ("", Sort::Text)]);
    for (word, count, what) in told {
        table.add(vec![word.into(), Count::new(format!("since.{word}"), count).into(), what.into()], None);
    }
    Some(Section::new("What changed since last time", "", vec![Part::Table(table)]).half())
}

/// Every figure under its name, for whoever holds the page against the receipt.
fn receipt(report: &CleanReport) -> Section {
    let mut table = Table::of(&[("figure", Sort::Name), ("count", Sort::Number)]);
    for (name, count) in Figures::of_clean(report).told() {
        table.add(vec![name.into(), Count::new(name, count).into()], None);
    }
    let remark = "those of the receipt; what is nought is left out";
    Section::new("All figures", remark, vec![Part::Table(table)]).closed()
}
