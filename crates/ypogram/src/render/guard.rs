//! The rows in the way of a unique rule, for people.

use ypogram_core::shown;
use ypogram_io::Target;
use ypogram_jobs::Shared;
use ypogram_jobs::guard::{GuardOptions, GuardReport, GuardRow};

use crate::render::figures::Figure;
use crate::render::layout::Cell;
use crate::render::notes::Notes;
use crate::render::places::place;
use crate::render::summary::{Block, Summary};
use crate::render::words::counted;

/// What was found.
pub(crate) fn summary(report: &GuardReport, options: &GuardOptions) -> String {
    let in_the_way = counted(report.going, "row in the way", "rows in the way");
    let mailboxes =
        counted(report.groups, "mailbox that several rows have", "mailboxes that several rows have");
    let mut summary =
        Summary::new(format!("{in_the_way} of a unique rule — {}", counted(report.rows, "row", "rows")));
    summary.head(vec![
        format!(
            "column {} of table {} in {}",
            shown(report.column.as_bytes()),
            shown(report.table.as_bytes()),
            shown(options.database.display().to_string().as_bytes())
        ),
        format!("two addresses are one mailbox by the rule ‘{}’", options.policy.same.word()),
    ]);
    let to_decide = if options.shared == Shared::Drop { 0 } else { report.other_person };
    let going = report.going - to_decide;
    let stay = report.rows - report.going - report.unusable;
    let of = Some(report.rows);
    let mut figures = vec![
        Figure::new("stay", stay, of, "one of each mailbox"),
        Figure::new("go", going, of, "another row has their mailbox"),
    ];
    if to_decide > 0 {
        figures.push(Figure::new("to decide", to_decide, of, "so has another person’s row"));
    }
    if report.unusable > 0 {
        figures.push(Figure::new("no address", report.unusable, of, "none that is usable"));
    }
    summary.block(Block::of("Rows", "each is one of these", &figures).whole());
    let rows = report.first.iter().flat_map(|group| group.iter().map(row)).collect();
    summary.block(
        Block::of_rows("In the way", &mailboxes, rows)
            .named(["", "row", "address", ""].map(Cell::text).into()),
    );
    summary.block(notes(report, options).block());
    summary.text(false)
}

fn row(row: &GuardRow) -> Vec<Cell> {
    let word = if row.stays { Cell::text("stays") } else { Cell::dim("goes") };
    let remark = if row.other_person { "another person" } else { "" };
    vec![word, Cell::text(row.row.clone()), Cell::flexible(shown(row.value.as_bytes())), Cell::text(remark)]
}

fn notes(report: &GuardReport, options: &GuardOptions) -> Notes {
    let mut notes = Notes::default();
    if report.other_person > 0 {
        let rows = counted(report.other_person, "row in the way names", "rows in the way name");
        let what = match options.shared {
            Shared::Drop => "and goes all the same",
            _ => {
                "and is for you to decide about: give it another address, or take the -- away before its DELETE"
            }
        };
        notes.say(format!("{rows} another person than the one that stays {what}"));
    }
    for table in &report.referring {
        notes.say(format!(
            "rows of {} refer to rows of this table: see to those that go",
            shown(table.as_bytes())
        ));
    }
    let left = report.not_comparable - report.to_standard_form;
    if left > 0 {
        let rows = counted(left, "address stands", "addresses stand");
        let more =
            if options.standard_form { "" } else { "; --standard-form brings them to one that it can" };
        notes.say(format!("{rows} in a form that the database cannot compare{more}"));
    }
    if let Some(target) = &options.rows {
        notes.say(format!("every row in the way is listed {}", place(target)));
    }
    match &options.target {
        Target::Nowhere => notes.say("nothing was changed; this is the SQL, and -o FILE.sql writes it alone"),
        target => notes
            .say(format!("nothing was changed; the SQL is written {}: read it, then run it", place(target))),
    }
    notes
}
