//! The summary of `check`: by verdict, and by finding with an example of each.

use ypogram_core::{Code, Severity, shown};
use ypogram_io::Target;
use ypogram_jobs::Outcome;
use ypogram_jobs::check::CheckReport;

use crate::call::Call;
use crate::render::figures::Figure;
use crate::render::head::{Head, JudgedBy};
use crate::render::house;
use crate::render::judged::{elsewhere, field_faults, lookups, patterns, set_aside, usable, warn_of_nothing};
use crate::render::notes::Notes;
use crate::render::places::{example, place};
use crate::render::style;
use crate::render::summary::{Block, Summary, outcomes};
use crate::render::words::{counted, number};

/// What was found, for people.
pub(crate) fn summary(
    report: &CheckReport,
    call: &Call,
    by: JudgedBy<'_>,
    show: Option<&str>,
    target: Option<&Target>,
) -> Summary {
    let mut summary = Summary::new(answer(report));
    summary.head(Head::of(&report.sources, &report.plan, by).lines());
    summary.block(usable(&report.tally, &report.plan, report.records));
    summary.block(field_faults(&report.tally, &report.sources));
    summary.block(lookups(&report.tally));
    summary.block(patterns(&report.tally));
    summary.block(house::parts(&report.tally));
    findings(report, &mut summary);
    summary.block(house::clashes(&report.tally));
    set_aside(&report.tally, &report.selection, &mut summary);
    let mut notes = Notes::default();
    notes.say_all(&report.notes);
    notes.say_all(&by.unfit_entries());
    notes.count(
        report.from_memory,
        "record was decided about in an earlier run",
        "records were decided about in earlier runs",
    );
    notes.blank_lines_and_formulas(report.blank_lines, report.formula_cells, call.guards_formulas());
    warn_of_nothing(report.tally.verdicts.iter().sum(), report.records, &mut notes);
    if let Some(target) = target {
        let records = counted(report.written, "record", "records");
        let with = show.map_or_else(String::new, |show| format!(": those with {}", shown(show.as_bytes())));
        notes.say(format!("{records} written {}{with}", place(target)));
    }
    if let Some(filled) = report.filled {
        let changed = counted(filled.changed, "row", "rows");
        notes.say(format!("{changed} filled; {} said the same already", number(filled.same)));
        if filled.moved > 0 {
            notes.say(format!(
                "{} changed or went away meanwhile and are as they were: run it again",
                counted(filled.moved, "row", "rows")
            ));
        }
    }
    let is_again = show.is_none() && report.filled.is_none();
    if is_again && report.tally.findings.iter().any(|&count| count > 0) {
        notes.say(style::dim(&format!("the records behind a line: {} --show …", call.again("check"))));
    }
    summary.block(notes.block());
    if is_again {
        steps(report, call, &mut summary);
    }
    summary
}

/// The first line: where the records would end if there were no duplicates.
pub(crate) fn answer(report: &CheckReport) -> String {
    let of = |outcome: Outcome| report.tally.outcomes[outcome as usize];
    let mut counts = vec![
        ("accepted", of(Outcome::Kept)),
        ("review", of(Outcome::Review)),
        ("rejected", of(Outcome::Rejected)),
        ("no-address", report.no_address),
    ];
    if !report.selection.is_everything() {
        counts.push(("set aside", of(Outcome::SetAside)));
    }
    outcomes(&counts, report.records)
}

fn findings(report: &CheckReport, summary: &mut Summary) {
    for (rank, severity, head) in [
        (1, Severity::Reject, "What rejects"),
        (2, Severity::Review, "What asks for a decision"),
        (3, Severity::Note, "Noted"),
    ] {
        let of_severity = |code: &Code| report.severities[code.index()] == severity;
        let mut figures: Vec<Figure> = Code::all()
            .filter(of_severity)
            .map(|code| (code, report.tally.findings[code.index()]))
            .filter(|(_, count)| *count > 0)
            .map(|(code, count)| {
                let example = example(&report.tally, &report.sources, code);
                Figure::new(code.name(), count, None, example).shown_by(&format!("finding={}", code.name()))
            })
            .collect();
        figures.sort_by_key(|figure| std::cmp::Reverse(figure.count));
        summary.block(Block::of(head, "records; one can have several", &figures).rank(rank));
    }
}

fn steps(report: &CheckReport, call: &Call, summary: &mut Summary) {
    elsewhere(&report.tally, &report.plan, call.again("check"), summary);
    let [_, review, reject] = report.tally.verdicts[..] else { unreachable!("there are three verdicts") };
    let show = |condition: &str| call.again("check").option("show", condition);
    summary.step(reject, "rejected, with the reason:", &show("verdict=reject"));
    summary.step(review, "to decide:", &show("verdict=review"));
    summary.step(report.records, "records, sorted into files:", &call.again("clean"));
}
