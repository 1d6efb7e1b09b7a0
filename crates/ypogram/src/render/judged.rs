//! Blocks, notes and steps that the summaries of all commands share which judge records.

use ypogram_core::shown;
use ypogram_jobs::{Conditions, FieldPlan, Lookup, Selection, SourceReport, Tally};

use crate::call::CommandLine;
use crate::render::figures::Figure;
use crate::render::notes::Notes;
use crate::render::places::place_of;
use crate::render::summary::{Block, Summary};
use crate::render::words::{counted, number};

/// Usable addresses by how they stood: the same in every command that judges records.
pub(crate) fn usable(tally: &Tally, plan: &FieldPlan, records: u64) -> Block {
    let of = Some(records);
    let repairs = ypogram_core::Repair::ALL.iter();
    let mut repairs: Vec<(u64, &str)> =
        repairs.map(|repair| (tally.repairs[*repair as usize], repair.name())).collect();
    repairs.sort_by_key(|(count, _)| std::cmp::Reverse(*count));
    let most = repairs.iter().take(3).filter(|(count, _)| *count > 0);
    let most: Vec<String> = most.map(|(count, name)| format!("{name} {}", number(*count))).collect();
    let mut figures = vec![
        Figure::new("as it stood", tally.as_it_stood, of, ""),
        Figure::new("after repair", tally.after_repair, of, most.join(", ")),
    ];
    if !plan.text.is_empty() {
        figures.push(Figure::new("from text fields", tally.from_text, of, ""));
    }
    figures.push(Figure::new("in all", tally.usable(), of, ""));
    let remark = format!("accepted or for review; of {}", counted(records, "record", "records"));
    let block = Block::of("Usable", &remark, &figures).whole();
    match tally.more {
        0 => block,
        more => block.note(format!(
            "{} in the same records: column yp_more",
            counted(more, "further address", "further addresses")
        )),
    }
}

/// What was not asked for, by reason.
pub(crate) fn set_aside(tally: &Tally, selection: &Selection, summary: &mut Summary) {
    let by_reason = tally.set_aside_by_reason(selection);
    let all: u64 = by_reason.values().sum();
    if selection.is_everything() {
        return;
    }
    let figures: Vec<Figure> =
        by_reason.into_iter().map(|(reason, count)| Figure::new(reason, count, None, "")).collect();
    let records = counted(all, "usable record", "usable records");
    summary.block(Block::of("Set aside", &records, &figures).rank(2));
}

/// Where nothing was found at all, people may have looked in the wrong place.
pub(crate) fn warn_of_nothing(addresses: u64, records: u64, notes: &mut Notes) {
    if addresses == 0 && records > 0 {
        notes.say("no address was found: see whether the right fields were looked at (--field, --also)");
    }
}

/// The step to addresses in fields that were not looked at, the field that gives most.
pub(crate) fn elsewhere(tally: &Tally, plan: &FieldPlan, command: CommandLine, summary: &mut Summary) {
    let counts = tally.reachable.iter().zip(&plan.fields);
    let most = counts.rev().max_by_key(|(count, _)| **count);
    if let Some((&count, field)) = most.filter(|(count, _)| **count > 0) {
        let name = shown(field.as_bytes());
        summary.step(count, &format!("more with an address in {name}:"), &command.option("also", field));
    }
}

/// How many values each pattern fits, and how many none of them.
pub(crate) fn patterns(tally: &Tally) -> Block {
    let names = tally.pattern_names.iter().map(|name| shown(name.as_bytes()));
    let held = tally.patterns.iter().sum::<u64>();
    let names = names.chain(["none".to_owned()]);
    let mut figures: Vec<Figure> =
        names.zip(&tally.patterns).map(|(name, count)| Figure::new(name, *count, Some(held), "")).collect();
    if let Some(none) = figures.pop().filter(|_| !figures.is_empty()) {
        figures.push(none.shown_by("finding=pattern"));
    }
    Block::of("Patterns", &format!("the first that fits; of {}", counted(held, "value", "values")), &figures)
}

/// What is asked of other fields, and how many records break it.
pub(crate) fn field_faults(tally: &Tally, sources: &[SourceReport]) -> Block {
    let figures: Vec<Figure> = tally
        .field_faults
        .iter()
        .zip(&tally.field_examples)
        .filter(|((_, count), _)| *count > 0)
        .map(|((name, count), example)| {
            let (field, word) = name.rsplit_once(": ").unwrap_or((name, ""));
            let condition = format!("field={},fault={word}", Conditions::quoted(field));
            let example = example.as_ref().map_or_else(String::new, |example| {
                format!("{}: {}", place_of(example, sources), shown(example.text.as_bytes()))
            });
            Figure::new(shown(name.as_bytes()), *count, None, example).shown_by(&condition)
        })
        .collect();
    Block::of("Fields at fault", "records, those without an address too; one can have several", &figures)
}

/// How many records the lists that add columns had an entry for.
pub(crate) fn lookups(tally: &Tally) -> Block {
    let mut figures = Vec::new();
    for Lookup { list, looked_up, matched } in &tally.lookups {
        let (name, quoted, of) = (shown(list.as_bytes()), Conditions::quoted(list), Some(*looked_up));
        figures.push(Figure::new(&name, *matched, of, "").shown_by(&format!("list={quoted}")));
        let others = Figure::new(format!("{name}: no entry"), looked_up - matched, of, "");
        figures.push(others.shown_by(&format!("unmatched={quoted}")));
    }
    let remark = "records with an entry, and without, of those with something to look up";
    Block::of("Looked up in lists", remark, &figures).rank(4)
}
