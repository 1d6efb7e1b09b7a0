//! The domains of random lists against a count by brute force, for any threads and chunks.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use proptest::prelude::*;
use tempfile::TempDir;
use ypogram_core::Policy;
use ypogram_io::{OpenOptions, RowSpec, Target};
use ypogram_jobs::domains::{self, DomainsOptions, DomainsReport};
use ypogram_jobs::{FieldChoice, Progress};

/// Addresses with their domain as it is counted; none where there is no usable one.
const ADDRESSES: [(&str, Option<&str>); 8] = [
    ("ada@fernhollow.example.org", Some("fernhollow.example.org")),
    ("bo@FERNHOLLOW.example.org", Some("fernhollow.example.org")),
    ("night.owl@gmail.com", Some("gmail.com")),
    ("Cy <cy@gmail.com>", Some("gmail.com")),
    ("dara@bücher.example", Some("xn--bcher-kva.example")),
    ("eve@@gmail.com", None),
    ("", None),
    ("nobody", None),
];

/// Dates with their day in order; two ways of writing a day, and a cell that is none.
const DATES: [(&str, Option<u32>); 5] = [
    ("2024-03-09", Some(3)),
    ("2024-03-09 00:00", Some(3)),
    ("2023-12-31", Some(1)),
    ("2024-01-01", Some(2)),
    ("soon", None),
];

fn domains_of(
    source: &Path,
    new_since: Option<PathBuf>,
    threads: usize,
    chunk_bytes: usize,
) -> DomainsReport {
    let options = DomainsOptions {
        sources: vec![source.to_path_buf()],
        open: OpenOptions { chunk_bytes, ..OpenOptions::default() },
        fields: FieldChoice { address: vec!["mail".into()], ..FieldChoice::default() },
        policy: Policy::default(),
        date: Some("joined".into()),
        dns: None,
        new_since,
        target: Target::Nowhere,
        rows: RowSpec::default(),
        threads,
        hash_key: 1,
    };
    domains::run(&options, &Progress::default()).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn counts_and_dates(
        rows in prop::collection::vec((0..ADDRESSES.len(), 0..DATES.len()), 1..200),
        others in prop::collection::vec(0..ADDRESSES.len(), 0..6),
    ) {
        let folder = TempDir::new().unwrap();
        let (list, other) = (folder.path().join("a.csv"), folder.path().join("b.csv"));
        let row = |(mail, date): &(usize, usize)| format!("{},{}\n", ADDRESSES[*mail].0, DATES[*date].0);
        std::fs::write(&list, format!("mail,joined\n{}", rows.iter().map(row).collect::<String>())).unwrap();
        let of_other: String = others.iter().map(|mail| format!("{}\n", ADDRESSES[*mail].0)).collect();
        std::fs::write(&other, format!("mail\nfay@known.example.org\n{of_other}")).unwrap();

        let mut expected: BTreeMap<&str, (u64, Vec<u32>)> = BTreeMap::new();
        for (mail, date) in &rows {
            let Some(domain) = ADDRESSES[*mail].1 else { continue };
            let (count, days) = expected.entry(domain).or_default();
            *count += 1;
            days.extend(DATES[*date].1);
        }
        let report = domains_of(&list, None, 1, 1 << 19);
        let told: BTreeMap<&str, u64> = report.first.iter().map(|row| (&*row.domain, row.count)).collect();
        prop_assert_eq!(&told, &expected.iter().map(|(domain, (count, _))| (*domain, *count)).collect());
        prop_assert_eq!(report.records, rows.len() as u64);
        prop_assert_eq!(report.without + told.values().sum::<u64>(), report.records);
        let day = |text: &str| DATES.iter().find(|(date, _)| *date == text).and_then(|(_, day)| *day);
        for row in &report.first {
            let (first, last) = row.seen.as_ref().unwrap();
            let days = &expected[&*row.domain].1;
            prop_assert_eq!((day(first), day(last)), (days.iter().min().copied(), days.iter().max().copied()));
        }
        prop_assert_eq!(&domains_of(&list, None, 2, 4096).first, &report.first, "threads and chunks");

        let known: Vec<&str> = others.iter().filter_map(|mail| ADDRESSES[*mail].1).collect();
        let new = domains_of(&list, Some(other), 1, 1 << 19);
        prop_assert_eq!(new.domains, report.domains);
        let names: Vec<&str> = new.first.iter().map(|row| &*row.domain).collect();
        let unknown = report.first.iter().map(|row| &*row.domain).filter(|domain| !known.contains(domain));
        prop_assert_eq!(names, unknown.collect::<Vec<_>>());
        // Whoever holds a list against itself finds nothing new.
        prop_assert_eq!(domains_of(&list, Some(list.clone()), 1, 1 << 19).written, 0);
    }
}
