//! `compare` against a naive reading of its rules, for any threads, chunks and memory.

use std::path::Path;

use proptest::prelude::*;
use tempfile::TempDir;
use ypogram_core::{Policy, SameMailbox, Verdict, cell, examine};
use ypogram_io::{IfThere, OpenOptions, Target};
use ypogram_jobs::compare::{self, CompareOptions, CompareTo, State};
use ypogram_jobs::{FieldChoice, Progress};

const ADDRESSES: &[&str] = &[
    "ada@h-works.org",
    "ADA@h-works.org",
    "a.da+x@gmail.com",
    "ada@googlemail.com",
    "A.da+x@gmail.com",
    "bea@h-works.org",
    "cleo@gmial.com",
    "dara..b@h-works.org",
    "",
];

/// An address and a name.
type Record = (&'static str, &'static str);

fn lists() -> impl Strategy<Value = Vec<Record>> {
    let record = (prop::sample::select(ADDRESSES), prop::sample::select(vec!["Ada", "Bea", " Ada ", ""]));
    prop::collection::vec(record, 0..20)
}

fn write(records: &[Record], path: &Path) {
    let mut writer = csv::Writer::from_path(path).unwrap();
    writer.write_record(["email", "name"]).unwrap();
    records.iter().for_each(|(email, name)| writer.write_record([email, name]).unwrap());
    writer.flush().unwrap();
}

/// The keys of a usable address under each rule.
fn keys(record: &Record) -> Option<[String; 4]> {
    let policy = Policy::default();
    let mut found = Vec::new();
    cell::read(record.0.as_bytes(), &policy, &mut found);
    let examined = examine(&found.first()?.text, &policy);
    (policy.verdict(examined.codes) != Verdict::Reject)
        .then(|| SameMailbox::ALL.map(|rule| examined.key(rule, &policy).unwrap()))
}

/// The provider's rule, by which records are compared.
const RULE: usize = 2;

fn rows(path: &Path) -> Vec<Vec<String>> {
    let Ok(mut reader) = csv::Reader::from_path(path) else { return Vec::new() };
    reader.records().map(|row| row.unwrap().iter().map(str::to_owned).collect()).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn every_record_is_what_a_naive_reading_says(new in lists(), known in lists(), more in lists(), chunk in 1..200_usize) {
        let place = TempDir::new().unwrap();
        for (name, records) in [("new.csv", &new), ("known.csv", &known), ("more.csv", &more)] {
            write(records, &place.path().join(name));
        }
        let of = |records: &[Record]| records.iter().map(keys).collect::<Vec<_>>();
        let (of_new, of_known) = (of(&new), [of(&known), of(&more)].concat());
        let same = |one: &[String; 4], other: &Option<[String; 4]>| other.as_ref().is_some_and(|other| one[RULE] == other[RULE]);
        let expected: Vec<[String; 5]> = of_new.iter().enumerate().map(|(nth, own)| {
            let row = |state: State, source: &str, record: String, rule: &str, same_as: String| {
                [state.word().to_owned(), source.to_owned(), record, rule.to_owned(), same_as]
            };
            let Some(own) = own else { return row(State::Unusable, "", String::new(), "", String::new()) };
            // Of several the one that is most like it, of these the first.
            let rule = |place: &usize| (0..=RULE).find(|&rule| own[rule] == of_known[*place].as_ref().unwrap()[rule]).unwrap();
            let best = (0..of_known.len()).filter(|&place| same(own, &of_known[place])).min_by_key(|place| (rule(place), *place));
            if let Some(best) = best {
                let (source, record) = if best < known.len() { ("known.csv", best) } else { ("more.csv", best - known.len()) };
                return row(State::Known, source, (record + 1).to_string(), SameMailbox::ALL[rule(&best)].word(), String::new());
            }
            match (0..nth).find(|&earlier| same(own, &of_new[earlier])) {
                Some(earlier) => row(State::Duplicate, "", String::new(), "", (earlier + 1).to_string()),
                None => row(State::New, "", String::new(), "", String::new()),
            }
        }).collect();
        let missing: Vec<String> = of_known.iter().zip(known.iter().chain(&more))
            .filter(|(own, _)| own.as_ref().is_some_and(|own| !of_new.iter().any(|new| same(own, new))))
            .map(|(_, record)| record.0.to_owned()).collect();

        for (threads, memory) in [(1, 1 << 30), (3, 64)] {
            let file = |name: &str| Target::File { path: place.path().join(name), if_there: IfThere::Replace };
            let mut options = CompareOptions {
                sources: vec![place.path().join("new.csv")],
                known: vec![place.path().join("known.csv"), place.path().join("more.csv")],
                open: OpenOptions { chunk_bytes: chunk, ..OpenOptions::default() },
                fields: FieldChoice { address: vec!["email".into()], ..FieldChoice::default() },
                known_fields: FieldChoice { address: vec!["email".into()], ..FieldChoice::default() },
                policy: Policy::default(),
                withdrawn: vec![],
                withdrawn_hashed: vec![],
                to: CompareTo::Marked(file("marked.csv")),
                missing: Some(file("missing.csv")),
                changed: Some(file("changed.csv")),
                near: Some(file("near.csv")),
                near_fields: vec![],
                rows: Default::default(),
                prefix: "yp_".into(),
                memory,
                force: true,
                threads,
                hash_key: threads as u64,
                rulebook: serde_json::Value::Null,
                version: "test".into(),
            };
            let report = compare::run(&options, &Progress::default()).unwrap();
            let marked = rows(&place.path().join("marked.csv"));
            let told: Vec<[String; 5]> = marked.iter().map(|row| {
                let source = row[3].rsplit('/').next().unwrap().to_owned();
                [row[2].clone(), source, row[4].clone(), row[5].clone(), row[row.len() - 1].clone()]
            }).collect();
            prop_assert_eq!(&told, &expected);
            let met: Vec<String> = rows(&place.path().join("missing.csv")).iter().map(|row| row[0].clone()).collect();
            prop_assert_eq!(&met, &missing);
            for row in rows(&place.path().join("changed.csv")) {
                let number = |nth: usize| row[nth].parse::<usize>().unwrap() - 1;
                let (one, other) = (new[number(0)], known.iter().chain(&more).nth(number(1)).unwrap());
                let field = |record: &Record| if row[2] == "email" { record.0 } else { record.1 };
                prop_assert_eq!((field(&one), field(other)), (&*row[3], &*row[4]));
                prop_assert_ne!(row[3].trim(), row[4].trim());
            }
            let counts = &report.counts;
            prop_assert_eq!(counts.states.iter().sum::<u64>(), counts.records);
            prop_assert_eq!(counts.known_in_both + counts.known_missing + counts.known_unusable, counts.known_records);

            // By state, each has its file, and they hold all records once.
            options.to = CompareTo::Folder(place.path().join("out"));
            (options.missing, options.changed) = (None, None);
            compare::run(&options, &Progress::default()).unwrap();
            for state in State::ALL {
                let rows = rows(&place.path().join(format!("out/{}.csv", state.file_stem())));
                prop_assert_eq!(rows.len() as u64, counts.of(state));
                prop_assert!(rows.iter().all(|row| row[2] == state.word()));
            }
        }
    }
}
