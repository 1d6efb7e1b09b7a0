//! What holds for any decisions about any table: each takes effect on its record, and all others end as if it had stood so at the start.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use proptest::prelude::*;
use ypogram_core::Policy;
use ypogram_io::OpenOptions;
use ypogram_jobs::clean::{self, CleanOptions, CleanReport, Keep};
use ypogram_jobs::decisions::{AnswerKind, Answers, Decision};
use ypogram_jobs::settle::{Asked, Questions, SettleFolder, answers_to};
use ypogram_jobs::{FieldChoice, Outcome, Progress, Survivor};

const ADDRESSES: &[&str] = &[
    "ada@h-works.org",
    "ADA@h-works.org",
    "bea@h-works.org",
    "cleo@gmial.com",
    "cleo@gmail.com",
    "dara..b@h-works.org",
    "asdf@h-works.org",
    "finn@yopmail.com",
    "finn@h-works",
    "gus hay@h-works.org",
    "none",
    "",
];

/// What may be typed.
const TYPED: &[&str] = &["ada@h-works.org", "cleo@gmail.com", "new@h-works.org", "other@yopmail.com"];

fn tables() -> impl Strategy<Value = Vec<[String; 3]>> {
    let names = prop::sample::select(vec!["Ada", "Bea", "\"Cy\", x", ""]);
    let record = ("[0-9]{1,3}", names, prop::sample::select(ADDRESSES));
    let own = |(id, name, email): (String, &str, &str)| [id, name.to_owned(), email.to_owned()];
    prop::collection::vec(record.prop_map(own), 1..24)
}

fn write_table(records: &[[String; 3]], path: &Path) {
    let mut writer = csv::Writer::from_path(path).unwrap();
    writer.write_record(["id", "name", "email"]).unwrap();
    records.iter().for_each(|record| writer.write_record(record).unwrap());
    writer.flush().unwrap();
}

/// How a run is cut up, which changes nothing.
#[derive(Clone, Copy)]
struct Machine {
    threads: usize,
    chunk_bytes: usize,
    memory: usize,
}

/// Which record of a mailbox stays.
const SURVIVORS: [Survivor; 3] = [Survivor::First, Survivor::Last, Survivor::Fullest];

const AMPLE: Machine = Machine { threads: 1, chunk_bytes: 1 << 17, memory: 1 << 30 };
const SCARCE: Machine = Machine { threads: 3, chunk_bytes: 1 << 6, memory: 64 };

fn options(source: PathBuf, folder: PathBuf, machine: Machine, survivor: &Survivor) -> CleanOptions {
    CleanOptions {
        survivor: survivor.clone(),
        open: OpenOptions { chunk_bytes: machine.chunk_bytes, ..OpenOptions::default() },
        fields: FieldChoice { address: vec!["email".into()], ..FieldChoice::default() },
        memory: machine.memory,
        persons: vec!["name".into()],
        keep: Some(Keep { arguments: vec![], called_in: folder.clone(), copies: vec![] }),
        threads: machine.threads,
        hash_key: machine.threads as u64 * 7919,
        ..CleanOptions::of(vec![source], folder)
    }
}

/// A record's outcome, own cells, address and the record that it is the same as, by its number.
type Ends = BTreeMap<u64, (Outcome, Vec<String>, String, String)>;

fn ends(report: &CleanReport) -> Ends {
    let mut ends = Ends::new();
    for output in &report.outputs {
        let outcome = Outcome::ALL.into_iter().find(|o| output.name.starts_with(o.file_stem())).unwrap();
        let mut reader = csv::Reader::from_path(report.folder.join(&output.name)).unwrap();
        let header = reader.headers().unwrap().clone();
        let place = |name: &str| header.iter().position(|field| field == name).unwrap();
        let [record, address, same_as] = ["yp_record", "yp_address", "yp_same_as"].map(place);
        let mut last = 0;
        for row in reader.records() {
            let row = row.unwrap();
            let own = row.iter().take(3).map(str::to_owned).collect();
            let number = row[record].parse().unwrap();
            assert!(number > last, "the rows of an output stay in order");
            last = number;
            let end = (outcome, own, row[address].to_owned(), row[same_as].to_owned());
            assert!(ends.insert(number, end).is_none(), "a record is in one place");
        }
    }
    ends
}

/// What is decided about each record that is asked about, by a number for each.
fn decided(questions: &Questions, choices: &[u8], others_only: bool) -> Vec<Asked> {
    let asked = questions.by_record.iter().zip(choices.iter().cycle());
    asked
        .map(|((&record, question), &choice)| {
            let typed = Decision::Address(TYPED[usize::from(choice) % TYPED.len()].to_owned());
            let decision = match choice % 4 {
                0 if !question.suggestion.is_empty() => Decision::Take,
                1 if !question.is_rejected && !others_only => Decision::Keep,
                2 if !others_only => Decision::Drop,
                _ => typed,
            };
            Asked { record, at: format!("record {record}"), decision }
        })
        .collect()
}

/// The folder settled by `decisions`, over its own copies.
fn settled(folder: &SettleFolder, answers: &Answers, machine: Machine, survivor: &Survivor) -> CleanReport {
    let options = options(folder.call.sources[0].clone(), folder.path.clone(), machine, survivor);
    let mut open = options.open.clone();
    open.kept.push((folder.call.sources[0].clone(), folder.copies().remove(0)));
    let keep = Keep { copies: folder.copies(), ..options.keep.clone().unwrap() };
    let options = CleanOptions {
        open,
        force: true,
        discard_decisions: true,
        answers: answers.clone(),
        keep: Some(keep),
        read_before: Some(folder.sources.clone()),
        ..options
    };
    clean::run(&options, &Progress::default()).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn every_decision_takes_effect(
        records in tables(),
        choices in prop::collection::vec(any::<u8>(), 1..24),
        others_only in any::<bool>(),
        survivor in prop::sample::select(&SURVIVORS[..]),
    ) {
        let survivor = &survivor;
        let folder = tempfile::tempdir().unwrap();
        let source = folder.path().join("list.csv");
        write_table(&records, &source);
        let first = clean::run(&options(source.clone(), folder.path().join("out"), AMPLE, survivor), &Progress::default());
        let first = first.unwrap();
        // The source may be gone by then.
        std::fs::remove_file(&source).unwrap();
        if first.counts.of(Outcome::Review) + first.counts.of(Outcome::Rejected) == 0 {
            return Ok(());
        }
        let kept = SettleFolder::open(&folder.path().join("out")).unwrap();
        let questions = Questions::read(&kept, "yp_").unwrap();
        let decisions = decided(&questions, &choices, others_only);
        let by_record = answers_to(&questions, &decisions, &Policy::default(), vec![]).unwrap();
        let answers = Answers { by_record };
        let report = settled(&kept, &answers, AMPLE, survivor);
        let ends_now = ends(&report);

        prop_assert_eq!(ends_now.len(), records.len());
        for (number, (outcome, own, address, _)) in &ends_now {
            prop_assert_eq!(own, &records[*number as usize - 1], "own cells stay");
            let Some(answer) = answers.by_record.get(number) else { continue };
            let expected: &[Outcome] = match answer.kind {
                AnswerKind::Dropped => &[Outcome::Rejected, Outcome::Duplicate],
                _ => &[Outcome::Kept, Outcome::Duplicate],
            };
            prop_assert!(expected.contains(outcome), "record {} is {:?}", number, outcome);
            if let Some(decided) = &answer.address {
                prop_assert_eq!(address, decided);
            }
        }
        let counted: u64 = report.counts.decisions.iter().sum();
        prop_assert_eq!(counted, answers.by_record.len() as u64);

        // As if it had stood so at the start: whatever else is then asked about was not asked before.
        if others_only {
            let mut corrected = records.clone();
            for (number, answer) in &answers.by_record {
                corrected[*number as usize - 1][2] = answer.address.clone().unwrap();
            }
            write_table(&corrected, &source);
            let from_start = options(source.clone(), folder.path().join("from-start"), AMPLE, survivor);
            let from_start = ends(&clean::run(&from_start, &Progress::default()).unwrap());
            for (number, (outcome, _, address, same_as)) in &from_start {
                let (outcome_now, _, address_now, same_as_now) = &ends_now[number];
                prop_assert_eq!(address, address_now);
                // One that stays beside another person's as was decided is no question, and has duplicates of its own.
                let decided = |number: &u64| answers.by_record.contains_key(number);
                let of_decided = same_as_now.parse().is_ok_and(|number| decided(&number));
                if !(*outcome == Outcome::Review && (decided(number) || of_decided)) {
                    prop_assert_eq!((outcome, same_as), (outcome_now, same_as_now), "record {}", number);
                }
            }
        }

        // However the work is cut up.
        let files = |folder: &Path| -> BTreeMap<String, Vec<u8>> {
            let files = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
            let name = |path: &Path| path.file_name().unwrap().to_string_lossy().into_owned();
            files.filter(|path| path.is_file()).map(|path| (name(&path), std::fs::read(&path).unwrap())).collect()
        };
        let before = files(&kept.path);
        settled(&SettleFolder::open(&kept.path).unwrap(), &answers, SCARCE, survivor);
        prop_assert_eq!(files(&kept.path), before);
    }
}
