//! What a register answers, for people.

use std::fmt::Write as _;
use std::path::Path;

use ypogram_core::{SameMailbox, shown};
use ypogram_jobs::register::{Act, Answer, Entry, RegisterReport, VerifyReport};

use crate::render::style;
use crate::render::words::{counted, for_shell, number};

/// What came of records that were to be admitted.
pub(crate) fn added(report: &RegisterReport) -> String {
    let told: Vec<String> = Answer::ALL
        .iter()
        .zip(report.answers)
        .map(|(answer, count)| format!("{} {}", number(count), answer.word()))
        .collect();
    let mut text = format!("{} — {}\n", told.join(" · "), counted(report.records, "record", "records"));
    if let Some(admissible) = report.admissible {
        let refused = counted(report.answers[3], "record is refused", "records are refused");
        let _ = writeln!(text, "{}", style::bad(&format!("nothing was admitted, since {refused}")));
        let _ = writeln!(text, "{} could be admitted: --admissible-only", number(admissible));
    }
    if let Some((source, line, findings)) = &report.first_refused {
        let findings = if findings.is_empty() { "no address" } else { findings };
        let _ = writeln!(text, "the first that is refused: {source}, line {}: {findings}", number(*line));
        let _ = writeln!(text, "all of them: ypogram check {} --show 'verdict!=accept'", for_shell(source));
    }
    text
}

/// What came of records that were withdrawn or removed.
pub(crate) fn edited(report: &RegisterReport, act: Act) -> String {
    let [_, known, withdrawn, refused] = report.answers;
    let records = counted(report.records, "record", "records");
    match act {
        Act::Remove => format!("{} removed, {} were not there — {records}\n", number(known), number(refused)),
        _ => format!(
            "{} withdrawn, {} without a usable address — {records}\n",
            number(withdrawn),
            number(refused)
        ),
    }
}

/// What came of one address that was withdrawn or removed.
pub(crate) fn edited_one(address: &str, act: Act, done: bool) -> String {
    let told = match (act, done) {
        (Act::Remove, true) => "removed",
        (Act::Remove, false) => "was not there",
        (Act::Withdraw { forget: true }, true) => "withdrawn; only a hash of it is kept",
        (_, true) => "withdrawn",
        (_, false) => "was withdrawn already",
    };
    format!("{}  {told}\n", shown(address.as_bytes()))
}

/// What is known of an address.
pub(crate) fn looked_up(address: &str, word: &str, entry: Option<&Entry>) -> String {
    let word = match word {
        "known" => style::good(word),
        "unknown" => style::dim(word),
        word => style::bad(word),
    };
    let told = entry.map_or_else(String::new, |entry| {
        let spelling =
            if entry.address == address { String::new() } else { format!(" as {}", entry.address) };
        format!("{spelling}, since {} from {}", entry.since, shown(entry.source.as_bytes()))
    });
    format!("{}  {word}{told}\n", shown(address.as_bytes()))
}

/// How many mailboxes there are.
pub(crate) fn stats(
    store: &Path,
    rule: SameMailbox,
    [admitted, withdrawn, forgotten]: [u64; 3],
    span: Option<(String, String)>,
    sources: &[(String, u64)],
) -> String {
    let mut text = format!(
        "{} admitted · {} withdrawn · {} withdrawn and forgotten\n\n{}: two addresses are one mailbox by the rule ‘{}’\n",
        number(admitted),
        number(withdrawn),
        number(forgotten),
        store.display(),
        rule.word()
    );
    if let Some((first, last)) = span {
        let _ = writeln!(text, "since {first}, the last {last}");
    }
    if !sources.is_empty() {
        let _ = writeln!(text, "\n{}", style::title("From where"));
    }
    for (source, count) in sources.iter().take(20) {
        let _ = writeln!(text, "  {:>9}  {}", number(*count), shown(source.as_bytes()));
    }
    text
}

/// Whether a register is whole.
pub(crate) fn verified(report: &VerifyReport, store: &Path) -> String {
    if report.is_good() {
        let mailboxes = counted(report.mailboxes, "mailbox", "mailboxes");
        return format!(
            "{}: whole; {mailboxes}, each under the key that it would get today\n",
            store.display()
        );
    }
    let mut text = String::new();
    for fault in &report.file {
        let _ = writeln!(text, "{} {fault}", style::bad("the file is damaged:"));
    }
    if !report.other_keys.is_empty() {
        let count = counted(report.other_keys.len() as u64, "mailbox has", "mailboxes have");
        let _ = writeln!(text, "{count} another key today, by another rulebook or version:");
    }
    for (address, there, today) in report.other_keys.iter().take(20) {
        let _ = writeln!(text, "  {address}: {there} is there, and it would be {today}");
    }
    text
}
