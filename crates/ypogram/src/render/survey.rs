//! The survey for people: the figures they come for first, each with the option that opens the records behind it.

use std::fmt::Write as _;
use std::path::PathBuf;

use comfy_table::{CellAlignment, ContentArrangement, Table, presets};
use ypogram_core::{Severity, shown};
use ypogram_jobs::survey::{FieldFigures, ShapeFigures, SurveyReport, TopValue};
use ypogram_jobs::{Conditions, DistinctCount, FieldChoice};
use ypogram_tables::Target;

use crate::render::figures::{Figure, block};
use crate::render::head::{Head, JudgedBy};
use crate::render::style;
use crate::render::words::{counted, for_shell, for_shell_all, number, share};

/// How the survey was called, for the commands that are to be copied.
pub(crate) struct Call<'a> {
    pub(crate) sources: &'a [PathBuf],
    pub(crate) by: JudgedBy<'a>,
    pub(crate) named_fields: &'a FieldChoice,
    pub(crate) rare: bool,
}

/// What was found, for people.
pub(crate) fn summary(report: &SurveyReport, call: &Call<'_>) -> String {
    let mut out = String::new();
    head(report, call, &mut out);
    addresses(report, &mut out);
    elsewhere(report, call, &mut out);
    fields(report, &mut out);
    mixed_fields(report, &mut out);
    forms(report, &mut out);
    shapes(report, call.rare, &mut out);
    findings(report, &mut out);
    mailboxes(report, call, &mut out);
    domains(report, &mut out);
    values(report, &mut out);
    let sources = for_shell_all(call.sources);
    let _ = writeln!(
        out,
        "\n{}",
        style::dim(&format!("the records behind a line: ypogram survey {sources} --show …"))
    );
    out
}

/// What `--show` and `--label` have written.
pub(crate) fn written(written: u64, records: u64, show: Option<&str>, target: &Target) -> String {
    let place = match target {
        Target::Standard => "to standard output".to_owned(),
        Target::File { path, .. } => format!("to {}", path.display()),
    };
    match show {
        Some(show) => {
            let of = counted(records, "record", "records");
            format!("{} of {of} written {place}: those with {}\n", number(written), shown(show.as_bytes()))
        }
        None => format!("{} written {place}\n", counted(written, "record", "records")),
    }
}

fn head(report: &SurveyReport, call: &Call<'_>, out: &mut String) {
    let sources = report.sources.iter();
    let only = report.only.as_ref().map(|only| format!("only records with {}", shown(only.as_bytes())));
    Head {
        sources: sources
            .map(|source| (&*source.name, &*source.format, source.broken_off.as_deref()))
            .collect(),
        how: &report.how,
        address_fields: report.address_fields.iter().map(String::as_str).collect(),
        text_fields: report.text_fields.iter().map(String::as_str).collect(),
        more: only.into_iter().collect(),
        by: call.by,
    }
    .write(out);
}

fn title(out: &mut String, title: &str, remark: &str) {
    let remark = if remark.is_empty() { String::new() } else { style::dim(&format!(" ({remark})")) };
    let _ = writeln!(out, "{}{remark}", style::title(title));
}

fn addresses(report: &SurveyReport, out: &mut String) {
    let (usable, of) = (&report.usable, Some(report.records));
    title(out, "Addresses", &counted(report.records, "record", "records"));
    let repairs: Vec<String> = report
        .repairs
        .iter()
        .take(3)
        .map(|repair| format!("{} {}", repair.name, number(repair.count)))
        .collect();
    let mut figures = vec![
        Figure::new("usable as they stand", usable.as_it_stood, of, "").shown_by("usable=as-it-stands"),
        Figure::new("usable after repair", usable.after_repair, of, repairs.join(", "))
            .shown_by("usable=after-repair"),
    ];
    if !report.text_fields.is_empty() {
        figures.push(
            Figure::new("usable from text fields", usable.from_text, of, "").shown_by("usable=from-text"),
        );
    }
    if usable.rejected > 0 {
        figures.push(Figure::new("not usable", usable.rejected, of, "").shown_by("verdict=reject"));
    }
    let lacking = usable.no_address;
    if lacking > 0 {
        figures.push(Figure::new("no address", lacking, of, "").shown_by("verdict=none"));
    }
    let review =
        report.verdicts.iter().find(|verdict| verdict.name == "review").filter(|verdict| verdict.count > 0);
    out.push_str(&block(&figures));
    if let Some(review) = review {
        let _ = writeln!(
            out,
            "  {} of the usable ask for a decision  {}",
            number(review.count),
            style::dim("--show verdict=review")
        );
    }
}

fn elsewhere(report: &SurveyReport, call: &Call<'_>, out: &mut String) {
    let ladder = &report.elsewhere;
    if ladder.lacking == 0 || ladder.steps.is_empty() && ladder.at_sign_left == 0 {
        return;
    }
    out.push('\n');
    let lacking = counted(ladder.lacking, "record has", "records have");
    let these = if ladder.steps.is_empty() { "" } else { "; these fields would give one" };
    title(out, "Where else", &format!("{lacking} no usable address{these}"));
    let figures: Vec<Figure> = ladder
        .steps
        .iter()
        .map(|step| {
            let field = Conditions::quoted(&step.field);
            let total = format!("usable then {} ({})", number(step.total), share(step.total, report.records));
            Figure::new(format!("+ {}", shown(step.field.as_bytes())), step.adds, Some(ladder.lacking), total)
                .shown_by(&format!("field={field},address=yes"))
        })
        .collect();
    if !figures.is_empty() {
        out.push_str(&block(&figures));
    }
    if ladder.at_sign_left > 0 {
        let records = counted(ladder.at_sign_left, "of these records holds", "of these records hold");
        let _ = writeln!(out, "  {records} an @ somewhere  {}", style::dim("--show at-sign=yes,address=no"));
    }
    if !ladder.steps.is_empty() {
        let _ = writeln!(out, "  to take them: {}", clean_command(report, call));
    }
}

/// The `clean` that looks at the fields of the ladder too, ready to copy.
fn clean_command(report: &SurveyReport, call: &Call<'_>) -> String {
    let mut command = format!("ypogram clean {}", for_shell_all(call.sources));
    let mut add = |option: &str, field: &str| {
        let _ = write!(command, " {option} {}", for_shell(field));
    };
    report.address_fields.iter().for_each(|field| add("--field", field));
    let (own, text): (Vec<_>, Vec<_>) = report.elsewhere.steps.iter().partition(|step| step.as_address_field);
    own.iter().for_each(|step| add("--field", &step.field));
    call.named_fields.text.iter().for_each(|field| add("--also", field));
    text.iter().for_each(|step| add("--also", &step.field));
    command
}

fn estimate(count: DistinctCount) -> String {
    let about = if count.exact { "" } else { "≈" };
    format!("{about}{}", number(count.count))
}

fn fields(report: &SurveyReport, out: &mut String) {
    out.push('\n');
    title(out, "Fields", "");
    let mut table = Table::new();
    table.load_style(presets::NOTHING).set_content_arrangement(ContentArrangement::Disabled);
    table.set_header(["", "filled", "", "distinct", "length", "octets", "holds mostly", "", ""]);
    for field in &report.fields {
        let held = field
            .kinds
            .first()
            .map_or_else(String::new, |kind| format!("{} {}", kind.name, share(kind.count, field.filled)));
        let remark = if field.unique { "every value is there once".to_owned() } else { most_frequent(field) };
        let quoted = Conditions::quoted(&field.name);
        let show = if field.empty > 0 {
            format!("field={quoted},filled=no")
        } else {
            format!("field={quoted},filled=yes")
        };
        table.add_row([
            format!(" {}", shown(field.name.as_bytes())),
            number(field.filled),
            share(field.filled, report.records),
            estimate(field.distinct),
            if field.shortest == field.longest {
                number(field.longest)
            } else {
                format!("{}–{}", field.shortest, field.longest)
            },
            number(field.octets),
            held,
            remark,
            style::dim(&format!("--show {}", for_shell(&show))),
        ]);
    }
    for index in 1..=5 {
        if let Some(column) = table.column_mut(index) {
            column.set_cell_alignment(CellAlignment::Right);
        }
    }
    out.push_str(&(table.trim_fmt() + "\n"));
}

fn most_frequent(field: &FieldFigures) -> String {
    match field.values.first() {
        Some(TopValue { value, count }) if *count > 1 => {
            let about = if field.values_exact { "" } else { "≈" };
            format!("{about}{} × {}", number(*count), cut(value, 24))
        }
        _ => String::new(),
    }
}

fn cut(text: &str, most: usize) -> String {
    let text = shown(text.as_bytes());
    if text.chars().count() <= most {
        return text;
    }
    text.chars().take(most - 1).chain(['…']).collect()
}

/// Fields that hold addresses or telephone numbers among other things.
fn mixed_fields(report: &SurveyReport, out: &mut String) {
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
    if !figures.is_empty() {
        out.push('\n');
        title(out, "What the cells hold", "of those filled; with --label FIELD as a column of its own");
        out.push_str(&block(&figures));
    }
}

fn forms(report: &SurveyReport, out: &mut String) {
    if report.forms.is_empty() {
        return;
    }
    out.push('\n');
    title(out, "Forms in which the addresses stand", "");
    let of = Some(report.forms.iter().map(|form| form.count).sum());
    let figures: Vec<Figure> = report
        .forms
        .iter()
        .map(|form| {
            let parts = [
                (form.as_it_stood, "usable as it stands"),
                (form.after_repair, "after repair"),
                (form.not_usable, "not usable"),
            ];
            let parts: Vec<String> = parts
                .iter()
                .filter(|(count, _)| *count > 0)
                .map(|(count, word)| format!("{} {word}", number(*count)))
                .collect();
            Figure::new(&form.form, form.count, of, parts.join(", ")).shown_by(&format!("form={}", form.form))
        })
        .collect();
    out.push_str(&block(&figures));
}

/// Shapes that are told on the terminal.
const SHAPES: usize = 12;

fn shapes(report: &SurveyReport, rare: bool, out: &mut String) {
    let told: Vec<&ShapeFigures> = match rare {
        false => report.shapes.iter().take(SHAPES).collect(),
        true => report.shapes.iter().chain(&report.rare_shapes).rev().take(SHAPES * 2).collect(),
    };
    if told.is_empty() {
        return;
    }
    out.push('\n');
    let all = estimate(report.distinct_shapes);
    let which = if rare {
        format!("the rarest of {all}")
    } else if report.distinct_shapes.count > SHAPES as u64 {
        format!("the most frequent of {all}; the others with --rare")
    } else {
        all
    };
    title(out, "Shapes of the cells", &which);
    let of: u64 = report.shapes.iter().chain(&report.rare_shapes).map(|shape| shape.count).sum();
    let figures: Vec<Figure> = told
        .iter()
        .map(|shape| {
            let (word, condition) = match &*shape.shape {
                "" => ("(empty)".to_owned(), "filled=no".to_owned()),
                text => (text.to_owned(), format!("shape={}", Conditions::quoted(text))),
            };
            Figure::new(word, shape.count, Some(of.max(report.records)), cut(&shape.example, 40))
                .shown_by(&condition)
        })
        .collect();
    out.push_str(&block(&figures));
}

fn findings(report: &SurveyReport, out: &mut String) {
    for (severity, head) in [
        (Severity::Reject, "What rejects"),
        (Severity::Review, "What asks for a decision"),
        (Severity::Note, "Noted"),
    ] {
        let figures: Vec<Figure> = report
            .findings
            .iter()
            .filter(|finding| finding.severity == severity)
            .map(|finding| {
                Figure::new(&finding.code, finding.count, None, cut(&finding.example, 48))
                    .shown_by(&format!("finding={}", finding.code))
            })
            .collect();
        if !figures.is_empty() {
            out.push('\n');
            title(out, head, "records; one can have several");
            out.push_str(&block(&figures));
        }
    }
}

fn mailboxes(report: &SurveyReport, call: &Call<'_>, out: &mut String) {
    let mailboxes = &report.mailboxes;
    if mailboxes.distinct.count == 0 {
        return;
    }
    out.push('\n');
    title(out, "Mailboxes", &format!("rule {}", mailboxes.rule));
    let about = if mailboxes.distinct.exact { "" } else { "an estimate" };
    let mut figures = vec![Figure::new("distinct", mailboxes.distinct.count, None, about)];
    if mailboxes.groups > 0 {
        let groups = counted(mailboxes.groups, "mailbox", "mailboxes");
        let remark = format!("they share {groups}; the largest has {}", number(mailboxes.largest));
        figures.push(Figure::new("records that share one", mailboxes.in_groups, None, remark));
    }
    out.push_str(&block(&figures));
    if mailboxes.groups > 0 {
        let _ = writeln!(
            out,
            "  the groups: {}",
            style::dim(&format!("ypogram dedupe {}", for_shell_all(call.sources)))
        );
    }
}

fn domains(report: &SurveyReport, out: &mut String) {
    if report.domains.is_empty() {
        return;
    }
    let of = Some(report.usable.in_all());
    let mut named = |head: &str, remark: &str, figures: Vec<Figure>| {
        if !figures.is_empty() {
            out.push('\n');
            title(out, head, remark);
            out.push_str(&block(&figures));
        }
    };
    let classes = report.classes.iter().map(|class| {
        Figure::new(&class.name, class.count, of, "").shown_by(&format!("class={},address=yes", class.name))
    });
    named("Classes", "usable records", classes.collect());
    let operators = report.operators.iter().take(6).map(|operator| {
        let condition = format!("operator={},address=yes", Conditions::quoted(&operator.name));
        Figure::new(&operator.name, operator.count, of, "").shown_by(&condition)
    });
    named("Operators of mailboxes", "country variants of one service together", operators.collect());
    let domains = report.domains.iter().take(8).map(|domain| {
        Figure::new(shown(domain.value.as_bytes()), domain.count, of, "")
            .shown_by(&format!("domain={},address=yes", Conditions::quoted(&domain.value)))
    });
    named(
        "Domains",
        &format!("the most frequent of {}", estimate(report.distinct_domains)),
        domains.collect(),
    );
    let local_parts = report.local_parts.iter().take(6).map(|local| {
        Figure::new(shown(local.value.as_bytes()), local.count, None, "")
            .shown_by(&format!("local-part={}", Conditions::quoted(&local.value)))
    });
    let remark = if report.local_parts_exact { "domains" } else { "domains, estimated" };
    named("Local parts at several domains", remark, local_parts.collect());
}

/// The values of fields that have few.
fn values(report: &SurveyReport, out: &mut String) {
    const FEW: u64 = 12;
    let has_few = |field: &&FieldFigures| field.distinct.count <= FEW && field.filled > field.distinct.count;
    let mut figures = Vec::new();
    for field in report.fields.iter().filter(has_few) {
        for TopValue { value, count } in &field.values {
            let name = format!("{}: {}", shown(field.name.as_bytes()), cut(value, 32));
            let condition =
                format!("field={},value={}", Conditions::quoted(&field.name), Conditions::quoted(value));
            figures.push(Figure::new(name, *count, Some(report.records), "").shown_by(&condition));
        }
    }
    if !figures.is_empty() {
        out.push('\n');
        title(out, "Values of fields that have few", "");
        out.push_str(&block(&figures));
    }
}
