//! Every figure of a survey against a count by brute force on random tables, for any threads and chunks.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::path::Path;

use proptest::prelude::*;
use tempfile::TempDir;
use ypogram_core::{CellKind, Policy, SameMailbox, Verdict, cell, examine, text};
use ypogram_io::OpenOptions;
use ypogram_jobs::survey::{self, SurveyOptions, SurveyReport};
use ypogram_jobs::{FieldChoice, Progress};

const FIELDS: [&str; 4] = ["id", "email", "second", "notes"];

fn cells() -> impl Strategy<Value = String> {
    prop::sample::select(vec![
        "",
        "",
        " ",
        "ada@h-works.org",
        "ADA@h-works.org",
        "Ada <ada@h-works.org>",
        "night.owl@gmail.com",
        "nightowl+x@googlemail.com",
        "info@one.org; info@two.org",
        "info@two.org",
        "cleo@gmial.com",
        "dara..b@h-works.org",
        "write to bea@h-works.org, please",
        "01632 960413",
        "2024-02-29",
        "12",
        "Bea Lovell",
        "www.h-works.org",
        "user@",
        "été",
    ])
    .prop_map(str::to_owned)
}

fn tables() -> impl Strategy<Value = Vec<[String; 4]>> {
    prop::collection::vec((0..30_u32, cells(), cells(), cells()), 1..40).prop_map(|rows| {
        rows.into_iter().map(|(id, email, second, notes)| [format!("n{id}"), email, second, notes]).collect()
    })
}

fn survey(source: &Path, threads: usize, chunk_bytes: usize) -> SurveyReport {
    let options = SurveyOptions {
        sources: vec![source.to_path_buf()],
        open: OpenOptions { chunk_bytes, ..OpenOptions::default() },
        fields: FieldChoice { address: vec!["email".into()], ..FieldChoice::default() },
        policy: Policy::default(),
        only: None,
        field_rules: vec![],
        memory: 1 << 20,
        patterns: vec![],
        fine: false,
        threads,
    };
    survey::run(&options, &Progress::default()).unwrap()
}

/// The addresses in a cell with their verdict, form and key.
struct Seen {
    verdict: Verdict,
    form: &'static str,
    key: Option<String>,
    has_standard_form: bool,
    repaired: bool,
}

fn look(cell: &str, whole: bool) -> Vec<Seen> {
    let policy = Policy::default();
    let mut found = Vec::new();
    if whole {
        cell::read(cell.as_bytes(), &policy, &mut found);
    } else {
        text::find(cell.as_bytes(), &policy, |hit| found.push(hit.into_found()));
    }
    let seen = found.iter().map(|found| {
        let examined = examine(&found.text, &policy);
        Seen {
            verdict: policy.verdict(examined.codes.union(found.codes)),
            form: found.form.word(),
            key: examined.key(SameMailbox::Provider, &policy),
            has_standard_form: examined.has_standard_form(),
            repaired: !examined.repairs.union(found.repairs).is_empty(),
        }
    });
    seen.collect()
}

fn counted<T: Ord>(items: impl IntoIterator<Item = T>) -> BTreeMap<T, u64> {
    let mut counts = BTreeMap::new();
    items.into_iter().for_each(|item| *counts.entry(item).or_default() += 1);
    counts
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(80))]

    #[test]
    fn figures_are_those_of_a_count_by_hand(records in tables()) {
        let place = TempDir::new().unwrap();
        let source = place.path().join("list.csv");
        let mut writer = csv::Writer::from_path(&source).unwrap();
        writer.write_record(FIELDS).unwrap();
        records.iter().for_each(|record| writer.write_record(record).unwrap());
        writer.flush().unwrap();
        let report = survey(&source, 1, 1 << 16);
        for (threads, bytes) in [(2, 64), (3, 200)] {
            prop_assert_eq!(&survey(&source, threads, bytes), &report);
        }

        // Fields.
        prop_assert_eq!(report.counts.records, records.len() as u64);
        for (index, field) in report.fields.iter().enumerate() {
            let column: Vec<&str> = records.iter().map(|record| &*record[index]).collect();
            let filled: Vec<&str> = column.iter().copied().filter(|cell| !cell.trim().is_empty()).collect();
            prop_assert_eq!((field.filled, field.empty), (filled.len() as u64, (column.len() - filled.len()) as u64));
            let distinct: BTreeSet<&str> = filled.iter().copied().collect();
            prop_assert!(field.distinct.exact && field.distinct.count == distinct.len() as u64);
            prop_assert_eq!(field.unique, records.len() > 1 && distinct.len() == column.len());
            let lengths = || filled.iter().map(|cell| cell.chars().count() as u64);
            prop_assert_eq!(field.shortest, lengths().min().unwrap_or_default());
            prop_assert_eq!(field.longest, lengths().max().unwrap_or_default());
            prop_assert_eq!(field.bytes, filled.iter().map(|cell| cell.len() as u64).max().unwrap_or_default());
            let values = counted(filled.iter().copied());
            for value in &field.values {
                prop_assert_eq!(values[&*value.value], value.count);
            }
            prop_assert_eq!(field.values.len(), values.len().min(20));
            let kinds = counted(filled.iter().map(|cell| {
                let addresses = look(cell, index == 1).iter().filter(|seen| seen.has_standard_form).count();
                CellKind::of(cell.as_bytes(), addresses).word().to_owned()
            }));
            prop_assert_eq!(kinds, field.kinds.iter().map(|kind| (kind.name.clone(), kind.count)).collect());
        }

        // Addresses: the first accepted one of a record, else the first for review, else the first.
        let selected: Vec<Option<Seen>> = records
            .iter()
            .map(|record| look(&record[1], true).into_iter().min_by_key(|seen| seen.verdict))
            .collect();
        let verdicts = counted(selected.iter().flatten().map(|seen| seen.verdict.word().to_owned()));
        for (verdict, count) in &report.counts.verdicts {
            prop_assert_eq!(verdicts.get(verdict).copied().unwrap_or_default(), *count);
        }
        let forms = counted(selected.iter().flatten().map(|seen| seen.form.to_owned()));
        prop_assert_eq!(forms, report.forms.iter().map(|form| (form.form.clone(), form.count)).collect());
        let usable = |seen: &&Seen| seen.verdict.is_usable();
        let repaired = selected.iter().flatten().filter(usable).filter(|seen| seen.repaired).count() as u64;
        prop_assert_eq!(report.counts.usable.after_repair, repaired);
        prop_assert_eq!(
            report.counts.usable.total + report.counts.of(Verdict::Reject) + report.counts.no_address,
            report.counts.records
        );
        let shapes: u64 = report.shapes.iter().chain(&report.rare_shapes).map(|shape| shape.count).sum();
        prop_assert_eq!(shapes, report.counts.records, "every cell of the address field has one shape");

        // Mailboxes.
        let keys = counted(selected.iter().flatten().filter(usable).map(|seen| seen.key.clone().unwrap()));
        prop_assert_eq!(report.counts.mailboxes, keys.len() as u64);
        let groups: Vec<u64> = keys.values().copied().filter(|count| *count > 1).collect();
        prop_assert_eq!(report.same_mailbox.groups, groups.len() as u64);
        prop_assert_eq!(report.same_mailbox.in_groups, groups.iter().sum::<u64>());
        prop_assert_eq!(report.same_mailbox.largest, groups.iter().copied().max().unwrap_or_default());
        let mut locals: HashMap<&str, BTreeSet<&str>> = HashMap::new();
        let addresses: Vec<String> = records
            .iter()
            .filter_map(|record| look_best(&record[1]))
            .collect();
        for address in &addresses {
            let (local, domain) = address.rsplit_once('@').unwrap();
            locals.entry(local).or_default().insert(domain);
        }
        for local in &report.local_parts {
            prop_assert_eq!(locals[&*local.value].len() as u64, local.count);
        }
        prop_assert_eq!(report.local_parts.len(), locals.values().filter(|domains| domains.len() > 1).count().min(20));

        // The ladder, step by step.
        let mut lacking: Vec<&[String; 4]> = records
            .iter()
            .zip(&selected)
            .filter(|(_, seen)| !seen.as_ref().is_some_and(|seen| seen.verdict.is_usable()))
            .map(|(record, _)| record)
            .collect();
        prop_assert_eq!(report.elsewhere.lacking, lacking.len() as u64);
        let gives = |record: &[String; 4], field: usize| look(&record[field], false).iter().any(|seen| seen.verdict.is_usable());
        let mut total = report.counts.usable.total;
        for step in &report.elsewhere.steps {
            let adds = |field: usize| lacking.iter().filter(|record| gives(record, field)).count();
            let best = [0, 2, 3].into_iter().rev().max_by_key(|&field| adds(field)).unwrap();
            prop_assert_eq!((&*step.field, step.adds), (FIELDS[best], adds(best) as u64));
            total += step.adds;
            prop_assert_eq!(step.total, total);
            lacking.retain(|record| !gives(record, best));
        }
        prop_assert!(lacking.iter().all(|record| ![0, 2, 3].into_iter().any(|field| gives(record, field))));
    }
}

/// The usable address that a cell gives, in standard form.
fn look_best(cell: &str) -> Option<String> {
    let policy = Policy::default();
    let mut found = Vec::new();
    cell::read(cell.as_bytes(), &policy, &mut found);
    let judged = found.iter().map(|found| {
        let examined = examine(&found.text, &policy);
        (policy.verdict(examined.codes.union(found.codes)), examined)
    });
    let (verdict, examined) = judged.min_by_key(|(verdict, _)| *verdict)?;
    verdict.is_usable().then(|| examined.standard.expect("it is usable").address)
}
