//! `dedupe` against a naive count, for every survivor rule, with and without a temporary folder, for any threads.

use std::collections::HashMap;
use std::path::{Path, PathBuf};

use proptest::prelude::*;
use tempfile::TempDir;
use ypogram_core::{Policy, SameMailbox, Verdict, cell, examine};
use ypogram_io::{IfThere, OpenOptions, Target};
use ypogram_jobs::Survivor;
use ypogram_jobs::clean::{self, CleanOptions};
use ypogram_jobs::dedupe::{self, DedupeOptions};
use ypogram_jobs::{FieldChoice, Outcome, Progress, Shared};

type Record = [String; 5];

const FIELDS: [&str; 5] = ["email", "name", "year", "kind", "note"];

fn tables() -> impl Strategy<Value = Vec<Record>> {
    let email = prop::sample::select(vec![
        "ada@h-works.org",
        "ADA@h-works.org",
        "Ada <ada@h-works.org>",
        "a.da+x@gmail.com",
        "ada@googlemail.com",
        "bea@h-works.org",
        "cleo@gmial.com",
        "dara..b@h-works.org",
        "dara..b@h-works.org ",
        "x@",
        "",
        "",
    ]);
    let name = prop::sample::select(vec!["Ada Lovell", "LOVELL, Ada", "Bea Lovell", ""]);
    let year = prop::sample::select(vec!["2020-01-01", "1.1.2020", "2021-05-05", "later", ""]);
    let kind = prop::sample::select(vec!["gold", "Silver", "bronze", ""]);
    let note = prop::sample::select(vec!["", "x"]);
    let record =
        (email, name, year, kind, note).prop_map(|(a, b, c, d, e)| [a, b, c, d, e].map(str::to_owned));
    prop::collection::vec(record, 0..30)
}

/// Spellings that some rules join and others do not.
fn local_part() -> impl Strategy<Value = (String, &'static str)> {
    let local = prop::sample::select(vec![
        "ada", "Ada", "a.da", "a.d.a", "ada+x", "ada+y", "ADA+x", "ada-x", "a.da-x", "bea",
    ]);
    let domain =
        prop::sample::select(vec!["h-works.org", "gmail.com", "googlemail.com", "yahoo.com", "outlook.com"]);
    (local.prop_map(str::to_owned), domain)
}

/// The key of each record: of its address, else of its text, else none.
fn key(record: &Record, by_kind: bool, by_person: bool) -> Option<String> {
    let policy = Policy::default();
    let mut found = Vec::new();
    cell::read(record[0].as_bytes(), &policy, &mut found);
    let judged = found.iter().map(|found| {
        let examined = examine(&found.text, &policy);
        (policy.verdict(examined.codes.union(found.codes)), examined)
    });
    let (verdict, examined) = judged.min_by_key(|(verdict, _)| *verdict)?;
    let key = match verdict {
        Verdict::Reject if by_person => format!("text {} {}", record[0], person(record)),
        Verdict::Reject => format!("text {}", record[0]),
        _ => examined.key(SameMailbox::Provider, &policy).unwrap(),
    };
    Some(if by_kind { format!("{key} {}", record[3].to_lowercase()) } else { key })
}

fn verdict(record: &Record) -> u64 {
    let policy = Policy::default();
    let mut found = Vec::new();
    cell::read(record[0].as_bytes(), &policy, &mut found);
    let judged =
        found.iter().map(|found| policy.verdict(examine(&found.text, &policy).codes.union(found.codes)));
    judged.min().map_or(9, |verdict| verdict as u64)
}

/// The greater, the rather it stays.
fn score(survivor: &Survivor, record: &Record, number: usize) -> (u64, u64) {
    let filled = record.iter().filter(|cell| !cell.trim().is_empty()).count() as u64;
    let year = || match &*record[2] {
        "2020-01-01" | "1.1.2020" => 2020,
        "2021-05-05" => 2021,
        _ => 0,
    };
    match survivor {
        Survivor::First => (0, 0),
        Survivor::Last => (number as u64, 0),
        Survivor::Fullest => (filled, 0),
        Survivor::Best => (9 - verdict(record), filled),
        Survivor::Newest(_) => (year(), 0),
        Survivor::Oldest(_) => (if year() == 0 { 0 } else { 9999 - year() }, 0),
        Survivor::Where(_, values) => {
            let place = values.iter().position(|value| *value == record[3].to_lowercase());
            (place.map_or(0, |place| 9 - place as u64), 0)
        }
    }
}

fn person(record: &Record) -> &str {
    match &*record[1] {
        "LOVELL, Ada" => "Ada Lovell",
        other => other,
    }
}

fn options(place: &Path, survivor: Survivor, memory: usize, threads: usize) -> DedupeOptions {
    let file = |name: &str| Some(Target::File { path: place.join(name), if_there: IfThere::Replace });
    DedupeOptions {
        sources: vec![place.join("list.csv")],
        open: OpenOptions { chunk_bytes: 64 * threads, ..OpenOptions::default() },
        fields: FieldChoice { address: vec!["email".into()], ..FieldChoice::default() },
        policy: Policy::default(),
        survivor,
        by: vec![],
        within: vec![],
        persons: vec![],
        shared: Shared::Drop,
        review: None,
        output: file("kept.csv"),
        mark: false,
        dropped: file("dropped.csv"),
        no_address: file("without.csv"),
        merge: None,
        changes: None,
        report: None,
        groups: None,
        at_least: 1,
        rule_differences: None,
        near: None,
        rows: Default::default(),
        prefix: "yp_".into(),
        memory,
        threads,
        hash_key: threads as u64 * 31,
    }
}

fn rows(path: PathBuf) -> Vec<Vec<String>> {
    let mut reader = csv::Reader::from_path(path).unwrap();
    reader.records().map(|row| row.unwrap().iter().map(str::to_owned).collect()).collect()
}

fn write_list(records: &[Record], place: &Path) {
    let mut writer = csv::Writer::from_path(place.join("list.csv")).unwrap();
    writer.write_record(FIELDS).unwrap();
    records.iter().for_each(|record| writer.write_record(record).unwrap());
    writer.flush().unwrap();
}

fn survivor(which: usize) -> Survivor {
    match which {
        0 => Survivor::First,
        1 => Survivor::Last,
        2 => Survivor::Fullest,
        3 => Survivor::Best,
        4 => Survivor::Newest("year".into()),
        5 => Survivor::Oldest("year".into()),
        _ => Survivor::Where("kind".into(), vec!["gold".into(), "silver".into()]),
    }
}

/// The records of each key, in order.
fn groups(keys: &[Option<String>]) -> HashMap<String, Vec<usize>> {
    let mut groups: HashMap<String, Vec<usize>> = HashMap::new();
    for (index, key) in keys.iter().enumerate() {
        if let Some(key) = key {
            groups.entry(key.clone()).or_default().push(index);
        }
    }
    groups
}

/// A record with its empty cells filled from others, the preferred first, differing names joined; and what was filled: record, field,
/// value, from which record.
fn fill(records: &[Record], stays: usize, others: &[usize]) -> (Record, Vec<[String; 4]>) {
    let (mut row, mut changes) = (records[stays].clone(), Vec::new());
    for (field, cell) in row.iter_mut().enumerate() {
        let mut held: Vec<String> =
            Some(cell.trim().to_owned()).filter(|cell| !cell.is_empty()).into_iter().collect();
        for &other in others {
            let given = &records[other][field];
            let joins = field == 1 && !held.iter().any(|held| held.eq_ignore_ascii_case(given.trim()));
            if given.trim().is_empty() || !(held.is_empty() || joins) {
                continue;
            }
            let own = (stays + 1).to_string();
            changes.push([own, FIELDS[field].to_owned(), given.clone(), (other + 1).to_string()]);
            if held.is_empty() {
                cell.clone_from(given);
            }
            held.push(given.trim().to_owned());
        }
        if held.len() > 1 {
            *cell = held.join("; ");
        }
    }
    (row, changes)
}

/// The survivors in order, their empty cells filled from the others of their group in survivor order, differing names joined;
/// and what was filled: record, field, value, from which record.
fn merged(records: &[Record], survivor: &Survivor) -> (Vec<Record>, Vec<[String; 4]>) {
    let keys: Vec<Option<String>> = records.iter().map(|record| key(record, false, false)).collect();
    let mut kept: Vec<Option<Record>> =
        records.iter().zip(&keys).map(|(record, key)| key.is_none().then(|| record.clone())).collect();
    let mut changes = Vec::new();
    for group in groups(&keys).into_values() {
        let mut ranked = group;
        ranked.sort_by_key(|&index| (std::cmp::Reverse(score(survivor, &records[index], index)), index));
        let (stays, others) = (ranked[0], &ranked[1..]);
        let (row, filled) = fill(records, stays, others);
        changes.extend(filled);
        kept[stays] = Some(row);
    }
    (kept.into_iter().flatten().collect(), changes)
}

/// Where each record ends in `clean`, and the record that it is the same as.
type Ends = Vec<(Outcome, Option<usize>)>;

fn are_different(one: &Record, other: &Record) -> bool {
    !person(one).is_empty() && !person(other).is_empty() && person(one) != person(other)
}

/// What a naive reading of the rules of `clean` makes of the records.
fn cleaned(records: &[Record], survivor: &Survivor, shared: Shared) -> Ends {
    let is_kept = |index: usize| verdict(&records[index]) == Verdict::Accept as u64;
    let mut ends: Ends = Vec::new();
    let mut keys = Vec::new();
    for record in records {
        let (outcome, is_usable) = match verdict(record) {
            0 => (Outcome::Kept, true),
            1 => (Outcome::Review, true),
            2 => (Outcome::Rejected, false),
            _ => (Outcome::NoAddress, false),
        };
        ends.push((outcome, None));
        keys.push(key(record, false, false).filter(|_| is_usable));
    }
    for mut group in groups(&keys).into_values() {
        let mut holder = None;
        let preferred = |index: &usize| {
            (std::cmp::Reverse((is_kept(*index), score(survivor, &records[*index], *index))), *index)
        };
        if *survivor != Survivor::First {
            group.sort_by_key(preferred);
        }
        let mut staying: Vec<usize> = Vec::new();
        for index in group {
            // A doubtful record does not swallow one that is to be kept.
            let Some(first) = holder.filter(|&holder| is_kept(holder) || !is_kept(index)) else {
                holder = Some(index);
                continue;
            };
            let differs = shared != Shared::Drop && are_different(&records[index], &records[first]);
            let own = staying.iter().copied().find(|&own| person(&records[own]) == person(&records[index]));
            ends[index] = match (differs, shared, own) {
                (false, ..) => (Outcome::Duplicate, Some(first)),
                (true, Shared::Keep, Some(own)) => (Outcome::Duplicate, Some(own)),
                (true, Shared::Keep, None) => (ends[index].0, Some(first)),
                (true, ..) => (Outcome::Review, Some(first)),
            };
            if differs && own.is_none() {
                staying.push(index);
            }
        }
    }
    ends
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// Whichever record `clean` prefers, each is where the rules say, and merging moves none and loses nothing.
    #[test]
    fn clean_prefers_and_fills_what_a_naive_reading_does(
        records in tables(), which in 0..7_usize, shared in 0..3_usize, merges in any::<bool>(),
    ) {
        let place = TempDir::new().unwrap();
        write_list(&records, place.path());
        let survivor = survivor(which);
        let shared = [Shared::Review, Shared::Drop, Shared::Keep][shared];
        // One of each person beside doubtful ones is told apart by the order alone.
        let shared = if survivor == Survivor::First && shared == Shared::Keep { Shared::Review } else { shared };
        let expected = cleaned(&records, &survivor, shared);
        let mut filled = Vec::new();
        let mut order: Vec<usize> = (0..records.len()).collect();
        if survivor != Survivor::First {
            order.sort_by_key(|&index| {
                (std::cmp::Reverse((verdict(&records[index]) == 0, score(&survivor, &records[index], index))), index)
            });
        }
        let cells: Vec<Record> = (0..records.len()).map(|index| {
            let others: Vec<usize> =
                order.iter().copied().filter(|&other| expected[other] == (Outcome::Duplicate, Some(index))).collect();
            let (row, changes) = fill(&records, index, &others);
            filled.extend(changes);
            if merges { row } else { records[index].clone() }
        }).collect();

        for (nth, (memory, threads)) in [(1 << 30, 2), (64, 1)].into_iter().enumerate() {
            let folder = place.path().join(nth.to_string());
            let options = CleanOptions {
                open: OpenOptions { chunk_bytes: 64 * threads, ..OpenOptions::default() },
                fields: FieldChoice { address: vec!["email".into()], ..FieldChoice::default() },
                survivor: survivor.clone(),
                merge: merges.then(|| vec!["name".into()]),
                shared,
                memory,
                threads,
                hash_key: threads as u64,
                ..CleanOptions::of(vec![place.path().join("list.csv")], folder.clone())
            };
            let report = clean::run(&options, &Progress::default()).unwrap();
            let mut met = vec![None; records.len()];
            for output in &report.outputs {
                let outcome = Outcome::ALL.into_iter().find(|o| output.name.starts_with(o.file_stem())).unwrap();
                let mut reader = csv::Reader::from_path(folder.join(&output.name)).unwrap();
                let header = reader.headers().unwrap().clone();
                let [number, same_as] = ["yp_record", "yp_same_as"].map(|name| header.iter().position(|n| n == name));
                for row in reader.records().map(|row| row.unwrap()) {
                    let own: Vec<String> = row.iter().take(5).map(str::to_owned).collect();
                    let same_as = row[same_as.unwrap()].parse::<usize>().ok().map(|number| number - 1);
                    let index = row[number.unwrap()].parse::<usize>().unwrap() - 1;
                    prop_assert_eq!(met[index].replace((outcome, same_as, own)), None, "twice");
                }
            }
            for (index, (outcome, same_as)) in expected.iter().enumerate() {
                let expected = Some((*outcome, *same_as, cells[index].to_vec()));
                prop_assert_eq!(&met[index], &expected, "record {} of {:?}, {:?}", index + 1, survivor, shared);
            }
            prop_assert_eq!(report.counts.mailboxes, {
                let keys: std::collections::HashSet<_> = records.iter()
                    .filter(|record| verdict(record) < 2).map(|record| key(record, false, false)).collect();
                keys.len() as u64
            });
            if merges {
                let mut changes = rows(folder.join("filled.csv"));
                changes.sort();
                filled.sort();
                prop_assert_eq!(&changes, &filled.iter().map(|change| change.to_vec()).collect::<Vec<_>>());
                prop_assert_eq!(report.filled.unwrap().cells, changes.len() as u64);
            }
        }
    }

    #[test]
    fn merging_fills_what_a_naive_reading_fills(records in tables(), which in 0..7_usize) {
        let place = TempDir::new().unwrap();
        write_list(&records, place.path());
        let (expected, mut filled) = merged(&records, &survivor(which));
        filled.sort();
        for (memory, threads) in [(1 << 30, 2), (0, 1)] {
            let mut options = options(place.path(), survivor(which), memory, threads);
            (options.dropped, options.no_address) = (None, None);
            options.merge = Some(vec!["name".into()]);
            options.changes = Some(Target::File { path: place.path().join("changes.csv"), if_there: IfThere::Replace });
            let report = dedupe::run(&options, &Progress::default()).unwrap();
            let kept = rows(place.path().join("kept.csv"));
            prop_assert_eq!(kept, expected.iter().map(|record| record.to_vec()).collect::<Vec<_>>());
            let mut changes = rows(place.path().join("changes.csv"));
            changes.sort();
            prop_assert_eq!(&changes, &filled.iter().map(|change| change.to_vec()).collect::<Vec<_>>());
            prop_assert_eq!(report.filled, changes.len() as u64);
        }
    }

    /// Each pair is right, and together with records that every rule joins the pairs make the groups of each rule.
    #[test]
    fn rule_differences_make_the_groups_of_each_rule(locals in prop::collection::vec(local_part(), 1..25)) {
        let place = TempDir::new().unwrap();
        let records: Vec<Record> = locals
            .iter()
            .map(|(local, domain)| [format!("{local}@{domain}"), String::new(), String::new(), String::new(), String::new()])
            .collect();
        write_list(&records, place.path());
        let mut options = options(place.path(), Survivor::First, 1 << 30, 2);
        options.rule_differences = Some(Target::File { path: place.path().join("pairs.csv"), if_there: IfThere::Replace });
        dedupe::run(&options, &Progress::default()).unwrap();
        let policy = Policy::default();
        let keys: Vec<[String; 4]> = records
            .iter()
            .map(|record| SameMailbox::ALL.map(|rule| examine(record[0].as_bytes(), &policy).key(rule, &policy).unwrap()))
            .collect();
        let number = |cell: &str| cell.parse::<usize>().unwrap() - 1;
        let pairs = rows(place.path().join("pairs.csv"));
        for pair in &pairs {
            let (one, other) = (&keys[number(&pair[0])], &keys[number(&pair[3])]);
            let told = |joined: bool| {
                let rules = SameMailbox::ALL.iter().enumerate().filter(|(nth, _)| (one[*nth] == other[*nth]) == joined);
                rules.map(|(_, rule)| rule.word()).collect::<Vec<_>>().join(" ")
            };
            prop_assert_eq!((&pair[6], &pair[7]), (&told(true), &told(false)), "{:?}", pair);
            prop_assert!(!pair[6].is_empty() && !pair[7].is_empty(), "{:?}", pair);
        }
        for (nth, rule) in SameMailbox::ALL.iter().enumerate() {
            // The group of each record is the smallest number in it, reached by going along the pairs.
            let mut group: Vec<usize> = (0..records.len()).collect();
            let same = (0..records.len()).flat_map(|one| (0..one).map(move |other| (one, other)));
            let joined = same.filter(|&(one, other)| keys[one] == keys[other]).chain(
                pairs.iter().filter(|pair| pair[6].split(' ').any(|word| word == rule.word())).map(|pair| (number(&pair[0]), number(&pair[3]))),
            );
            for (one, other) in joined.collect::<Vec<_>>() {
                let (from, to) = (group[one].max(group[other]), group[one].min(group[other]));
                group.iter_mut().filter(|of| **of == from).for_each(|of| *of = to);
            }
            for one in 0..records.len() {
                let first = (0..records.len()).find(|&other| keys[other][nth] == keys[one][nth]).unwrap();
                prop_assert_eq!(group[one], first, "{:?} of {} under {}", &records[one][0], one, rule.word());
            }
        }
    }

    #[test]
    fn equals_a_naive_reference(records in tables(), which in 0..7_usize, shared in 0..3_usize, by_kind: bool) {
        let place = TempDir::new().unwrap();
        write_list(&records, place.path());
        let survivor = survivor(which);

        // What a naive reading gives.
        let shared = Shared::ALL[shared];
        let keys: Vec<Option<String>> = records.iter().map(|record| key(record, by_kind, shared != Shared::Drop)).collect();
        let groups = groups(&keys);
        let mut lost_to: Vec<Option<usize>> = vec![None; records.len()];
        let mut review: Vec<Option<usize>> = vec![None; records.len()];
        for group in groups.values() {
            let mut ranked = group.clone();
            ranked.sort_by_key(|&index| (std::cmp::Reverse(score(&survivor, &records[index], index)), index));
            let stays = ranked[0];
            for (rank, &index) in ranked.iter().enumerate().skip(1) {
                let (own, other) = (person(&records[index]), person(&records[stays]));
                let differs = !own.is_empty() && !other.is_empty() && own != other;
                let earlier = ranked[..rank].iter().copied().find(|&earlier| person(&records[earlier]) == own);
                match (differs, shared) {
                    (true, Shared::Review) => review[index] = Some(stays),
                    (true, Shared::Keep) => lost_to[index] = earlier,
                    _ => lost_to[index] = Some(stays),
                }
            }
        }

        let mut first: Option<Vec<Vec<u8>>> = None;
        for (memory, threads) in [(1 << 30, 1), (1 << 30, 3), (200, 1), (0, 2)] {
            let mut options = options(place.path(), survivor.clone(), memory, threads);
            options.shared = shared;
            if shared == Shared::Review {
                options.review = Some(Target::File { path: place.path().join("review.csv"), if_there: IfThere::Replace });
            }
            if by_kind {
                options.by = vec!["kind".into()];
            }
            let report = dedupe::run(&options, &Progress::default()).unwrap();
            let kept: Vec<Vec<String>> = (0..records.len())
                .filter(|&index| keys[index].is_some() && lost_to[index].is_none() && review[index].is_none())
                .map(|index| records[index].to_vec())
                .collect();
            prop_assert_eq!(rows(place.path().join("kept.csv")), kept.clone());
            let aside = |of: &[Option<usize>]| -> Vec<Vec<String>> {
                let row = |index: usize| {
                    let numbers = [(index + 1).to_string(), (of[index]? + 1).to_string()];
                    Some([&records[index][..], &numbers].concat())
                };
                (0..records.len()).filter_map(row).collect()
            };
            let (dropped, reviewed) = (aside(&lost_to), aside(&review));
            if shared == Shared::Review {
                prop_assert_eq!(rows(place.path().join("review.csv")), reviewed.clone());
            }
            prop_assert_eq!(rows(place.path().join("dropped.csv")), dropped.clone());
            let without = rows(place.path().join("without.csv")).len();
            prop_assert_eq!(kept.len() + dropped.len() + reviewed.len() + without, records.len());
            let told = [report.records, report.kept, report.dropped, report.for_review, report.no_address];
            let counted = [records.len(), kept.len(), dropped.len(), reviewed.len(), without];
            prop_assert_eq!(told, counted.map(|count| count as u64));
            prop_assert_eq!(report.mailboxes + report.rejected_texts, groups.len() as u64);
            let bytes: Vec<Vec<u8>> = ["kept.csv", "dropped.csv", "without.csv"]
                .iter()
                .map(|name| std::fs::read(place.path().join(name)).unwrap())
                .collect();
            prop_assert_eq!(first.get_or_insert_with(|| bytes.clone()), &bytes);
        }

        // Marks.
        let mut marking = options(place.path(), survivor, 0, 2);
        (marking.mark, marking.dropped, marking.no_address) = (true, None, None);
        marking.shared = shared;
        if by_kind {
            marking.by = vec!["kind".into()];
        }
        dedupe::run(&marking, &Progress::default()).unwrap();
        let marked = rows(place.path().join("kept.csv"));
        prop_assert_eq!(marked.len(), records.len());
        for (index, row) in marked.iter().enumerate() {
            let count = keys[index].as_ref().map_or(String::new(), |key| groups[key].len().to_string());
            prop_assert_eq!(&row[7], &count);
            if shared == Shared::Drop {
                prop_assert_eq!(&row[6], &lost_to[index].map_or(String::new(), |stays| (stays + 1).to_string()));
            }
        }
    }
}
