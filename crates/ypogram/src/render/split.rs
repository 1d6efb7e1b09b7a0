//! The summary of `split`: how many addresses were split, how sure the names are, and what a cut did not fit.

use std::fmt::Write as _;

use comfy_table::{ContentArrangement, Table, presets};
use ypogram_core::names::NameConfidence;
use ypogram_core::{Code, Part, Verdict, shown};
use ypogram_jobs::check::CheckReport;
use ypogram_jobs::split::SplitWanted;
use ypogram_tables::Target;

use crate::render::clean::{example, place_of};
use crate::render::figures::{Figure, block};
use crate::render::head::{Head, JudgedBy};
use crate::render::style;
use crate::render::words::{counted, number};

/// What was split, for people.
pub(crate) fn summary(
    report: &CheckReport,
    wanted: &SplitWanted,
    by: JudgedBy<'_>,
    target: Option<&Target>,
) -> String {
    let mut out = String::new();
    Head::of(&report.sources, &report.plan, by).write(&mut out);
    if !wanted.parts.is_empty() {
        addresses(report, &mut out);
    }
    if wanted.wants_names() {
        names(report, &mut out);
    }
    cuts(report, wanted, &mut out);
    let rows = counted(report.written, "row", "rows");
    let added = match report.tally.rows_added {
        0 => String::new(),
        added => format!(
            " ({} + {} for further addresses)",
            counted(report.written - report.tally.rows_added, "record", "records"),
            number(added)
        ),
    };
    match target {
        None => {}
        Some(Target::Standard) => {
            let _ = writeln!(out, "\n{rows} written to standard output{added}");
        }
        Some(Target::File { path, .. }) => {
            let _ = writeln!(out, "\n{rows} written to {}{added}", path.display());
        }
    }
    out
}

fn addresses(report: &CheckReport, out: &mut String) {
    let tally = &report.tally;
    let rejected = tally.verdicts[Verdict::Reject as usize];
    let of = Some(report.records);
    let _ = writeln!(
        out,
        "{} {}",
        style::title("Addresses"),
        style::dim(&format!("({})", counted(report.records, "record", "records")))
    );
    let mut figures = vec![Figure::new("split", tally.usable(), of, "")];
    if rejected > 0 {
        figures.push(Figure::new(
            "rejected",
            rejected,
            of,
            "their columns are empty; `ypogram check` tells why",
        ));
    }
    if report.no_address > 0 {
        figures.push(Figure::new("no address", report.no_address, of, "their columns are empty"));
    }
    out.push_str(&block(&figures));
}

fn names(report: &CheckReport, out: &mut String) {
    let tally = &report.tally;
    let all: u64 = tally.names.iter().sum();
    let _ = writeln!(
        out,
        "\n{} {}",
        style::title("Names in the addresses"),
        style::dim("(how much of a name there is)")
    );
    let figures: Vec<Figure> = NameConfidence::ALL
        .iter()
        .rev()
        .map(|confidence| (confidence, tally.names[*confidence as usize]))
        .map(|(confidence, count)| Figure::new(confidence.word(), count, Some(all), remark(*confidence)))
        .collect();
    out.push_str(&block(&figures));
    let differing = tally.findings[Code::NameDiffers.index()];
    if differing > 0 {
        let figure = Figure::new(
            Code::NameDiffers.name(),
            differing,
            None,
            example(tally, &report.sources, Code::NameDiffers),
        );
        let _ = writeln!(out, "\n{}", style::title("The name in the address is not that of the record"));
        out.push_str(&block(&[figure]));
    }
}

fn remark(confidence: NameConfidence) -> &'static str {
    match confidence {
        NameConfidence::TwoWords => "first and last name",
        NameConfidence::InitialAndWord => "an initial and a last name",
        NameConfidence::OneWord => "one word: first or last name, nobody can tell",
        NameConfidence::None => "desks, nicknames with numbers, strings: no name was made of them",
    }
}

fn cuts(report: &CheckReport, wanted: &SplitWanted, out: &mut String) {
    if wanted.cuts.is_empty() {
        return;
    }
    let _ = writeln!(
        out,
        "{}{}",
        if out.ends_with("\n\n") { "" } else { "\n" },
        style::title("Cuts that did not fit")
    );
    let figures: Vec<Figure> = wanted
        .cuts
        .iter()
        .zip(&report.tally.cut_misses)
        .zip(&report.tally.cut_examples)
        .map(|((cut, misses), example)| {
            let remark = example.as_ref().map_or_else(
                || "every filled cell was cut".to_owned(),
                |example| {
                    let text = shown(example.text.as_bytes());
                    format!("left empty; {}: {text}", place_of(example, &report.sources))
                },
            );
            Figure::new(shown(cut.field.as_bytes()), *misses, None, remark)
        })
        .collect();
    out.push_str(&block(&figures));
}

/// The parts that there are.
pub(crate) fn parts() -> String {
    let mut table = Table::new();
    table.load_style(presets::NOTHING).set_content_arrangement(ContentArrangement::Disabled);
    for part in Part::ALL {
        table.add_row([format!(" {}", part.name()), part.what().to_owned()]);
    }
    format!("{}\n{}\n", style::title("Parts of an address"), table.trim_fmt())
}
