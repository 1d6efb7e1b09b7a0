//! The summary of `extract`: what was found, in which forms, and what was passed over.

use ypogram_core::text::SkipReason;
use ypogram_core::{Form, shown};
use ypogram_io::Target;
use ypogram_jobs::DistinctCount;
use ypogram_jobs::extract::{ByRecordReport, ExtractReport};

use crate::call::{Call, CommandLine};
use crate::render::figures::Figure;
use crate::render::head::JudgedBy;
use crate::render::notes::Notes;
use crate::render::places::place;
use crate::render::style;
use crate::render::summary::{Block, Summary};
use crate::render::words::{counted, number};

/// What was found, for people.
pub(crate) fn summary(
    report: &ExtractReport,
    call: &Call,
    by: JudgedBy<'_>,
    target: Option<&Target>,
    skipped: bool,
) -> Summary {
    let mut summary = Summary::new(answer(report));
    summary.head(head(report, by));
    let of = Some(report.addresses);
    let found = [
        Figure::new("addresses", report.addresses, None, ""),
        Figure::new("mailboxes", report.mailboxes.count, None, told(report.mailboxes)),
        Figure::new("domains", report.domains.count, None, told(report.domains)),
    ];
    summary.block(Block::of("Found", "", &found).whole());
    let forms = Form::ALL.iter().map(|form| (form.word(), report.forms[*form as usize]));
    let all = format!("of {}", counted(report.addresses, "address", "addresses"));
    summary.block(Block::of("Forms", &all, &sorted(forms, of, |_| "")));
    summary.block(passed_over(report, skipped));
    let mut notes = notes(report, call, by);
    if report.addresses == 0 {
        notes.say("no address was found");
    }
    if let Some(target) = target {
        let what = if skipped { "passed over, with the reason" } else { "one an address" };
        notes.say(format!("{} written {} ({what})", counted(report.rows, "row", "rows"), place(target)));
    }
    summary.block(notes.block());
    hidden_step(report.passed[SkipReason::Hidden as usize], call.again("extract"), &mut summary);
    if !skipped {
        let skipped = call.again("extract").flag("show-skipped");
        summary.step(report.passed_over(), "places that are not addresses, with the reason:", &skipped);
    }
    summary
}

/// What patterns fit, for people.
pub(crate) fn matches(
    report: &ExtractReport,
    call: &Call,
    by: JudgedBy<'_>,
    target: Option<&Target>,
) -> Summary {
    let mut summary = Summary::new(counted(report.matched(), "match", "matches"));
    summary.head(head(report, by));
    let of = Some(report.matched());
    let figures =
        report.matches.iter().map(|(name, count)| Figure::new(shown(name.as_bytes()), *count, of, ""));
    summary.block(Block::of("Patterns", "matches", &figures.collect::<Vec<_>>()).whole());
    let mut notes = notes(report, call, by);
    if let Some(target) = target {
        notes.say(format!("{} written {} (one a match)", counted(report.rows, "row", "rows"), place(target)));
    }
    summary.block(notes.block());
    summary
}

fn head(report: &ExtractReport, by: JudgedBy<'_>) -> Vec<String> {
    let read = match &report.files[..] {
        [only] => {
            let described = match report.names.len() {
                1 => report.described.clone(),
                several => Some(format!("{several} sheets or tables")),
            };
            let described = described.map(|described| style::dim(&format!(" ({described})")));
            format!("{}{}", style::title(&shown(only.as_bytes())), described.unwrap_or_default())
        }
        names => style::title(&counted(names.len() as u64, "file", "files")),
    };
    let judged_by = Some(by.parts().join(" · ")).filter(|by| !by.is_empty());
    std::iter::once(read).chain(judged_by).collect()
}

/// What else there is to know of what was read.
fn notes(report: &ExtractReport, call: &Call, by: JudgedBy<'_>) -> Notes {
    let mut notes = troubles(report);
    notes.say_all(&by.unfit_entries());
    notes.blank_lines_and_formulas(report.blank_lines, report.formula_cells, call.guards_formulas());
    notes.count(
        report.unpaired_surrogates,
        "unpaired surrogate stands for no character and reads as U+FFFD",
        "unpaired surrogates stand for no character and read as U+FFFD",
    );
    notes.count(
        report.undecoded_messages,
        "message has too many parts, or too deep ones, and was read as it stands: --most-parts, --deepest",
        "messages have too many parts, or too deep ones, and were read as they stand: --most-parts, --deepest",
    );
    notes
}

fn answer(report: &ExtractReport) -> String {
    let [accept, review, reject] = report.verdicts.map(number);
    let all = counted(report.addresses, "address", "addresses");
    format!("{accept} accepted · {review} review · {reject} rejected — {all}")
}

fn passed_over(report: &ExtractReport, skipped: bool) -> Block {
    let signs =
        counted(report.passed_over(), "place that is not an address", "places that are not addresses");
    let listed = if skipped { "" } else { "; list them with --show-skipped" };
    let sentence = |word: &str| {
        SkipReason::ALL.iter().find(|reason| reason.word() == word).map_or("", |reason| reason.sentence())
    };
    let reasons = SkipReason::ALL.iter().map(|reason| (reason.word(), report.passed[*reason as usize]));
    Block::of("Passed over", &format!("{signs}{listed}"), &sorted(reasons, None, sentence)).rank(2)
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

fn troubles(report: &ExtractReport) -> Notes {
    let mut notes = Notes::default();
    for (called, &count) in &report.not_read {
        notes.count(
            count,
            &format!("file was passed over: {called}"),
            &format!("files were passed over: {called}"),
        );
    }
    for remark in report.remarks.iter().take(10) {
        notes.say(shown(remark.as_bytes()));
    }
    for trouble in report.broken_off.iter() {
        notes.say(format!("broke off, and what could be read was taken: {}", shown(trouble.as_bytes())));
    }
    for field in report.fields_without_text.iter() {
        notes.say(format!(
            "there is no text in the field ‘{}’; one inside another is named with a dot, as in person.mail",
            shown(field.as_bytes())
        ));
    }
    notes.count(report.troubles.len() as u64, "file could not be read:", "files could not be read:");
    for trouble in report.troubles.iter().take(10) {
        notes.say(format!("  {}", shown(trouble.as_bytes())));
    }
    notes
}

fn told(count: DistinctCount) -> &'static str {
    if count.exact { "" } else { "an estimate, give or take 1 %" }
}

/// How to take what was written so that programs do not see it, where there is any.
fn hidden_step(hidden: u64, command: CommandLine, summary: &mut Summary) {
    summary.step(hidden, "more may be hidden from programs:", &command.flag("obfuscated"));
}

/// What came of repeating records.
pub(crate) fn by_record(
    report: &ByRecordReport,
    call: &Call,
    by: JudgedBy<'_>,
    target: Option<&Target>,
) -> Summary {
    let addresses = counted(report.rows, "address", "addresses");
    let (records, without) = (counted(report.records, "record", "records"), number(report.without));
    let mut summary = Summary::new(format!("{addresses} · {without} no-address — {records}"));
    let sources = report.sources.iter();
    let mut head: Vec<String> = sources
        .map(|source| {
            let format = style::dim(&format!("({})", source.format));
            format!("{} {format}", style::title(&shown(source.name.as_bytes())))
        })
        .collect();
    head.extend(Some(by.parts().join(" · ")).filter(|by| !by.is_empty()));
    summary.head(head);
    let mut notes = Notes::default();
    notes.say_all(&report.notes);
    notes.blank_lines_and_formulas(report.blank_lines, report.formula_cells, call.guards_formulas());
    if let Some(target) = target {
        let written = counted(report.rows, "row", "rows");
        notes.say(format!("{written} written {}, one for each address", place(target)));
    }
    summary.block(notes.block());
    hidden_step(report.hidden, call.again("extract").flag("row-per-address"), &mut summary);
    summary
}
