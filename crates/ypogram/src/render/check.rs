//! The summary of `check`: by verdict, and by finding with an example of each.

use std::fmt::Write as _;
use std::path::PathBuf;

use ypogram_core::{Code, Severity, shown};
use ypogram_jobs::Tally;
use ypogram_jobs::check::CheckReport;
use ypogram_tables::Target;

use crate::render::clean::{example, set_aside};
use crate::render::figures::{Figure, block};
use crate::render::head::{Head, JudgedBy};
use crate::render::style;
use crate::render::words::{counted, for_shell_all};

/// What was found, for people.
pub(crate) fn summary(
    report: &CheckReport,
    sources: &[PathBuf],
    by: JudgedBy<'_>,
    show: Option<&str>,
    target: Option<&Target>,
) -> String {
    let mut out = String::new();
    Head::of(&report.sources, &report.plan, by).write(&mut out);
    verdicts(report, &mut out);
    findings(report, &mut out);
    set_aside(&report.tally, &report.selection, &mut out);
    let Some(target) = target else { return out };
    let records = counted(report.written, "record", "records");
    let place = match target {
        Target::Standard => "to standard output".to_owned(),
        Target::File { path, .. } => format!("to {}", path.display()),
    };
    let _ = match show {
        Some(show) => writeln!(out, "\n{records} written {place}: those with {}", shown(show.as_bytes())),
        None => writeln!(out, "\n{records} written {place}"),
    };
    if show.is_none() && report.tally.findings.iter().any(|&count| count > 0) {
        let code = most_frequent(&report.tally);
        let _ = writeln!(
            out,
            "{}",
            style::dim(&format!(
                "the records behind a figure: ypogram check {} --show finding={code}",
                for_shell_all(sources)
            ))
        );
    }
    out
}

fn verdicts(report: &CheckReport, out: &mut String) {
    let [accept, review, reject] = report.tally.verdicts[..] else {
        unreachable!("there are three verdicts")
    };
    let of = Some(report.records);
    let _ = writeln!(
        out,
        "{} {}",
        style::title("Verdicts"),
        style::dim(&format!("({})", counted(report.records, "record", "records")))
    );
    let mut figures = vec![
        Figure::new("accept", accept, of, "usable as they are"),
        Figure::new("review", review, of, "somebody has to decide"),
        Figure::new("reject", reject, of, "not usable"),
    ];
    if report.no_address > 0 {
        figures.push(Figure::new(
            "no address",
            report.no_address,
            of,
            "the fields are empty, or say that there is none",
        ));
    }
    out.push_str(&block(&figures));
}

fn findings(report: &CheckReport, out: &mut String) {
    for (severity, head) in [
        (Severity::Reject, "What rejects"),
        (Severity::Review, "What asks for a decision"),
        (Severity::Note, "Noted"),
    ] {
        let of_severity = |code: &Code| report.severities[code.index()] == severity;
        let mut figures: Vec<Figure> = Code::all()
            .filter(of_severity)
            .map(|code| (code, report.tally.findings[code.index()]))
            .filter(|(_, count)| *count > 0)
            .map(|(code, count)| {
                Figure::new(code.name(), count, None, example(&report.tally, &report.sources, code))
            })
            .collect();
        if figures.is_empty() {
            continue;
        }
        figures.sort_by_key(|figure| std::cmp::Reverse(figure.count));
        let _ = writeln!(out, "\n{} {}", style::title(head), style::dim("(records; one can have several)"));
        out.push_str(&block(&figures));
    }
}

fn most_frequent(tally: &Tally) -> &'static str {
    let most = Code::all().rev().max_by_key(|code| tally.findings[code.index()]);
    most.map_or("", |code| code.name())
}
