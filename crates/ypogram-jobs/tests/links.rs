//! Who shares what in random lists, against a plain reading; for any threads and chunks.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use proptest::prelude::*;
use tempfile::TempDir;
use ypogram_core::Policy;
use ypogram_io::{GraphFormat, IfThere, OpenOptions, RowSpec, Target};
use ypogram_jobs::links::{self, GraphTarget, LinksOptions, LinksReport, NodeKind};
use ypogram_jobs::{FieldChoice, Progress};

/// Addresses as they stand, and in standard form; none where they are not usable.
const ADDRESSES: [(&str, &[&str]); 10] = [
    ("ada@h-works.org", &["ada@h-works.org"]),
    ("ADA@h-works.org", &["ada@h-works.org"]),
    ("bo@h-works.org", &["bo@h-works.org"]),
    ("bo@gmail.com", &["bo@gmail.com"]),
    ("cleo.marsh@gmail.com", &["cleo.marsh@gmail.com"]),
    ("cleo.marsh@quarry-firm.org", &["cleo.marsh@quarry-firm.org"]),
    ("info@quarry-firm.org", &["info@quarry-firm.org"]),
    ("info@h-works.org", &["info@h-works.org"]),
    ("dara@web.de, eve@web.de", &["dara@web.de", "eve@web.de"]),
    ("eve@@web.de", &[]),
];

/// Telephone numbers as they stand, and what they have in common.
const PHONES: [(&str, Option<u8>); 6] = [
    ("01632 960413", Some(1)),
    ("+44 1632 960413", Some(1)),
    ("(01632) 960-414", Some(2)),
    ("01632 960415", Some(3)),
    ("n/a", None),
    ("", None),
];

fn options(source: &Path, threads: usize, chunk_bytes: usize, graph: GraphTarget) -> LinksOptions {
    LinksOptions {
        sources: vec![source.to_path_buf()],
        open: OpenOptions { chunk_bytes, ..OpenOptions::default() },
        fields: FieldChoice { address: vec!["mail".into()], ..FieldChoice::default() },
        policy: Policy::default(),
        by: vec!["phone".into()],
        behind: None,
        graph,
        drawn: 200,
        memory: 1 << 30,
        threads,
        hash_key: 1,
    }
}

fn links_of(options: &LinksOptions) -> LinksReport {
    links::run(options, &Progress::default()).unwrap()
}

/// What each address shares with others, as text, where that brings people together.
fn shares(address: &str, phones: &BTreeMap<&str, BTreeSet<u8>>) -> Vec<String> {
    let (local_part, domain) = address.split_once('@').unwrap();
    let firm = ["h-works.org", "quarry-firm.org"].contains(&domain).then(|| format!("d {domain}"));
    let local_part = (local_part != "info").then(|| format!("l {local_part}"));
    let phones = phones[address].iter().map(|phone| format!("p {phone}"));
    firm.into_iter().chain(local_part).chain(phones).collect()
}

/// The groups, the largest first: addresses are brought together until nothing changes.
fn groups(phones: &BTreeMap<&str, BTreeSet<u8>>, of: impl Fn(&str) -> bool) -> Vec<BTreeSet<String>> {
    let mut groups: Vec<(BTreeSet<String>, BTreeSet<String>)> = Vec::new();
    for address in phones.keys() {
        let own = shares(address, phones).into_iter().filter(|share| of(share)).collect();
        let mut new = (BTreeSet::from([(*address).to_owned()]), own);
        groups.retain(|(addresses, shares)| {
            let is_same = !shares.is_disjoint(&new.1);
            if is_same {
                new.0.extend(addresses.iter().cloned());
                new.1.extend(shares.iter().cloned());
            }
            !is_same
        });
        groups.push(new);
    }
    let several = groups.into_iter().map(|(addresses, _)| addresses).filter(|group| group.len() > 1);
    several.collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn groups_firms_and_households(
        rows in prop::collection::vec((0..ADDRESSES.len(), 0..PHONES.len()), 1..40),
    ) {
        let folder = TempDir::new().unwrap();
        let list = folder.path().join("list.csv");
        let row = |(mail, phone): &(usize, usize)| format!("\"{}\",{}\n", ADDRESSES[*mail].0, PHONES[*phone].0);
        std::fs::write(&list, format!("mail,phone\n{}", rows.iter().map(row).collect::<String>())).unwrap();
        let mut phones: BTreeMap<&str, BTreeSet<u8>> = BTreeMap::new();
        for (mail, phone) in &rows {
            for address in ADDRESSES[*mail].1 {
                phones.entry(address).or_default().extend(PHONES[*phone].1);
            }
        }
        let file = |name: &str, format| {
            GraphTarget::File(Target::File { path: folder.path().join(name), if_there: IfThere::Replace }, format)
        };
        let report = links_of(&options(&list, 1, 1 << 19, file("one.graphml", GraphFormat::GraphMl)));
        let without = rows.iter().filter(|(mail, _)| ADDRESSES[*mail].1.is_empty()).count();
        prop_assert_eq!((report.records, report.without), (rows.len() as u64, without as u64));
        prop_assert_eq!(report.addresses, phones.len() as u64);

        let all = groups(&phones, |_| true);
        prop_assert_eq!(report.groups, all.len() as u64);
        prop_assert_eq!(report.in_groups, all.iter().map(|group| group.len() as u64).sum::<u64>());
        let sizes: u64 = report.sizes.iter().map(|row| row.groups).sum();
        prop_assert_eq!(sizes, report.groups);
        let households = groups(&phones, |share| share.starts_with('p'));
        let is_firm = |group: &BTreeSet<String>| {
            ["@h-works.org", "@quarry-firm.org"].iter().any(|firm| group.iter().all(|one| one.ends_with(firm)))
        };
        prop_assert_eq!(report.households, households.iter().filter(|group| !is_firm(group)).count() as u64);

        // All groups have room in the picture, with all their addresses.
        let drawn = report.drawn.as_ref().unwrap();
        let told: u64 = drawn.groups.iter().map(|group| group.addresses).sum();
        prop_assert_eq!((drawn.groups.len() as u64, told), (report.groups, report.in_groups));
        for group in &drawn.groups {
            prop_assert!(!group.is_cut && group.nodes.len() <= group.edges.len() + 1);
        }

        links_of(&options(&list, 2, 4096, file("two.graphml", GraphFormat::GraphMl)));
        let [one, two] = ["one.graphml", "two.graphml"].map(|name| std::fs::read_to_string(folder.path().join(name)).unwrap());
        prop_assert_eq!(&one, &two, "threads and chunks");
        let count = |tag: &str| one.matches(tag).count() as u64;
        prop_assert_eq!((count("<node "), count("<edge ")), report.written);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// However little room there is, what is drawn is a part of the graph: no node twice, edges between an address and what it hangs on, no more nodes
    /// than there is room for, and the largest groups first.
    #[test]
    fn little_room(
        rows in prop::collection::vec((0..12_usize, 0..6_usize, 0..9_usize), 1..80),
        most in 2..60_usize,
    ) {
        let folder = TempDir::new().unwrap();
        let list = folder.path().join("list.csv");
        let row = |(name, firm, phone): &(usize, usize, usize)| {
            format!("person{name}@firm-{firm}.org,01632 96041{phone}\n")
        };
        std::fs::write(&list, format!("mail,phone\n{}", rows.iter().map(row).collect::<String>())).unwrap();
        let options = LinksOptions { drawn: most, ..options(&list, 1, 1 << 19, GraphTarget::Nowhere) };
        let report = links_of(&options);
        let drawn = report.drawn.as_ref().unwrap();
        prop_assert_eq!(drawn.of, report.groups);
        prop_assert!(drawn.groups.iter().map(|group| group.nodes.len()).sum::<usize>() <= most);
        prop_assert!(drawn.groups.iter().map(|group| group.addresses).is_sorted_by(|one, other| one >= other));
        for group in &drawn.groups {
            let texts: BTreeSet<(&NodeKind, &str)> = group.nodes.iter().map(|node| (&node.kind, &*node.text)).collect();
            prop_assert_eq!(texts.len(), group.nodes.len());
            for &(shared, address) in &group.edges {
                let (shared, address) = (&group.nodes[shared], &group.nodes[address]);
                prop_assert_eq!(&address.kind, &NodeKind::Address);
                let (local_part, domain) = address.text.split_once('@').unwrap();
                match shared.kind {
                    NodeKind::LocalPart => prop_assert_eq!(&shared.text, local_part),
                    NodeKind::Domain => prop_assert_eq!(&shared.text, domain),
                    _ => prop_assert!(shared.text.starts_with("01632")),
                }
            }
        }
    }
}

/// A list in which everybody shares everything with many is drawn as far as there is room, and its graph stays within its memory.
#[test]
fn large_groups_are_cut_and_memory_is_kept() {
    let folder = TempDir::new().unwrap();
    let list = folder.path().join("list.csv");
    let rows: String =
        (0..3000).map(|nth| format!("p{nth}@h-works.org,01632 96{:04}\n", nth % 900)).collect();
    std::fs::write(&list, format!("mail,phone\n{rows}")).unwrap();
    let tables = GraphTarget::Tables {
        nodes: Target::File { path: folder.path().join("n.csv"), if_there: IfThere::Refuse },
        edges: Target::File { path: folder.path().join("e.csv"), if_there: IfThere::Refuse },
        rows: RowSpec::default(),
    };
    let report = links_of(&options(&list, 2, 1 << 16, tables));
    let drawn = report.drawn.unwrap();
    assert_eq!((report.groups, report.households, report.firms), (1, 0, 1));
    assert!(drawn.groups[0].is_cut && drawn.groups[0].nodes.len() <= 200);
    assert_eq!(drawn.groups[0].addresses, 3000);
    let read = |name: &str| std::fs::read_to_string(folder.path().join(name)).unwrap();
    let lines = [read("n.csv").lines().count() as u64 - 1, read("e.csv").lines().count() as u64 - 1];
    assert_eq!((lines[0], lines[1]), report.written);
    assert_eq!(lines, [3000 + 3000 + 1 + 900, 9000]);
    let small = LinksOptions { memory: 1 << 18, ..options(&list, 1, 1 << 16, GraphTarget::Nowhere) };
    let error = links::run(&small, &Progress::default()).unwrap_err();
    assert!(error.to_string().contains("--memory"), "{error}");
}
