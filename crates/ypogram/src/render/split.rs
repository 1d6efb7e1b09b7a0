//! The summary of `split`: how many addresses were split, how sure the names are, and what a cut did not fit.

use ypogram_core::names::NameConfidence;
use ypogram_core::{Code, Part, Verdict, shown};
use ypogram_io::Target;
use ypogram_jobs::check::CheckReport;
use ypogram_jobs::split::SplitWanted;

use crate::call::Call;
use crate::render::check::answer;
use crate::render::figures::Figure;
use crate::render::head::{Head, JudgedBy};
use crate::render::judged::{elsewhere, usable, warn_of_nothing};
use crate::render::notes::Notes;
use crate::render::places::{example, place, place_of};
use crate::render::plain_table::plain_table;
use crate::render::style;
use crate::render::summary::{Block, Summary};
use crate::render::words::counted;

/// What was split, for people.
pub(crate) fn summary(
    report: &CheckReport,
    wanted: &SplitWanted,
    call: &Call,
    by: JudgedBy<'_>,
    target: Option<&Target>,
) -> Summary {
    let mut summary = Summary::new(answer(report));
    summary.head(Head::of(&report.sources, &report.plan, by).lines());
    if !wanted.parts.is_empty() {
        summary.block(usable(&report.tally, &report.plan, report.records));
    }
    if wanted.wants_names() {
        names(report, &mut summary);
    }
    summary.block(cuts(report, wanted));
    let mut notes = Notes::default();
    notes.say_all(&report.notes);
    notes.say_all(&by.unfit_entries());
    notes.blank_lines_and_formulas(report.blank_lines, report.formula_cells, call.guards_formulas());
    let looks_at_addresses = !wanted.parts.is_empty();
    if looks_at_addresses {
        warn_of_nothing(report.tally.verdicts.iter().sum(), report.records, &mut notes);
    }
    if let Some(target) = target {
        let rows = counted(report.written, "row", "rows");
        let added = match report.tally.rows_added {
            0 => String::new(),
            added => format!(
                " ({} + {})",
                counted(report.written - added, "record", "records"),
                counted(added, "further address", "further addresses")
            ),
        };
        notes.say(format!("{rows} written {}{added}", place(target)));
    }
    summary.block(notes.block());
    if looks_at_addresses {
        elsewhere(&report.tally, &report.plan, call.again("split"), &mut summary);
        let rejected = report.tally.verdicts[Verdict::Reject as usize];
        let why = call.again("check").option("show", "verdict=reject");
        summary.step(rejected, "rejected, whose parts are empty:", &why);
    }
    summary
}

fn names(report: &CheckReport, summary: &mut Summary) {
    let tally = &report.tally;
    let all: u64 = tally.names.iter().sum();
    let figures: Vec<Figure> = NameConfidence::ALL
        .iter()
        .rev()
        .map(|confidence| (confidence, tally.names[*confidence as usize]))
        .map(|(confidence, count)| Figure::new(confidence.word(), count, Some(all), remark(*confidence)))
        .collect();
    let of =
        format!("how much of a name there is, of {}", counted(all, "usable address", "usable addresses"));
    summary.block(Block::of("Names in the addresses", &of, &figures).whole());
    let differing = tally.findings[Code::NameDiffers.index()];
    if differing > 0 {
        let example = example(tally, &report.sources, Code::NameDiffers);
        let figure = Figure::new(Code::NameDiffers.name(), differing, None, example);
        summary.block(Block::of("The name in the address is not that of the record", "", &[figure]).whole());
    }
}

fn remark(confidence: NameConfidence) -> &'static str {
    match confidence {
        NameConfidence::TwoWords => "first and last name",
        NameConfidence::InitialAndWord => "an initial and a last name",
        NameConfidence::OneWord => "one word: first or last name, nobody can tell",
        NameConfidence::None => "role accounts, nicknames with numbers, strings: no name was made of them",
    }
}

fn cuts(report: &CheckReport, wanted: &SplitWanted) -> Block {
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
    Block::of("Cuts that did not fit", "records", &figures)
}

/// The parts that there are.
pub(crate) fn parts() -> String {
    let mut table = plain_table();
    for part in Part::ALL {
        table.add_row([format!(" {}", part.name()), part.what().to_owned()]);
    }
    format!("{}\n{}\n", style::title("Parts of an address"), table.trim_fmt())
}
