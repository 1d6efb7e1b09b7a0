//! Two surveys side by side: what was before, what is now, and the difference.

use std::collections::BTreeMap;

use comfy_table::{CellAlignment, ContentArrangement, Table, presets};
use ypogram_core::shown;
use ypogram_jobs::survey::SurveyReport;

use crate::render::style;
use crate::render::words::{number, share};

/// Both surveys, with the differences.
pub(crate) fn side_by_side(now: &SurveyReport, before: &SurveyReport) -> String {
    let names = |report: &SurveyReport| {
        report.sources.iter().map(|source| shown(source.name.as_bytes())).collect::<Vec<_>>().join(", ")
    };
    let mut out = format!("{} {}\n", style::title("before:"), names(before));
    out.push_str(&format!("{} {}\n", style::title("now:   "), names(now)));
    for (title, figures) in sections() {
        let (before, now) = (figures(before), figures(now));
        let mut order: Vec<&String> = now.iter().map(|(name, _)| name).collect();
        order.extend(before.iter().map(|(name, _)| name));
        let (before, now): (BTreeMap<_, _>, BTreeMap<_, _>) =
            (before.iter().cloned().collect(), now.iter().cloned().collect());
        let mut told = std::collections::HashSet::new();
        let order: Vec<&String> = order.into_iter().filter(|name| told.insert(*name)).collect();
        if order.is_empty() {
            continue;
        }
        out.push_str(&format!("\n{}\n", style::title(title)));
        out.push_str(&table(&order, &before, &now));
    }
    out
}

type Figures = Vec<(String, u64)>;

/// A title, and the figures under it.
type Section = (&'static str, fn(&SurveyReport) -> Figures);

/// What is held against one another, in the order of an administrator's questions.
fn sections() -> [Section; 6] {
    [
        ("Records and addresses", |report| {
            let usable = &report.usable;
            let figures = [
                ("records", report.records),
                ("usable as they stand", usable.as_it_stood),
                ("usable after repair", usable.after_repair),
                ("usable from text fields", usable.from_text),
                ("not usable", usable.rejected),
                ("without an address", usable.no_address),
                ("distinct mailboxes", report.mailboxes.distinct.count),
                ("records that share a mailbox", report.mailboxes.in_groups),
            ];
            figures.map(|(name, count)| (name.to_owned(), count)).to_vec()
        }),
        ("Verdicts", |report| report.verdicts.iter().map(|f| (f.name.clone(), f.count)).collect()),
        ("Forms", |report| report.forms.iter().map(|form| (form.form.clone(), form.count)).collect()),
        ("Findings", |report| report.findings.iter().map(|f| (f.code.clone(), f.count)).collect()),
        ("Classes", |report| report.classes.iter().map(|f| (f.name.clone(), f.count)).collect()),
        ("Filled cells, by field", |report| {
            report.fields.iter().map(|field| (shown(field.name.as_bytes()), field.filled)).collect()
        }),
    ]
}

fn table(order: &[&String], before: &BTreeMap<String, u64>, now: &BTreeMap<String, u64>) -> String {
    let mut table = Table::new();
    table.load_style(presets::NOTHING).set_content_arrangement(ContentArrangement::Disabled);
    table.set_header([" ", "before", "now", "difference", ""]);
    for &name in order {
        let was = before.get(name).copied().unwrap_or_default();
        let is = now.get(name).copied().unwrap_or_default();
        let (difference, by) = match is.cmp(&was) {
            std::cmp::Ordering::Equal => ("=".to_owned(), String::new()),
            std::cmp::Ordering::Less => (format!("−{}", number(was - is)), share(was - is, was)),
            std::cmp::Ordering::Greater => (format!("+{}", number(is - was)), share(is - was, was)),
        };
        table.add_row([format!(" {name}"), number(was), number(is), difference, by]);
    }
    for index in 1..=4 {
        if let Some(column) = table.column_mut(index) {
            column.set_cell_alignment(CellAlignment::Right);
        }
    }
    table.trim_fmt() + "\n"
}
