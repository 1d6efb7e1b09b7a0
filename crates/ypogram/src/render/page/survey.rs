//! The survey as a page.

use ypogram_core::{Class, Code, Severity, Verdict, WordOf, Words, shown};
use ypogram_jobs::survey::{SurveyReport, TopValue};
use ypogram_jobs::{Conditions, DistinctCount};

use crate::render::page::examples::Examples;
use crate::render::page::parts::{Cell, Count, Figure, Page, Part, Section, Sort, Table, Tile, bars};
use crate::render::survey::answer;
use crate::render::words::{counted, number, share};

/// The figures whose records can be shown: their names and the conditions that pick these.
pub(crate) fn figures_of_survey(report: &SurveyReport) -> Vec<(String, String)> {
    let quoted = |value: &str| Conditions::quoted(value);
    let mut figures: Vec<(String, String)> = [
        ("usable-as-it-stood", "usable=as-it-stands"),
        ("usable-after-repair", "usable=after-repair"),
        ("usable-from-text", "usable=from-text"),
        ("rejected", "verdict=reject"),
        ("no-address", "verdict=none"),
    ]
    .map(|(name, condition)| (name.to_owned(), condition.to_owned()))
    .into();
    figures.extend(report.forms.iter().map(|f| (format!("form.{}", f.form), format!("form={}", f.form))));
    figures.extend(
        report.findings.iter().map(|f| (format!("finding.{}", f.code), format!("finding={}", f.code))),
    );
    figures.extend(
        report
            .counts
            .classes
            .keys()
            .map(|class| (format!("class.{class}"), format!("class={class},address=yes"))),
    );
    let operators = report
        .counts
        .operators
        .keys()
        .map(|name| (format!("operator.{name}"), format!("operator={},address=yes", quoted(name))));
    figures.extend(operators);
    let domains = report.domains.iter().take(DOMAINS);
    figures.extend(
        domains.map(|d| (format!("domain.{}", d.value), format!("domain={},address=yes", quoted(&d.value)))),
    );
    figures.extend(
        report.shapes.iter().map(|s| (format!("shape.{}", s.shape), format!("shape={}", quoted(&s.shape)))),
    );
    let empty = report.fields.iter().filter(|field| field.empty > 0);
    figures
        .extend(empty.map(|f| (format!("empty.{}", f.name), format!("field={},filled=no", quoted(&f.name)))));
    figures
}

/// Domains that are shown.
const DOMAINS: usize = 12;

/// The page.
pub(crate) fn survey(report: &SurveyReport, words: &Words, examples: &Examples) -> Page {
    let names: Vec<String> = report.sources.iter().map(|source| shown(source.name.as_bytes())).collect();
    let mut subtitle = format!("address field: {}", report.columns.address.join(", "));
    if let Some(only) = &report.only {
        subtitle.push_str(&format!(" · only records with {only}"));
    }
    let source = |source: &ypogram_jobs::SourceReport| {
        format!("{}: {}, {} bytes", shown(source.name.as_bytes()), source.format, number(source.bytes))
    };
    let mut sections = vec![
        Section::new("", "", vec![Part::Tiles(tiles(report))]),
        Section::new(
            "How the records divide",
            counted(report.counts.records, "record", "records"),
            vec![division(report, examples)],
        ),
    ];
    sections.extend(elsewhere(report));
    sections.extend(charts(report, words, examples));
    sections.push(fields(report, examples));
    sections.extend(findings(report, words, examples));
    sections.extend(shapes(report, examples));
    sections.extend(local_parts(report, examples));
    Page {
        title: format!("Survey of {}", names.join(", ")),
        answer: answer(report),
        subtitle,
        sections,
        sources: report.sources.iter().map(source).collect(),
    }
}

fn estimate(count: DistinctCount) -> String {
    format!("{}{}", if count.exact { "" } else { "≈ " }, number(count.count))
}

fn tiles(report: &SurveyReport) -> Vec<Tile> {
    let usable = report.counts.usable.total;
    let of = |count| share(count, report.counts.records);
    let tile = |name: &str, count, label: &str, remark| Tile {
        count: Count::new(name, count),
        label: label.into(),
        remark,
    };
    let mut tiles = vec![
        tile(
            "records",
            report.counts.records,
            "records",
            counted(report.fields.len() as u64, "field", "fields"),
        ),
        tile("usable", usable, "usable", of(usable)),
        tile(
            "usable-after-repair",
            report.counts.usable.after_repair,
            "usable after repair",
            of(report.counts.usable.after_repair),
        ),
        tile(
            "rejected",
            report.counts.of(Verdict::Reject),
            "rejected",
            of(report.counts.of(Verdict::Reject)),
        ),
        tile("no-address", report.counts.no_address, "no-address", of(report.counts.no_address)),
    ];
    let mailboxes = report.counts.distinct_mailboxes();
    tiles.push(Tile {
        count: Count { shown: estimate(mailboxes), ..Count::new("mailboxes", mailboxes.count) },
        label: "mailboxes".into(),
        remark: format!("{} share one", counted(report.same_mailbox.in_groups, "record", "records")),
    });
    if let Some(last) = report.elsewhere.steps.last() {
        let gain = last.total - usable;
        tiles.push(Tile {
            count: Count { shown: format!("+{}", number(gain)), ..Count::unnamed(gain) },
            label: "in other fields".into(),
            remark: format!("{} then", of(last.total)),
        });
    }
    tiles
}

fn division(report: &SurveyReport, examples: &Examples) -> Part {
    let usable = &report.counts.usable;
    let parts = [
        ("usable as it stood", "good", "usable-as-it-stood", usable.as_it_stood),
        ("usable after repair", "mended", "usable-after-repair", usable.after_repair),
        ("usable from text fields", "text", "usable-from-text", usable.from_text),
        ("rejected", "bad", "rejected", report.counts.of(Verdict::Reject)),
        ("no-address", "none", "no-address", report.counts.no_address),
    ];
    let parts = parts.into_iter().filter(|(.., count)| *count > 0);
    let part = |(label, class, name, count)| {
        Figure::new(label, Count::new(name, count), (report.counts.records, report.counts.records))
            .in_colour(class)
            .opening(examples.behind(name, count))
    };
    Part::Division(parts.map(part).collect())
}

fn elsewhere(report: &SurveyReport) -> Option<Section> {
    let ladder = &report.elsewhere;
    if ladder.steps.is_empty() && ladder.at_sign_left == 0 {
        return None;
    }
    let mut table = Table::of(&[
        ("field", Sort::Name),
        ("adds", Sort::Number),
        ("usable then", Sort::Number),
        ("of all", Sort::Number),
    ]);
    for step in &ladder.steps {
        let name = format!("reachable.{}", step.field);
        let cells = [shown(step.field.as_bytes()).into(), Count::new(name, step.adds).into()];
        let then = [Count::unnamed(step.total).into(), share(step.total, report.counts.records).into()];
        table.add(cells.into_iter().chain(then).collect(), None);
    }
    let parts = if table.rows.is_empty() { Vec::new() } else { vec![Part::Table(table)] };
    let lacking = counted(ladder.lacking, "record has", "records have");
    let section = Section::new("Where else there are addresses", "", parts)
        .saying(format!("{lacking} no usable address. Each field is counted after those above it."));
    Some(match ladder.at_sign_left {
        0 => section,
        left => section.noting(format!("{} of these records hold an @ somewhere.", number(left))),
    })
}

fn charts(report: &SurveyReport, words: &Words, examples: &Examples) -> Vec<Section> {
    let usable = report.counts.usable.total;
    let with_address: u64 = report.forms.iter().map(|form| form.count).sum();
    let of_usable = format!("of {}", counted(usable, "usable record", "usable records"));
    let of_addresses =
        format!("of {}", counted(with_address, "record with an address", "records with an address"));
    let distinct = estimate(report.counts.distinct_domains());
    let figure = |kind: &str, name: &str, label: String, count| {
        let name = format!("{kind}.{name}");
        let records = examples.behind(&name, count);
        (label, Count::new(name, count), records)
    };
    let label_of_class =
        |name: &str| words.label(WordOf::Class, Class::from_word(name).map_or("", Class::word)).to_owned();
    let forms = report.forms.iter().map(|f| figure("form", &f.form, f.form.clone(), f.count)).collect();
    let domains = report.domains.iter().take(DOMAINS);
    let domains = domains.map(|d| figure("domain", &d.value, shown(d.value.as_bytes()), d.count)).collect();
    let classes = report
        .counts
        .classes
        .iter()
        .map(|(class, count)| figure("class", class, label_of_class(class), *count))
        .collect();
    let operators = report
        .counts
        .operators
        .iter()
        .take(8)
        .map(|(name, count)| figure("operator", name, name.clone(), *count))
        .collect();
    let sections = [
        ("Forms", of_addresses, bars(forms, with_address)),
        ("Domains", format!("the most frequent of {distinct}; {of_usable}"), bars(domains, usable)),
        ("Classes", of_usable.clone(), bars(classes, usable)),
        ("Operators", of_usable, bars(operators, usable)),
    ];
    let sections = sections.into_iter().filter(|(.., parts)| !parts.is_empty());
    sections.map(|(title, remark, parts)| Section::new(title, remark, parts).half()).collect()
}

fn fields(report: &SurveyReport, examples: &Examples) -> Section {
    let frequent = |values: &[TopValue]| {
        let several = values.iter().filter(|value| value.count > 1).take(3);
        let told = several
            .map(|value| format!("{} × {}", number(value.count), examples.value(&value.value, value.count)));
        told.collect::<Vec<_>>().join(" · ")
    };
    let mut table = Table::of(&[
        ("field", Sort::Name),
        ("filled", Sort::Number),
        ("share", Sort::Number),
        ("distinct", Sort::Number),
        ("length", Sort::Number),
        ("what it holds", Sort::Text),
        ("most frequent values", Sort::Text),
    ]);
    for field in &report.fields {
        let kinds = field
            .kinds
            .iter()
            .take(4)
            .map(|kind| format!("{} {}", kind.name, share(kind.count, field.filled)));
        let cells = vec![
            shown(field.name.as_bytes()).into(),
            Count::new(format!("filled.{}", field.name), field.filled).into(),
            share(field.filled, report.counts.records).into(),
            estimate(field.distinct).into(),
            format!("{}–{}", field.shortest, field.longest).into(),
            kinds.collect::<Vec<_>>().join(", ").into(),
            if field.unique { "every value is there once".into() } else { frequent(&field.values).into() },
        ];
        let mut records = examples.behind(&format!("empty.{}", field.name), field.empty);
        if let Some(records) = &mut records {
            records.of = format!("without it: {}", records.of);
        }
        table.add(cells, records);
    }
    Section::new(
        "Fields",
        format!("of {}", counted(report.counts.records, "record", "records")),
        vec![Part::Table(table)],
    )
}

fn findings(report: &SurveyReport, words: &Words, examples: &Examples) -> Option<Section> {
    let mut table = Table::of(&[
        ("weight", Sort::Name),
        ("finding", Sort::Name),
        ("records", Sort::Number),
        ("what it says", Sort::Text),
        ("first example", Sort::Code),
    ]);
    for finding in &report.findings {
        let weight = match finding.severity {
            Severity::Reject => "reject",
            Severity::Review => "review",
            _ => "note",
        };
        let name = format!("finding.{}", finding.code);
        let sentence = Code::from_name(&finding.code).map_or("", |code| words.sentence(code));
        let records = examples.behind(&name, finding.count);
        let cells: Vec<Cell> = vec![
            weight.into(),
            finding.code.clone().into(),
            Count::new(name, finding.count).into(),
            sentence.into(),
            examples.cell(&finding.example).into(),
        ];
        table.add(cells, records);
    }
    (!table.rows.is_empty()).then(|| Section::new("Findings", "", vec![Part::Table(table)]))
}

fn shapes(report: &SurveyReport, examples: &Examples) -> Option<Section> {
    let cells: u64 = report.shapes.iter().chain(&report.rare_shapes).map(|shape| shape.count).sum();
    let cells = cells.max(report.counts.records);
    let mut table = Table::of(&[
        ("shape", Sort::Code),
        ("cells", Sort::Number),
        ("share", Sort::Number),
        ("first example", Sort::Code),
    ]);
    for shape in &report.shapes {
        let name = if shape.shape.is_empty() { "(empty)" } else { &*shape.shape };
        let records = examples.behind(&format!("shape.{}", shape.shape), shape.count);
        let figures = [Count::unnamed(shape.count).into(), share(shape.count, cells).into()];
        let row =
            std::iter::once(Cell::from(name)).chain(figures).chain([examples.cell(&shape.example).into()]);
        table.add(row.collect(), records);
    }
    if table.rows.is_empty() {
        return None;
    }
    let of = format!("of {}", counted(cells, "cell of the address field", "cells of the address field"));
    let section = Section::new("Shapes", of, vec![Part::Table(table)]);
    Some(match report.counts.shapes.saturating_sub(report.shapes.len() as u64) {
        0 => section,
        more => section.noting(format!("and {} rarer ones", number(more))),
    })
}

fn local_parts(report: &SurveyReport, examples: &Examples) -> Option<Section> {
    let mut table = Table::of(&[("local part", Sort::Name), ("domains", Sort::Number)]);
    for local in &report.local_parts {
        table.add(vec![examples.local_part(&local.value).into(), Count::unnamed(local.count).into()], None);
    }
    (!table.rows.is_empty())
        .then(|| Section::new("Local parts at several domains", "", vec![Part::Table(table)]).half())
}
