//! What holds for any table: counts add up, every record is in one place, and neither threads nor chunks change a byte.

use std::collections::{BTreeMap, HashMap};
use std::path::{Path, PathBuf};

use proptest::prelude::*;
use tempfile::TempDir;
use ypogram_core::providers::Certainty;
use ypogram_core::{Class, Code, Found, Policy, SameMailbox, Verdict, cell, examine, text};
use ypogram_io::pieces::{Limits, PieceOptions};
use ypogram_io::{IfThere, OpenOptions, OutputFormat, Target};
use ypogram_jobs::clean::{self, CleanOptions, CleanReport};
use ypogram_jobs::extract::{self, ExtractOptions, ExtractReport, RowFormat};
use ypogram_jobs::{FieldChoice, Outcome, Progress, Selection};

fn cells() -> impl Strategy<Value = String> {
    let address = || {
        prop::sample::select(vec![
            "ada@h-works.org",
            "ADA@h-works.org",
            "bea@h-works.org",
            "night.owl@gmail.com",
            "nightowl+x@googlemail.com",
            "cleo@gmial.com",
            "dara..b@h-works.org",
            "none@none.com",
            "asdf@h-works.org",
            "edda@[192.0.2.1]",
            "finn@h-works",
            "josé@h-works.org",
        ])
    };
    prop_oneof![
        4 => address().prop_map(str::to_owned),
        1 => address().prop_map(|a| format!(" <{a}> ")),
        1 => address().prop_map(|a| format!("Ada \"x\" <{a}>")),
        1 => (address(), address()).prop_map(|(a, b)| format!("{a}; {b}")),
        1 => address().prop_map(|a| format!("write to {a},\nplease")),
        1 => address().prop_map(|a| format!("bounced {a}")),
        1 => (address(), address()).prop_map(|(a, b)| format!("{a} -> {b}")),
        1 => prop::sample::select(vec!["", "", "-", "see paper", "@", "\u{e9}", "do not mail", "john . doe@h-works.org"]).prop_map(str::to_owned),
    ]
}

fn tables() -> impl Strategy<Value = Vec<[String; 3]>> {
    prop::collection::vec(
        ("[a-z,\"]{0,4}", cells(), cells()).prop_map(|(id, email, notes)| [id, email, notes]),
        0..24,
    )
}

fn write_table(records: &[[String; 3]], path: &Path) {
    let mut writer = csv::Writer::from_path(path).unwrap();
    writer.write_record(["id", "email", "notes"]).unwrap();
    records.iter().for_each(|record| writer.write_record(record).unwrap());
    writer.flush().unwrap();
}

/// Bytes for the mailboxes: enough for one pass, and so few that a first pass has to settle the duplicates.
const AMPLE: usize = 1 << 30;
const SCARCE: usize = 64;

fn clean(source: &Path, folder: PathBuf, threads: usize, chunk_bytes: usize) -> CleanReport {
    clean_within(AMPLE, source, folder, threads, chunk_bytes)
}

fn clean_within(
    memory: usize,
    source: &Path,
    folder: PathBuf,
    threads: usize,
    chunk_bytes: usize,
) -> CleanReport {
    let options = CleanOptions {
        open: OpenOptions { chunk_bytes, ..OpenOptions::default() },
        fields: FieldChoice {
            address: vec!["email".into()],
            text: vec!["notes".into()],
            ..FieldChoice::default()
        },
        selection: Selection::read(&[], &["free".into(), "non-ascii-local-part".into()], Certainty::Known)
            .unwrap(),
        memory,
        threads,
        hash_key: threads as u64 * 7919,
        ..CleanOptions::of(vec![source.to_path_buf()], folder)
    };
    clean::run(&options, &Progress::default()).unwrap()
}

/// What a naive reading of the rules makes of the records: the outcome of each.
fn reference(records: &[[String; 3]]) -> Vec<Outcome> {
    let policy = Policy::default();
    // For each mailbox whether a kept record or only one for review has it.
    let mut holders: HashMap<String, bool> = HashMap::new();
    let outcome = |record: &[String; 3]| {
        let mut candidates: Vec<(Verdict, Option<String>, bool)> = Vec::new();
        let mut found = Vec::new();
        cell::read(record[1].as_bytes(), &policy, &mut found);
        let of_email = found.len();
        let codes_of = |found: &Found<'_>| examine(&found.text, &policy).codes.union(found.codes);
        // What stands among other words may be somebody else's, unless the address field says nothing.
        let only_from_text =
            found.iter().all(|found| policy.verdict(codes_of(found)) != Verdict::Accept) && of_email > 0;
        text::find(record[2].as_bytes(), &policy, |hit| found.push(hit.into_found()));
        let warned = cell::says_do_not_contact(record[2].as_bytes());
        for (nth, found) in found.iter().enumerate() {
            let examined = examine(&found.text, &policy);
            let mut codes = examined.codes.union(found.codes);
            if nth >= of_email && only_from_text {
                codes.insert(Code::FromOtherField);
            }
            let verdict = policy.verdict(codes);
            let unwanted =
                examined.class == Some(Class::Free) || examined.codes.contains(Code::NonAsciiLocal);
            candidates.push((verdict, examined.key(SameMailbox::Provider, &policy), unwanted));
        }
        let Some((verdict, key, unwanted)) = candidates.into_iter().min_by_key(|(verdict, ..)| *verdict)
        else {
            return Outcome::NoAddress;
        };
        // A warning is about the record, whichever address it has.
        let verdict = if warned { verdict.max(Verdict::Review) } else { verdict };
        let kept = match verdict {
            Verdict::Reject => return Outcome::Rejected,
            _ if unwanted => return Outcome::SetAside,
            Verdict::Accept => true,
            Verdict::Review => false,
        };
        let key = key.expect("usable addresses have a key");
        match holders.get(&key) {
            Some(&by_kept) if by_kept || !kept => Outcome::Duplicate,
            _ => {
                holders.insert(key, kept);
                if kept { Outcome::Kept } else { Outcome::Review }
            }
        }
    };
    records.iter().map(outcome).collect()
}

fn files(folder: &Path) -> BTreeMap<String, Vec<u8>> {
    let entries = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap());
    entries
        .map(|entry| (entry.file_name().into_string().unwrap(), std::fs::read(entry.path()).unwrap()))
        .collect()
}

/// Addresses that stand in a text, many of them glued to what stands beside them.
fn glued() -> impl Strategy<Value = String> {
    prop::collection::vec((cells(), prop::sample::select(BETWEEN)), 0..20)
        .prop_map(|pieces| pieces.into_iter().map(|(cell, between)| cell + between).collect())
}

/// The rows that `extract` writes, and its report.
fn extract(source: &Path, threads: usize, bytes: usize, obfuscated: bool) -> (String, ExtractReport) {
    let out = source.with_extension("found");
    let overlap = text::REACH + 20;
    let options = ExtractOptions {
        rows: Default::default(),
        first: None,
        sources: vec![source.to_owned()],
        pieces: PieceOptions {
            open: OpenOptions { chunk_bytes: bytes, ..OpenOptions::default() },
            overlap,
            id: None,
            limits: Limits::default(),
        },
        fields: vec![],
        policy: Policy::default(),
        patterns: vec![],
        look: text::Options { obfuscated, ..Default::default() },
        format: RowFormat::Table(OutputFormat::default()),
        context: 20,
        unique: false,
        show_skipped: false,
        target: Target::File { path: out.clone(), if_there: IfThere::Replace },
        memory: 1 << 20,
        threads,
        hash_key: 1,
    };
    let report = extract::run(&options, &Progress::default()).unwrap();
    (std::fs::read_to_string(&out).unwrap(), report)
}

/// What stands between two addresses of a text, closer than in most.
const BETWEEN: &[&str] =
    &[" \n", " ", "\n", "'", "&", ";", " <", "\n<", "> ", ">\n", ": ", "mailto:", " Ada\n"];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn every_record_is_in_the_place_the_rules_say(records in tables()) {
        let place = TempDir::new().unwrap();
        let source = place.path().join("list.csv");
        write_table(&records, &source);
        let report = clean(&source, place.path().join("out"), 1, 1 << 16);
        // A record of three empty cells is one all the same; the last of an empty list is none.
        let expected = reference(&records);
        prop_assert_eq!(report.counts.records, expected.len() as u64);
        prop_assert_eq!(report.counts.outcomes.iter().sum::<u64>(), report.counts.records);
        let tally = &report.counts.tally;
        let usable = [Outcome::Kept, Outcome::Review, Outcome::Duplicate, Outcome::SetAside].map(|o| report.counts.of(o));
        prop_assert_eq!(tally.usable(), usable.iter().sum::<u64>());
        prop_assert_eq!(tally.rejected.iter().sum::<u64>(), report.counts.of(Outcome::Rejected));

        let mut placed: Vec<Option<Outcome>> = vec![None; records.len()];
        for outcome in Outcome::ALL {
            let path = place.path().join(format!("out/{}.csv", outcome.file_stem()));
            prop_assert_eq!(path.exists(), report.counts.of(outcome) > 0);
            let Ok(mut reader) = csv::Reader::from_path(&path) else { continue };
            let number = reader.headers().unwrap().iter().position(|name| name == "yp_record").unwrap();
            for row in reader.records() {
                let row = row.unwrap();
                let index = row[number].parse::<usize>().unwrap() - 1;
                prop_assert_eq!(placed[index].replace(outcome), None, "twice");
                prop_assert!(row.iter().take(3).eq(records[index].iter().map(String::as_str)), "altered");
            }
        }
        prop_assert_eq!(placed, expected.into_iter().map(Some).collect::<Vec<_>>());
    }

    #[test]
    fn threads_chunks_and_memory_change_nothing(records in tables(), chunk in 1_usize..200) {
        let place = TempDir::new().unwrap();
        let source = place.path().join("list.csv");
        write_table(&records, &source);
        let expected = { clean(&source, place.path().join("a"), 1, 1 << 16); files(&place.path().join("a")) };
        for (name, threads, memory) in [("b", 2, AMPLE), ("c", 7, AMPLE), ("d", 3, SCARCE)] {
            clean_within(memory, &source, place.path().join(name), threads, chunk);
            prop_assert_eq!(&files(&place.path().join(name)), &expected);
        }
    }

    #[test]
    fn extract_finds_the_same_however_the_text_is_cut(
        text in glued().prop_map(|text| format!("x {text}")),
        chunk in 1_usize..300,
        obfuscated: bool,
    ) {
        let place = TempDir::new().unwrap();
        let source = place.path().join("text.txt");
        std::fs::write(&source, &text).unwrap();
        let mut expected = None;
        for (threads, bytes) in [(1, 1 << 18), (1, chunk), (2, chunk), (7, chunk / 3 + 1)] {
            let (rows, report) = extract(&source, threads, bytes, obfuscated);
            for row in csv::Reader::from_reader(rows.as_bytes()).records() {
                let row = row.unwrap();
                let (before, found) = text.split_at(row[11].parse().unwrap());
                prop_assert!(found.starts_with(&row[1]), "{:?} in {:?}", row, text);
                prop_assert_eq!(&row[10], (before.matches('\n').count() + 1).to_string(), "{:?} in {:?}", row, text);
            }
            let told = (report.addresses, report.passed);
            let ats = text.matches('@').count() as u64;
            prop_assert_eq!(told.0 + told.1.iter().sum::<u64>(), ats, "every @ is accounted for");
            prop_assert_eq!(&*expected.get_or_insert_with(|| (rows.clone(), told.clone())), &(rows, told));
        }
    }

    #[test]
    fn extract_finds_the_same_in_every_format(texts in prop::collection::vec([glued(), glued()], 1..6), chunk in 1_usize..300) {
        let place = TempDir::new().unwrap();
        let mut table = csv::Writer::from_writer(Vec::new());
        table.write_record(["mail", "notes"]).unwrap();
        texts.iter().for_each(|texts| table.write_record(texts).unwrap());
        let each = |form: &dyn Fn(&[String; 2]) -> String| texts.iter().map(form).collect::<String>();
        let one_line = |text: &str| text.replace('\n', " ");
        for (name, content) in [
            ("list.csv", String::from_utf8(table.into_inner().unwrap()).unwrap()),
            ("list.jsonl", each(&|[a, b]| format!("{}\n", serde_json::json!({ "a": a, "b": [b] })))),
            ("page.html", each(&|[a, b]| format!("<p title='x'>{a}</p>\n<!-- {b} -->\n"))),
            ("box.mbox", each(&|[a, b]| format!("From x Fri\nSubject: {}\n\n{b}\n\n", one_line(a)))),
        ] {
            let source = place.path().join(name);
            std::fs::write(&source, content).unwrap();
            let (expected, _) = extract(&source, 1, 1 << 18, false);
            prop_assert!(csv::Reader::from_reader(expected.as_bytes()).records().all(|row| row.is_ok()), "{}", name);
            for (threads, bytes) in [(1, chunk), (3, chunk / 3 + 1)] {
                prop_assert_eq!(&extract(&source, threads, bytes, false).0, &expected, "{}", name);
            }
        }
    }
}
