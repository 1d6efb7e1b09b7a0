//! What came back after a mailing, for people.

use ypogram_core::shown;
use ypogram_io::Target;
use ypogram_jobs::bounces::{BouncesOptions, BouncesReport, What};

use crate::call::Call;
use crate::render::figures::Figure;
use crate::render::layout::Cell;
use crate::render::notes::Notes;
use crate::render::places::place;
use crate::render::summary::{Block, Summary};
use crate::render::words::{counted, number};

/// Messages that were not understood are named up to so many.
const MOST_NAMED: usize = 10;

/// What was found.
pub(crate) fn summary(report: &BouncesReport, options: &BouncesOptions, call: &Call) -> Summary {
    let reports: Vec<String> =
        report.what.iter().map(|(word, count)| format!("{} {word}", number(*count))).collect();
    let recipients = counted(report.recipients, "recipient", "recipients");
    let mut summary = Summary::new(format!("{} — {recipients}", reports.join(" · ")));
    let files = counted(report.files.len() as u64, "file", "files");
    summary.head(vec![format!("{files} of mail, {}", counted(report.messages, "message", "messages"))]);
    summary.block(recipients_block(report));
    summary.block(messages_block(report));
    summary.block(unread_block(report, call));
    let mut notes = Notes::default();
    notes.say_all(&report.troubles);
    if options.target != Target::Nowhere {
        let rows = counted(report.rows, "row is", "rows are");
        notes.say(format!("{rows} written {}", place(&options.target)));
    }
    summary.block(notes.block());
    steps(report, options, call, &mut summary);
    summary
}

fn recipients_block(report: &BouncesReport) -> Block {
    let figures: Vec<Figure> = What::ALL
        .into_iter()
        .filter(|what| report.of(*what) > 0)
        .map(|what| Figure::new(what.word(), report.of(what), Some(report.recipients), remark(what)))
        .collect();
    Block::of("Recipients", "each is one of these, by what counts most", &figures).whole()
}

fn remark(what: What) -> &'static str {
    match what {
        What::Gone => "there is no such mailbox, or none any more",
        What::Withdrawn => "wants to be left alone",
        What::Moved => "the mailbox is another now",
        What::Full => "the mailbox is full",
        What::Deferred => "not delivered, or not yet; it need not be the mailbox’s fault",
        What::Away => "its owner is away",
    }
}

fn messages_block(report: &BouncesReport) -> Block {
    let of = Some(report.messages);
    let unread = report.unread.len() as u64;
    let mut figures =
        vec![Figure::new("with-recipients", report.with_recipients, of, "report on a recipient")];
    for (word, count, remark) in [
        ("other", report.other, "ordinary mail, and news of what was delivered"),
        ("unread", unread, "not understood; for you to look at"),
    ] {
        if count > 0 {
            figures.push(Figure::new(word, count, of, remark));
        }
    }
    let terms: Vec<String> = [report.with_recipients, report.other, unread]
        .into_iter()
        .filter(|count| *count > 0)
        .map(number)
        .collect();
    let sum = if terms.is_empty() { "0".to_owned() } else { terms.join(" + ") };
    Block::of("Messages", "", &figures)
        .whole()
        .note(format!("{sum} = {} read", counted(report.messages, "message", "messages")))
}

fn unread_block(report: &BouncesReport, call: &Call) -> Block {
    let named = if call.has("full") { usize::MAX } else { MOST_NAMED };
    let row = |unread: &ypogram_jobs::bounces::Unread| {
        vec![Cell::flexible(shown(unread.source.as_bytes()).to_string()), Cell::flexible(unread.why)]
    };
    let rows: Vec<Vec<Cell>> = report.unread.iter().take(named).map(row).collect();
    let block = Block::of_rows("Not understood", "the file, and the message’s number in it", rows);
    match report.unread.len().checked_sub(named) {
        Some(more @ 1..) => block.note(format!("and {} more: --full", number(more as u64))),
        _ => block,
    }
}

fn steps(report: &BouncesReport, options: &BouncesOptions, call: &Call, summary: &mut Summary) {
    if options.target != Target::Nowhere {
        return;
    }
    let leave_out = report.of(What::Gone) + report.of(What::Withdrawn);
    let leave_them_out = call.again("bounces").option("only", "gone,withdrawn").option("o", "leave-out.csv");
    summary.step(leave_out, "to be written to no more:", &leave_them_out);
    let moved = call.again("bounces").option("only", "moved").option("o", "moved.csv");
    summary.step(report.of(What::Moved), "moved:", &moved);
    let all = call.again("bounces").option("o", "bounces.csv");
    summary.step(report.recipients, "all of them:", &all);
}
