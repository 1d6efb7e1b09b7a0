//! The survey for people: the figures they come for first, each with the option that opens the records behind it.

use ypogram_core::{Severity, Verdict, shown};
use ypogram_io::Target;
use ypogram_jobs::survey::{FieldFigures, ShapeFigures, SurveyReport, TopValue};
use ypogram_jobs::{Conditions, DistinctCount, FieldChoice};

use crate::call::{Call, CommandLine};
use crate::render::figures::Figure;
use crate::render::head::{Head, JudgedBy};
use crate::render::judged::warn_of_nothing;
use crate::render::layout::{Cell, cut};
use crate::render::notes::Notes;
use crate::render::places::place;
use crate::render::style;
use crate::render::summary::{Block, Summary, outcomes};
use crate::render::words::{counted, number, share};

/// How the survey was called, for the commands that are to be copied.
pub(crate) struct Called<'a> {
    pub(crate) call: &'a Call,
    pub(crate) by: JudgedBy<'a>,
    pub(crate) named_fields: &'a FieldChoice,
    pub(crate) rare: bool,
}

/// What was found, for people.
pub(crate) fn summary(report: &SurveyReport, called: &Called<'_>) -> Summary {
    let mut summary = Summary::new(answer(report));
    summary.head(head(report, called));
    summary.block(usable(report));
    summary.block(field_faults(report));
    summary.block(patterns(report));
    summary.block(elsewhere(report));
    summary.block(forms(report));
    summary.block(fields(report));
    summary.block(mixed_fields(report));
    summary.block(shapes(report, called.rare));
    findings(report, &mut summary);
    summary.block(mailboxes(report));
    domains(report, &mut summary);
    summary.block(values(report));
    let mut notes = Notes::default();
    notes.say_all(&called.by.unfit_entries());
    warn_of_nothing(
        report.counts.usable.total + report.counts.of(Verdict::Reject),
        report.counts.records,
        &mut notes,
    );
    notes.blank_lines(report.counts.blank_lines);
    notes.say(style::dim(&format!("the records behind a line: {} --show …", called.call.again("survey"))));
    summary.block(notes.block());
    steps(report, called, &mut summary);
    summary
}

/// The first line: where the records would end if there were no duplicates.
pub(crate) fn answer(report: &SurveyReport) -> String {
    let counts = [
        ("accepted", report.counts.of(Verdict::Accept)),
        ("review", report.counts.of(Verdict::Review)),
        ("rejected", report.counts.of(Verdict::Reject)),
        ("no-address", report.counts.no_address),
    ];
    outcomes(&counts, report.counts.records)
}

/// What `--show` and `--label` have written.
pub(crate) fn written(written: u64, records: u64, show: Option<&str>, target: &Target) -> String {
    let place = place(target);
    match show {
        Some(show) => {
            let of = counted(records, "record", "records");
            format!("{} of {of} written {place}: those with {}\n", number(written), shown(show.as_bytes()))
        }
        None => format!("{} written {place}\n", counted(written, "record", "records")),
    }
}

fn head(report: &SurveyReport, called: &Called<'_>) -> Vec<String> {
    let only = report.only.as_ref().map(|only| format!("only records with {}", shown(only.as_bytes())));
    Head::of_columns(&report.sources, &report.columns, &report.how, called.by).with(only).lines()
}

fn usable(report: &SurveyReport) -> Block {
    let (usable, of) = (&report.counts.usable, Some(report.counts.records));
    let repairs: Vec<String> = report
        .counts
        .repairs
        .iter()
        .take(3)
        .map(|(repair, count)| format!("{repair} {}", number(*count)))
        .collect();
    let mut figures = vec![
        Figure::new("as it stood", usable.as_it_stood, of, "").shown_by("usable=as-it-stands"),
        Figure::new("after repair", usable.after_repair, of, repairs.join(", "))
            .shown_by("usable=after-repair"),
    ];
    if !report.columns.text.is_empty() {
        figures.push(Figure::new("from text fields", usable.from_text, of, "").shown_by("usable=from-text"));
    }
    figures.push(Figure::new("in all", usable.total, of, "").shown_by("address=yes"));
    let remark =
        format!("accepted or for review; of {}", counted(report.counts.records, "record", "records"));
    Block::of("Usable", &remark, &figures).whole()
}

fn elsewhere(report: &SurveyReport) -> Block {
    let ladder = &report.elsewhere;
    // A record counts for the first field that gives it an address.
    let mut condition = "address=no".to_owned();
    let figures: Vec<Figure> = ladder
        .steps
        .iter()
        .map(|step| {
            let field = Conditions::quoted(&step.field);
            let show = format!("{condition},field={field},address=yes");
            condition.push_str(&format!(",field={field},address=no"));
            let total =
                format!("usable then {} ({})", number(step.total), share(step.total, report.counts.records));
            Figure::new(format!("+ {}", shown(step.field.as_bytes())), step.adds, Some(ladder.lacking), total)
                .shown_by(&show)
        })
        .collect();
    let lacking =
        counted(ladder.lacking, "record without a usable address", "records without a usable address");
    let these = if figures.is_empty() { "" } else { "; these fields give some of them one" };
    let block = Block::of("Where else", &format!("of {lacking}{these}"), &figures).whole();
    match ladder.at_sign_left {
        0 => block,
        left => block.note(format!(
            "{} an @ somewhere  {}",
            counted(left, "of these records holds", "of these records hold"),
            style::dim("--show at-sign=yes,address=no")
        )),
    }
}

/// The `clean` that looks at the fields of the ladder too, ready to copy.
fn clean_command(report: &SurveyReport, called: &Called<'_>) -> CommandLine {
    let mut command = called.call.again("clean");
    if called.named_fields.address.is_empty() {
        command =
            report.columns.address.iter().fold(command, |command, field| command.option("field", field));
    }
    for step in &report.elsewhere.steps {
        command = command.option(if step.as_address_field { "field" } else { "also" }, &step.field);
    }
    command
}

fn steps(report: &SurveyReport, called: &Called<'_>, summary: &mut Summary) {
    let adds = report.elsewhere.steps.iter().map(|step| step.adds).sum();
    let show = |condition: &str| called.call.again("survey").option("show", condition);
    if adds > 0 && report.only.is_none() {
        summary.step(adds, "more with the fields above; to clean with them:", &clean_command(report, called));
    }
    summary.step(report.counts.of(Verdict::Reject), "rejected:", &show("verdict=reject"));
    if report.only.is_none() {
        let groups = report.same_mailbox.in_groups;
        summary.step(groups, "records that share a mailbox:", &called.call.again("dedupe"));
        summary.step(report.counts.records, "records, sorted into files:", &called.call.again("clean"));
    }
}

fn estimate(count: DistinctCount) -> String {
    let about = if count.exact { "" } else { "≈" };
    format!("{about}{}", number(count.count))
}

fn fields(report: &SurveyReport) -> Block {
    let names = ["", "filled", "", "empty", "distinct", "length", "bytes", "holds mostly", "", ""];
    let row = |field: &FieldFigures| {
        let held = field
            .kinds
            .first()
            .map_or_else(String::new, |kind| format!("{} {}", kind.name, share(kind.count, field.filled)));
        let remark = if field.unique { "every value is there once".to_owned() } else { most_frequent(field) };
        let quoted = Conditions::quoted(&field.name);
        let filled = if field.empty > 0 { "no" } else { "yes" };
        let length = match field.shortest == field.longest {
            true => number(field.longest),
            false => format!("{}–{}", field.shortest, field.longest),
        };
        vec![
            Cell::flexible(shown(field.name.as_bytes())),
            Cell::right(number(field.filled)),
            Cell::right(share(field.filled, report.counts.records)),
            Cell::right(number(field.empty)),
            Cell::right(estimate(field.distinct)),
            Cell::right(length).spare(),
            Cell::right(number(field.bytes)).spare(),
            Cell::flexible(held),
            Cell::flexible(remark).spare(),
            Cell::dim(format!(
                "--show {}",
                crate::render::words::for_shell(&format!("field={quoted},filled={filled}"))
            )),
        ]
    };
    let header = names.iter().enumerate().map(|(nth, name)| match nth {
        1..=6 => Cell::right(*name),
        _ => Cell::text(*name),
    });
    let rows = report.fields.iter().map(row).collect();
    Block::of_rows("Fields", &format!("of {}", counted(report.counts.records, "record", "records")), rows)
        .named(header.collect())
        .rank(3)
}

fn most_frequent(field: &FieldFigures) -> String {
    match field.values.first() {
        Some(TopValue { value, count }) if *count > 1 => {
            let about = if field.values_exact { "" } else { "≈" };
            format!("{about}{} × {}", number(*count), cut(&shown(value.as_bytes()), 24))
        }
        _ => String::new(),
    }
}

/// Fields that hold addresses or telephone numbers among other things.
fn mixed_fields(report: &SurveyReport) -> Block {
    let contact = |kind: &str| matches!(kind, "address" | "several-addresses" | "telephone" | "web-address");
    let is_mixed = |field: &&FieldFigures| {
        field.kinds.len() > 1
            && field.kinds.iter().any(|kind| contact(&kind.name) && kind.count * 50 > field.filled)
    };
    let mut figures = Vec::new();
    for field in report.fields.iter().filter(is_mixed) {
        for kind in &field.kinds {
            let name = format!("{}: {}", shown(field.name.as_bytes()), kind.name);
            let condition = format!("field={},kind={}", Conditions::quoted(&field.name), kind.name);
            figures.push(Figure::new(name, kind.count, Some(field.filled), "").shown_by(&condition));
        }
    }
    let remark = "of the filled cells of the field; with --label FIELD as a column of its own";
    Block::of("What the cells hold", remark, &figures).rank(6)
}

/// What is asked of fields, and how many records break it.
fn field_faults(report: &SurveyReport) -> Block {
    let mut figures = Vec::new();
    for field in &report.fields {
        for fault in field.faults.iter().filter(|fault| fault.count > 0) {
            let name = format!("{}: {}", shown(field.name.as_bytes()), fault.name);
            let condition = format!("field={},fault={}", Conditions::quoted(&field.name), fault.name);
            figures
                .push(Figure::new(name, fault.count, Some(report.counts.records), "").shown_by(&condition));
        }
    }
    let of = format!("of {}", counted(report.counts.records, "record", "records"));
    Block::of("Fields at fault", &of, &figures).whole()
}

/// The fields in which some cells fit a pattern.
fn patterns(report: &SurveyReport) -> Block {
    let mut figures = Vec::new();
    for field in &report.fields {
        for pattern in field.patterns.iter().filter(|pattern| pattern.count > 0) {
            let name = format!("{}: {}", shown(field.name.as_bytes()), pattern.name);
            let condition = format!("field={},pattern={}", Conditions::quoted(&field.name), pattern.name);
            let others = match field.filled - pattern.count {
                0 => String::new(),
                others => format!("{} do not", number(others)),
            };
            figures.push(Figure::new(name, pattern.count, Some(field.filled), others).shown_by(&condition));
        }
    }
    let block = Block::of("Patterns", "filled cells of a field that fit", &figures).whole();
    let asked = report.fields.first().map_or(&[][..], |field| &field.patterns);
    let without = asked.iter().map(|pattern| &*pattern.name).filter(|name| {
        report
            .fields
            .iter()
            .all(|field| field.patterns.iter().all(|other| other.name != **name || other.count == 0))
    });
    match without.collect::<Vec<_>>() {
        without if without.is_empty() => block,
        without => block.note(format!("no cell of any field fits {}", without.join(", "))),
    }
}

fn forms(report: &SurveyReport) -> Block {
    let all: u64 = report.forms.iter().map(|form| form.count).sum();
    let figures: Vec<Figure> = report
        .forms
        .iter()
        .map(|form| {
            let parts = [
                (form.as_it_stood, "usable as it stood"),
                (form.after_repair, "after repair"),
                (form.not_usable, "rejected"),
            ];
            let parts: Vec<String> = parts
                .iter()
                .filter(|(count, _)| *count > 0)
                .map(|(count, word)| format!("{} {word}", number(*count)))
                .collect();
            Figure::new(&form.form, form.count, Some(all), parts.join(", "))
                .shown_by(&format!("form={}", form.form))
        })
        .collect();
    let of = format!("of {}", counted(all, "record with an address", "records with an address"));
    Block::of("Forms", &of, &figures).rank(2)
}

/// Shapes that are shown on the terminal.
const SHAPES: usize = 12;

fn shapes(report: &SurveyReport, rare: bool) -> Block {
    let told: Vec<&ShapeFigures> = match rare {
        false => report.shapes.iter().take(SHAPES).collect(),
        true => report.shapes.iter().chain(&report.rare_shapes).rev().take(SHAPES * 2).collect(),
    };
    let distinct = estimate(report.counts.distinct_shapes());
    let which = if rare {
        format!("the rarest of {distinct}")
    } else if report.counts.shapes > SHAPES as u64 {
        format!("the most frequent of {distinct}; the others with --rare")
    } else {
        distinct
    };
    let cells: u64 = report.shapes.iter().chain(&report.rare_shapes).map(|shape| shape.count).sum();
    let cells = cells.max(report.counts.records);
    let figures: Vec<Figure> = told
        .iter()
        .map(|shape| {
            let (word, condition) = match &*shape.shape {
                "" => ("(empty)".to_owned(), "shape=".to_owned()),
                text => (text.to_owned(), format!("shape={}", Conditions::quoted(text))),
            };
            let example = cut(&shown(shape.example.as_bytes()), 40);
            Figure::new(word, shape.count, Some(cells), example).shown_by(&condition)
        })
        .collect();
    let of = counted(cells, "cell of the address field", "cells of the address field");
    Block::of("Shapes", &format!("{which}; of {of}"), &figures).rank(if rare { 1 } else { 5 })
}

fn findings(report: &SurveyReport, summary: &mut Summary) {
    for (rank, severity, head) in [
        (2, Severity::Reject, "What rejects"),
        (4, Severity::Review, "What asks for a decision"),
        (6, Severity::Note, "Noted"),
    ] {
        let figures: Vec<Figure> = report
            .findings
            .iter()
            .filter(|finding| finding.severity == severity)
            .map(|finding| {
                let example = cut(&shown(finding.example.as_bytes()), 48);
                Figure::new(&finding.code, finding.count, None, example)
                    .shown_by(&format!("finding={}", finding.code))
            })
            .collect();
        summary.block(Block::of(head, "records; one can have several", &figures).rank(rank));
    }
}

fn mailboxes(report: &SurveyReport) -> Block {
    let mailboxes = &report.same_mailbox;
    let distinct = report.counts.distinct_mailboxes();
    if distinct.count == 0 {
        return Block::of("Mailboxes", "", &[]);
    }
    let about = if distinct.exact { "" } else { "an estimate" };
    let mut figures = vec![Figure::new("mailboxes", distinct.count, None, about)];
    if mailboxes.groups > 0 {
        let groups = counted(mailboxes.groups, "mailbox", "mailboxes");
        let remark = format!("with {groups}; the largest has {}", number(mailboxes.largest));
        figures.push(Figure::new("records that share one", mailboxes.in_groups, None, remark));
    }
    Block::of("Mailboxes", &format!("of the usable records, by rule {}", mailboxes.rule), &figures).rank(4)
}

fn domains(report: &SurveyReport, summary: &mut Summary) {
    let usable = report.counts.usable.total;
    let (of, records) = (Some(usable), counted(usable, "usable record", "usable records"));
    let classes: Vec<Figure> = report
        .counts
        .classes
        .iter()
        .map(|(class, count)| {
            Figure::new(class, *count, of, "").shown_by(&format!("class={class},address=yes"))
        })
        .collect();
    summary.block(Block::of("Classes", &format!("of {records}"), &classes).rank(4));
    let operators: Vec<Figure> = report
        .counts
        .operators
        .iter()
        .take(6)
        .map(|(operator, count)| {
            let condition = format!("operator={},address=yes", Conditions::quoted(operator));
            Figure::new(operator, *count, of, "").shown_by(&condition)
        })
        .collect();
    let remark = format!("country variants of one service together; of {records}");
    summary.block(Block::of("Operators", &remark, &operators).rank(6));
    let domains: Vec<Figure> = report
        .domains
        .iter()
        .take(8)
        .map(|domain| {
            let condition = format!("domain={},address=yes", Conditions::quoted(&domain.value));
            Figure::new(shown(domain.value.as_bytes()), domain.count, of, "").shown_by(&condition)
        })
        .collect();
    let remark = format!("the most frequent of {}; of {records}", estimate(report.counts.distinct_domains()));
    summary.block(Block::of("Domains", &remark, &domains).rank(4));
    let local_parts: Vec<Figure> = report
        .local_parts
        .iter()
        .take(6)
        .map(|local| Figure::new(shown(local.value.as_bytes()), local.count, None, ""))
        .collect();
    let remark = if report.local_parts_exact { "domains" } else { "domains, estimated" };
    summary.block(Block::of("Local parts at several domains", remark, &local_parts).rank(7));
}

/// The values of fields that have few.
fn values(report: &SurveyReport) -> Block {
    const FEW: u64 = 12;
    let has_few = |field: &&FieldFigures| field.distinct.count <= FEW && field.filled > field.distinct.count;
    let mut figures = Vec::new();
    for field in report.fields.iter().filter(has_few) {
        for TopValue { value, count } in &field.values {
            let name = format!("{}: {}", shown(field.name.as_bytes()), cut(&shown(value.as_bytes()), 32));
            let condition =
                format!("field={},value={}", Conditions::quoted(&field.name), Conditions::quoted(value));
            figures.push(Figure::new(name, *count, Some(report.counts.records), "").shown_by(&condition));
        }
    }
    let of = format!("of {}", counted(report.counts.records, "record", "records"));
    Block::of("Values of fields that have few", &of, &figures).rank(7)
}
