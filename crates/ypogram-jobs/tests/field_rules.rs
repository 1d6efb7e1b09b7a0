//! Rules for fields against a plain reading of each record, for any threads and chunks, over several sources.

use std::collections::HashSet;

use proptest::prelude::*;
use tempfile::TempDir;
use ypogram_core::{Pattern, Policy};
use ypogram_io::{IfThere, OpenOptions, RowSpec, Target};
use ypogram_jobs::check::{self, Added, CheckOptions};
use ypogram_jobs::{Allowed, Asked, FieldChoice, FieldKind, FieldRule, Progress, Selection};

const VALUES: [&str; 12] = [
    "",
    " ",
    "Telescope",
    "telescope",
    " tripod ",
    "12",
    "3.5",
    "2024-03-09",
    "31.12.2023",
    "Ada Lovell",
    "grüße",
    "01632 960413",
];

/// Records with a loan's number, what is lent, and a note.
fn records() -> impl Strategy<Value = Vec<[usize; 3]>> {
    prop::collection::vec(prop::array::uniform3(0..VALUES.len()), 1..60)
}

fn rules() -> Vec<FieldRule> {
    let rule = |field: &str, asked| FieldRule { field: field.into(), asked };
    vec![
        rule(
            "loan",
            vec![
                Asked::Filled,
                Asked::Unique,
                Asked::Fits(Box::new(Pattern::new("digits", "[0-9.]+", true, false).unwrap())),
            ],
        ),
        rule(
            "item",
            vec![
                Asked::OneOf(Allowed::Values(vec!["Telescope".into(), "Tripod".into()])),
                Asked::Length(6, Some(9)),
            ],
        ),
        rule("note", vec![Asked::Is(FieldKind::Date), Asked::AtLeastOneOf(vec!["item".into()])]),
    ]
}

/// The faults of each record, read one after the other.
fn expected(records: &[[usize; 3]]) -> Vec<String> {
    let mut loans = HashSet::new();
    let faults = records.iter().map(|record| {
        let [loan, item, note] = record.map(|value| VALUES[value].trim());
        let mut faults = Vec::new();
        let mut say = |is_fault: bool, fault: &'static str| faults.extend(is_fault.then_some(fault));
        say(loan.is_empty(), "loan: filled");
        say(!loan.is_empty() && !loans.insert(loan), "loan: unique");
        say(!loan.is_empty() && !loan.bytes().all(|b| b.is_ascii_digit() || b == b'.'), "loan: fits");
        say(!item.is_empty() && !["telescope", "tripod"].contains(&&*item.to_lowercase()), "item: one-of");
        say(!item.is_empty() && !(6..=9).contains(&item.chars().count()), "item: length");
        say(!note.is_empty() && !["2024-03-09", "31.12.2023"].contains(&note), "note: is");
        say(note.is_empty() && item.is_empty(), "note: at-least-one-of");
        faults.join("; ")
    });
    faults.collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn faults_are_those_of_a_plain_reading(
        first in records(),
        second in records(),
        chunk_bytes in prop::sample::select(vec![64_usize, 4096, 1 << 20]),
    ) {
        let place = TempDir::new().unwrap();
        let mut sources = Vec::new();
        for (name, records) in [("a.csv", &first), ("b.csv", &second)] {
            let path = place.path().join(name);
            let mut writer = csv::Writer::from_path(&path).unwrap();
            writer.write_record(["mail", "loan", "item", "note"]).unwrap();
            for record in records {
                writer.write_record([&["ada@fernhollow.org"][..], &record.map(|value| VALUES[value])].concat()).unwrap();
            }
            writer.flush().unwrap();
            sources.push(path);
        }
        let mut outputs = Vec::new();
        // With little memory what is gathered for `unique` goes to the disk.
        for (threads, memory) in [(1, 1 << 30), (2, 1)] {
            let out = place.path().join(format!("out{threads}.csv"));
            let options = CheckOptions {
                sources: sources.clone(),
                open: OpenOptions { chunk_bytes, ..OpenOptions::default() },
                fields: FieldChoice { address: vec!["mail".into()], ..FieldChoice::default() },
                policy: Policy::default(),
                target: Target::File { path: out.clone(), if_there: IfThere::Replace },
                plain: false,
                field_rules: rules(),
                patterns: vec![],
                house: Default::default(),
                selection: Selection::default(),
                from_lists: vec![],
                show: None,
                added: Added::Everything,
                fill: Vec::new(),
                rows: RowSpec { memory, ..RowSpec::default() },
                prefix: "yp_".into(),
                threads,
                hash_key: 7,
                remembered: None,
            };
            let report = check::run(options, &Progress::default()).unwrap();
            let mut reader = csv::Reader::from_path(&out).unwrap();
            let at = reader.headers().unwrap().iter().position(|name| name == "yp_fields_at_fault").unwrap();
            let faults: Vec<String> = reader.records().map(|row| row.unwrap()[at].to_owned()).collect();
            let all = [&first[..], &second[..]].concat();
            prop_assert_eq!(&faults, &expected(&all));
            let counted: u64 = report.tally.field_faults.iter().map(|(_, count)| count).sum();
            let told = faults.iter().filter(|faults| !faults.is_empty()).map(|faults| faults.split("; ").count() as u64);
            prop_assert_eq!(counted, told.sum::<u64>());
            outputs.push(std::fs::read(&out).unwrap());
        }
        prop_assert!(outputs[0] == outputs[1], "threads");
    }
}
