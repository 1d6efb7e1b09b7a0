//! What came of a comparison, for people: a small table both ways.

use ypogram_core::shown;
use ypogram_jobs::compare::{CompareOptions, CompareReport, CompareTo, NearPair, NearReport, State};

use crate::call::Call;
use crate::render::figures::Figure;
use crate::render::head::{Head, JudgedBy};
use crate::render::layout::Cell;
use crate::render::notes::Notes;
use crate::render::places::place;
use crate::render::summary::{Block, Summary, outcomes};
use crate::render::words::{counted, number};

/// What was found.
pub(crate) fn summary(
    report: &CompareReport,
    options: &CompareOptions,
    call: &Call,
    by: JudgedBy<'_>,
) -> Summary {
    let counts = &report.counts;
    let told: Vec<(&str, u64)> = State::ALL.map(|state| (state.word(), counts.of(state))).into();
    let mut summary = Summary::new(outcomes(&told, counts.records));
    let mut head = Head::of(&report.sources, &report.plan, by).lines();
    let known = report.known_plan.as_ref();
    let known = known.map(|plan| Head::of(&report.known_sources, plan, JudgedBy::default()).lines());
    head.extend(known.into_iter().flatten().map(|line| format!("held against {line}")).take(1));
    summary.head(head);
    summary.block(new_records(report));
    summary.block(known_records(report));
    summary.block(changed(report));
    report.counts.near.iter().for_each(|report| summary.block(near(report)));
    let mut notes = Notes::default();
    for (name, count) in &report.hashed {
        notes.say(format!(
            "{} holds only hashes ({}): other spellings of a hashed address cannot match",
            shown(name.as_bytes()),
            number(*count)
        ));
    }
    notes.blank_lines(counts.blank_lines);
    notes.say_all(&by.unfit_entries());
    if let Some(near) = counts.near.as_ref().filter(|near| near.too_common > 0) {
        let shared = counted(near.too_common, "name, number or street", "names, numbers or streets");
        notes.say(format!("nobody was compared by {shared} that more than 16 known records share"));
    }
    let pairs = counts.near.as_ref().map_or(0, |near| near.pairs);
    let twins = counted(pairs, "pair of probable twins", "pairs of probable twins");
    for (target, what) in [
        (&options.missing, "known records that are missing"),
        (&options.changed, "fields that differ"),
        (&options.near, &*twins),
    ] {
        if let Some(target) = target {
            notes.say(format!("{what} are written {}", place(target)));
        }
    }
    summary.block(notes.block());
    steps(report, options, call, &mut summary);
    summary
}

fn new_records(report: &CompareReport) -> Block {
    let counts = &report.counts;
    let file = |state: State| {
        let output =
            report.outputs.iter().find(|output| output.name.split('.').next() == Some(state.file_stem()));
        output.map_or_else(|| remark(state).to_owned(), |output| output.name.clone())
    };
    let figures: Vec<Figure> = State::ALL
        .into_iter()
        .filter(|state| counts.of(*state) > 0 || *state == State::New)
        .map(|state| Figure::new(state.word(), counts.of(state), Some(counts.records), file(state)))
        .collect();
    let terms: Vec<String> =
        State::ALL.map(|state| counts.of(state)).into_iter().filter(|count| *count > 0).map(number).collect();
    let terms = if terms.is_empty() { "0".to_owned() } else { terms.join(" + ") };
    Block::of("New records", "each is one of these", &figures)
        .whole()
        .note(format!("{terms} = {} read", counted(counts.records, "record", "records")))
}

fn remark(state: State) -> &'static str {
    match state {
        State::New => "nothing of them is known",
        State::Known => "their mailbox is known",
        State::Withdrawn => "asked to be left alone",
        State::Duplicate => "an earlier new record has their mailbox",
        State::Unusable => "no usable address",
    }
}

fn known_records(report: &CompareReport) -> Block {
    let counts = &report.counts;
    let of = Some(counts.known_records);
    let mut figures = vec![
        Figure::new("in both", counts.known_in_both, of, "a new record has their mailbox"),
        Figure::new("missing", counts.known_missing, of, "no new record has their mailbox"),
    ];
    if counts.known_unusable > 0 {
        figures.push(Figure::new("unusable", counts.known_unusable, of, "no usable address"));
    }
    let remark = counted(counts.known_records, "record", "records");
    Block::of("Known records", &remark, &figures).whole()
}

fn changed(report: &CompareReport) -> Block {
    let of = report.counts.of(State::Known);
    let figures: Vec<Figure> = report
        .counts
        .changed
        .iter()
        .map(|(field, count)| Figure::new(shown(field.as_bytes()), *count, Some(of), ""))
        .collect();
    Block::of(
        "Fields that differ",
        &format!("of {}", counted(of, "record in both", "records in both")),
        &figures,
    )
}

/// Probable twins, the first of them.
fn near(near: &NearReport) -> Block {
    let row = |pair: &NearPair| -> Vec<Cell> {
        let of = |(record, text): &(u64, String)| {
            [Cell::text(number(*record)), Cell::flexible(shown(text.as_bytes()))]
        };
        let [record, name] = of(&pair.new);
        let [known, known_name] = of(&pair.known);
        vec![record, name, known, known_name, Cell::text(pair.evidence.clone())]
    };
    let rows = near.first.iter().map(row).collect();
    let pairs = counted(near.pairs, "pair", "pairs");
    Block::of_rows(
        "Probable twins",
        &format!("{pairs}: a new record, a known one, and why; proposed only"),
        rows,
    )
}

fn steps(report: &CompareReport, options: &CompareOptions, call: &Call, summary: &mut Summary) {
    let counts = &report.counts;
    if let CompareTo::Nowhere = options.to {
        let told = call.again("compare").option("o", "compared");
        summary.step(counts.of(State::New), "new, to be written with the others:", &told);
    }
    if let CompareTo::Folder(folder) = &options.to {
        for output in &report.outputs {
            if output.name.starts_with(State::New.file_stem()) {
                summary.step_to(
                    output.records,
                    "new, to be used:",
                    format!("{}/{}", folder.display(), output.name),
                );
            }
        }
    }
    if options.missing.is_none() {
        let told = call.again("compare").option("missing", "missing.csv");
        summary.step(counts.known_missing, "known, and missing among the new:", &told);
    }
}
