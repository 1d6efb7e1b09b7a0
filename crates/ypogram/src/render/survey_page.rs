//! The survey as one page that can be sent around: nothing in it comes from elsewhere.

use askama::Template;
use ypogram_core::{Severity, shown};
use ypogram_jobs::DistinctCount;
use ypogram_jobs::survey::{Figure, SurveyReport, TopValue};

use crate::render::chart::{self, Bar};
use crate::render::survey::answer;
use crate::render::words::{counted, number, share};

#[derive(Template)]
#[template(path = "survey.html")]
struct Page {
    title: String,
    /// The first line of the survey.
    answer: String,
    subtitle: String,
    tiles: Vec<Tile>,
    /// How all records divide, in parts that fill the width.
    division: Vec<Part>,
    lacking: String,
    at_sign_left: String,
    ladder: Vec<[String; 4]>,
    fields: Vec<Field>,
    forms: String,
    /// What the shares of forms, classes and shapes are of.
    of_addresses: String,
    of_usable: String,
    of_cells: String,
    shapes: Vec<[String; 4]>,
    more_shapes: String,
    domains: String,
    distinct_domains: String,
    classes: String,
    operators: String,
    findings: Vec<Finding>,
    local_parts: Vec<[String; 2]>,
    sources: Vec<[String; 3]>,
    version: &'static str,
}

struct Tile {
    figure: String,
    label: &'static str,
    remark: String,
}

struct Part {
    label: &'static str,
    class: &'static str,
    count: String,
    share: String,
    /// Its share of the width, in per cent.
    width: String,
}

struct Field {
    name: String,
    filled: String,
    share: String,
    distinct: String,
    length: String,
    kinds: String,
    frequent: String,
}

struct Finding {
    severity: &'static str,
    code: String,
    count: String,
    sentence: &'static str,
    example: String,
}

/// The page.
pub(crate) fn page(report: &SurveyReport) -> String {
    let usable = report.usable.in_all();
    let with_address = report.forms.iter().map(|form| form.count).sum();
    let of = |count| share(count, report.records);
    let cells: u64 = report.shapes.iter().chain(&report.rare_shapes).map(|shape| shape.count).sum();
    let cells = cells.max(report.records);
    let names: Vec<String> = report.sources.iter().map(|source| shown(source.name.as_bytes())).collect();
    let mut subtitle = format!("address field: {}", report.address_fields.join(", "));
    if let Some(only) = &report.only {
        subtitle.push_str(&format!(" · only records with {only}"));
    }
    let page = Page {
        title: names.join(", "),
        answer: answer(report),
        subtitle,
        tiles: tiles(report),
        division: division(report),
        lacking: number(report.elsewhere.lacking),
        at_sign_left: match report.elsewhere.at_sign_left {
            0 => String::new(),
            left => number(left),
        },
        ladder: report
            .elsewhere
            .steps
            .iter()
            .map(|step| [shown(step.field.as_bytes()), number(step.adds), number(step.total), of(step.total)])
            .collect(),
        fields: fields(report),
        of_addresses: counted(with_address, "record with an address", "records with an address"),
        of_usable: counted(usable, "usable record", "usable records"),
        of_cells: counted(cells, "cell of the address field", "cells of the address field"),
        forms: chart_of(report.forms.iter().map(|form| (form.form.clone(), form.count)), with_address),
        shapes: report
            .shapes
            .iter()
            .map(|shape| {
                let name = if shape.shape.is_empty() { "(empty)".into() } else { shape.shape.clone() };
                [name, number(shape.count), share(shape.count, cells), shown(shape.example.as_bytes())]
            })
            .collect(),
        more_shapes: match report.distinct_shapes.count.saturating_sub(report.shapes.len() as u64) {
            0 => String::new(),
            more => number(more),
        },
        domains: chart_of(
            report.domains.iter().take(12).map(|d| (shown(d.value.as_bytes()), d.count)),
            usable,
        ),
        distinct_domains: estimate(report.distinct_domains),
        classes: chart_of(named(&report.classes), usable),
        operators: chart_of(named(&report.operators).take(8), usable),
        findings: findings(report),
        local_parts: report
            .local_parts
            .iter()
            .map(|l| [shown(l.value.as_bytes()), number(l.count)])
            .collect(),
        sources: report
            .sources
            .iter()
            .map(|source| [shown(source.name.as_bytes()), source.format.clone(), number(source.bytes)])
            .collect(),
        version: env!("CARGO_PKG_VERSION"),
    };
    page.render().expect("the template has no condition that could fail")
}

fn named(figures: &[Figure]) -> impl Iterator<Item = (String, u64)> {
    figures.iter().map(|figure| (figure.name.clone(), figure.count))
}

fn chart_of(figures: impl Iterator<Item = (String, u64)>, of: u64) -> String {
    let bar =
        |(label, count)| Bar { label, count, told: format!("{} ({})", number(count), share(count, of)) };
    chart::bars(&figures.map(bar).collect::<Vec<_>>())
}

fn estimate(count: DistinctCount) -> String {
    format!("{}{}", if count.exact { "" } else { "≈ " }, number(count.count))
}

fn tiles(report: &SurveyReport) -> Vec<Tile> {
    let usable = report.usable.in_all();
    let of = |count| share(count, report.records);
    let tile = |figure: String, label, remark: String| Tile { figure, label, remark };
    let mut tiles = vec![
        tile(number(report.records), "records", format!("{} fields", report.fields.len())),
        tile(number(usable), "usable", of(usable)),
        tile(number(report.usable.after_repair), "usable after repair", of(report.usable.after_repair)),
        tile(number(report.usable.rejected), "rejected", of(report.usable.rejected)),
        tile(number(report.usable.no_address), "no-address", of(report.usable.no_address)),
        tile(
            estimate(report.mailboxes.distinct),
            "mailboxes",
            format!("{} records share one", number(report.mailboxes.in_groups)),
        ),
    ];
    if let Some(last) = report.elsewhere.steps.last() {
        let gain = last.total - usable;
        tiles.push(tile(format!("+{}", number(gain)), "in other fields", format!("{} then", of(last.total))));
    }
    tiles
}

fn division(report: &SurveyReport) -> Vec<Part> {
    let usable = &report.usable;
    let parts = [
        ("usable as it stood", "good", usable.as_it_stood),
        ("usable after repair", "mended", usable.after_repair),
        ("usable from text fields", "text", usable.from_text),
        ("rejected", "bad", usable.rejected),
        ("no-address", "none", usable.no_address),
    ];
    let part = |(label, class, count): (&'static str, &'static str, u64)| Part {
        label,
        class,
        count: number(count),
        share: share(count, report.records),
        width: format!("{:.2}", count as f64 * 100.0 / report.records.max(1) as f64),
    };
    parts.into_iter().filter(|(_, _, count)| *count > 0).map(part).collect()
}

fn fields(report: &SurveyReport) -> Vec<Field> {
    let frequent = |values: &[TopValue]| {
        let several = values.iter().filter(|value| value.count > 1).take(3);
        several
            .map(|value| format!("{} × {}", number(value.count), shown(value.value.as_bytes())))
            .collect::<Vec<_>>()
            .join(" · ")
    };
    report
        .fields
        .iter()
        .map(|field| Field {
            name: shown(field.name.as_bytes()),
            filled: number(field.filled),
            share: share(field.filled, report.records),
            distinct: estimate(field.distinct),
            length: format!("{}–{}", field.shortest, field.longest),
            kinds: field
                .kinds
                .iter()
                .take(4)
                .map(|kind| format!("{} {}", kind.name, share(kind.count, field.filled)))
                .collect::<Vec<_>>()
                .join(", "),
            frequent: if field.unique { "every value is there once".into() } else { frequent(&field.values) },
        })
        .collect()
}

fn findings(report: &SurveyReport) -> Vec<Finding> {
    report
        .findings
        .iter()
        .map(|finding| Finding {
            severity: match finding.severity {
                Severity::Reject => "reject",
                Severity::Review => "review",
                _ => "note",
            },
            code: finding.code.clone(),
            count: number(finding.count),
            sentence: ypogram_core::Code::from_name(&finding.code).map_or("", |code| code.info().sentence),
            example: shown(finding.example.as_bytes()),
        })
        .collect()
}
