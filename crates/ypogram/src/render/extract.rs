//! The summary of `extract`: what was found, in which forms, and what was passed over.

use std::fmt::Write as _;
use std::path::PathBuf;

use ypogram_core::text::Passed;
use ypogram_core::{Form, shown};
use ypogram_jobs::DistinctCount;
use ypogram_jobs::extract::{ByRecordReport, ExtractReport};
use ypogram_tables::Target;

use crate::render::figures::{Figure, block};
use crate::render::head::JudgedBy;
use crate::render::style;
use crate::render::words::{counted, for_shell, for_shell_all, number};

/// What was found, for people.
pub(crate) fn summary(
    report: &ExtractReport,
    by: JudgedBy<'_>,
    target: Option<&Target>,
    skipped: bool,
) -> String {
    let mut out = String::new();
    let read = match &report.names[..] {
        [only] => shown(only.as_bytes()),
        names => counted(names.len() as u64, "file", "files"),
    };
    let by: String = by.parts().iter().map(|part| format!(" · {part}")).collect();
    let _ = writeln!(out, "{}{by}\n", style::title(&read));
    let of = Some(report.addresses);
    let _ = writeln!(out, "{}", style::title("Addresses found"));
    let mut figures = vec![Figure::new("in all", report.addresses, None, "")];
    figures.push(Figure::new("distinct mailboxes", report.mailboxes.count, None, told(report.mailboxes)));
    figures.push(Figure::new("distinct domains", report.domains.count, None, told(report.domains)));
    out.push_str(&block(&figures));
    if report.addresses > 0 {
        let _ = writeln!(out, "\n{}", style::title("Verdicts"));
        let remarks = ["usable as they are", "somebody has to decide", "not usable"];
        let words = ["accept", "review", "reject"];
        let verdicts: Vec<Figure> =
            (0..3).map(|i| Figure::new(words[i], report.verdicts[i], of, remarks[i])).collect();
        out.push_str(&block(&verdicts));
        let _ = writeln!(out, "\n{}", style::title("How they stood"));
        let forms = Form::ALL.iter().map(|form| (form.word(), report.forms[*form as usize]));
        out.push_str(&block(&sorted(forms, of, |_| "")));
    }
    passed_over(report, skipped, &mut out);
    troubles(report, &mut out);
    let Some(target) = target else { return out };
    let place = place(target);
    let what = if skipped { "passed over, with the reason" } else { "one an address" };
    let _ = writeln!(out, "\n{} written {place} ({what})", counted(report.rows, "row", "rows"));
    out
}

fn passed_over(report: &ExtractReport, skipped: bool, out: &mut String) {
    let all = report.passed_over();
    if all == 0 {
        return;
    }
    let signs = counted(all, "place that is no address", "places that are no address");
    let listed = if skipped { "" } else { "; list them with --show-skipped" };
    let head = style::dim(&format!("({signs}{listed})"));
    let _ = writeln!(out, "\n{} {head}", style::title("Passed over"));
    let sentence = |word: &str| {
        Passed::ALL.iter().find(|reason| reason.word() == word).map_or("", |reason| reason.sentence())
    };
    let reasons = Passed::ALL.iter().map(|reason| (reason.word(), report.passed[*reason as usize]));
    out.push_str(&block(&sorted(reasons, None, sentence)));
}

fn sorted<'a>(
    counts: impl Iterator<Item = (&'static str, u64)>,
    of: Option<u64>,
    remark: impl Fn(&str) -> &'a str,
) -> Vec<Figure> {
    let mut figures: Vec<Figure> = counts
        .filter(|(_, count)| *count > 0)
        .map(|(word, count)| Figure::new(word, count, of, remark(word)))
        .collect();
    figures.sort_by_key(|figure| std::cmp::Reverse(figure.count));
    figures
}

fn troubles(report: &ExtractReport, out: &mut String) {
    let mut lines: Vec<String> = Vec::new();
    if report.binary > 0 {
        lines.push(format!("{} passed over", counted(report.binary, "binary file was", "binary files were")));
    }
    for trouble in report.broken_off.iter() {
        lines.push(format!("broke off, and what could be read was taken: {}", shown(trouble.as_bytes())));
    }
    for field in report.fields_without_text.iter() {
        lines.push(format!(
            "there is no text in the field ‘{}’; one inside another is named with a dot, as in person.mail",
            shown(field.as_bytes())
        ));
    }
    if !report.troubles.is_empty() {
        lines.push(format!(
            "{} not be read:",
            counted(report.troubles.len() as u64, "file could", "files could")
        ));
        lines.extend(
            report.troubles.iter().take(10).map(|trouble| format!("  {}", shown(trouble.as_bytes()))),
        );
    }
    if !lines.is_empty() {
        let _ = writeln!(out, "\n{}\n  {}", style::title("To know"), lines.join("\n  "));
    }
}

fn told(count: DistinctCount) -> &'static str {
    if count.exact { "" } else { "an estimate, give or take 1 %" }
}

fn place(target: &Target) -> String {
    match target {
        Target::Standard => "to standard output".into(),
        Target::File { path, .. } => format!("to {}", for_shell(&path.display().to_string())),
    }
}

/// How to take what was written so that programs do not see it, where there is any.
pub(crate) fn hidden_step(hidden: u64, options: &str, sources: &[PathBuf]) -> String {
    match hidden {
        0 => String::new(),
        _ => format!(
            "{} may be hidden: ypogram extract {}{options} --obfuscated\n",
            counted(hidden, "more address", "more addresses"),
            for_shell_all(sources),
        ),
    }
}

/// What came of repeating records.
pub(crate) fn by_record(report: &ByRecordReport, target: &Target) -> String {
    format!(
        "{} read, {} of them without an address; {} written {}, one for each address\n",
        counted(report.records, "record", "records"),
        number(report.without),
        counted(report.rows, "row", "rows"),
        place(target),
    )
}
