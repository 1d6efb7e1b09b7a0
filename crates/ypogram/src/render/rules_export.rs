//! What an exported rule does, for people.

use ypogram_io::Target;
use ypogram_jobs::export::{EntryPlace, ExportOptions, ExportReport};

use crate::render::notes::Notes;
use crate::render::places::place;
use crate::render::summary::Summary;
use crate::render::words::counted;

/// What was written.
pub(crate) fn summary(report: &ExportReport, options: &ExportOptions) -> String {
    let mut summary = Summary::new(answer(report, options));
    summary.head(vec![match &report.rulebook {
        Some(rulebook) => format!("by the rulebook {}", rulebook.display()),
        None => "by the defaults, without a rulebook".to_owned(),
    }]);
    summary.block(notes(report, options).block());
    summary.text(false)
}

/// What is said where the rule itself is printed.
pub(crate) fn beside(report: &ExportReport, options: &ExportOptions) -> String {
    let values = values(report, options).map_or_else(String::new, |values| format!("; {values}"));
    format!("{}; its first lines say what it lets pass{values}\n", answer(report, options))
}

fn answer(report: &ExportReport, options: &ExportOptions) -> String {
    let refused = counted(report.coverage.refuses.len() as u64, "finding", "findings");
    format!("The rule for {} refuses {refused}", called(&options.place))
}

fn called(place: &EntryPlace) -> &'static str {
    match place {
        EntryPlace::Html => "an input of a web page",
        EntryPlace::Sql(_) => "a column of a database",
        EntryPlace::JsonSchema => "a value of an API",
        EntryPlace::Xlsx => "a column of a workbook",
        EntryPlace::Regex(_) => "one expression",
    }
}

fn values(report: &ExportReport, options: &ExportOptions) -> Option<String> {
    let ([passing, failing], target) = report.values.zip(options.values.as_ref())?;
    Some(format!("{passing} values that pass and {failing} that fail are written {}", place(target)))
}

fn notes(report: &ExportReport, options: &ExportOptions) -> Notes {
    let mut notes = Notes::default();
    for (only, codes) in report.coverage.passing() {
        notes.say(format!("it lets pass, {only}: {}", codes.join(", ")));
    }
    for words in &report.coverage.refuses_too {
        notes.say(format!("it refuses {words}, which the program would take"));
    }
    if !report.script_alone.is_empty() {
        notes.say(format!("without its script the input lets pass {}", report.script_alone.join(", ")));
    }
    notes.say_all(&report.coverage.advice);
    if report.formula.is_some() {
        notes.say("without -o the formula is printed, to be pasted as a custom rule");
    }
    if let Some(values) = values(report, options) {
        notes.say(values);
    }
    if let Target::File { .. } = options.target {
        let then = match &options.place {
            EntryPlace::Html => "open it in a browser to try it",
            EntryPlace::Sql(_) => "read it, then run it",
            EntryPlace::JsonSchema => "a schema of yours can refer to it with $ref",
            EntryPlace::Xlsx => "its sheet ‘entries’ has the rule; copy the column where it is needed",
            EntryPlace::Regex(_) => "the expression is its last line",
        };
        notes.say(format!("the rule is written {}: {then}", place(&options.target)));
    }
    notes
}
