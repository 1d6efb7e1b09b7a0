//! The short way over cells that are plain addresses, at every operator with a rule of its own, held against the long way.

use std::collections::BTreeMap;

use ypogram_core::{
    CellBatch, Hasher, Judge, LetterCase, Policy, SameMailbox, Summary, SummaryKey, examine, providers,
};

/// Local parts that rules about tags, dots, letters and lengths distinguish, or that are words with a meaning.
const LOCALS: [&str; 28] = [
    "ada",
    "a",
    "adalovell",
    "ada.lovell",
    "Ada.Lovell",
    "ADA",
    "ada+moon",
    "ada+",
    "+ada",
    "ada-moon",
    "ada_moon",
    "ada=moon",
    "a.d.a.l.o.v.e.l.l",
    "ada.lovell+moon-2",
    "12345",
    "ada1",
    "1ada",
    "o'brien",
    "r&d",
    "a!b",
    "info",
    "info+x",
    "no-reply",
    "none",
    "asdfgh",
    "aaaa",
    "www.ada",
    "a-very-long-local-part-that-hardly-any-operator-would-have-issued",
];

/// A domain of each operator and class, some that no list knows, and some that are unusable.
fn domains() -> Vec<String> {
    let mut of_each = BTreeMap::new();
    for (domain, provider) in providers::all() {
        let first = of_each.entry((provider.operator.name(), provider.class.word())).or_insert(domain);
        *first = domain.min(first);
    }
    assert!(of_each.len() > 100);
    let own = [
        "h-works.org",
        "mail.h-works.org",
        "hosted.org",
        "alias.org",
        "h-works.example",
        "h-works.nosuchending",
        "h_works.org",
        "h-works",
        "co.uk",
    ];
    own.iter().copied().chain(of_each.into_values()).map(str::to_owned).collect()
}

fn policies() -> Vec<Policy> {
    let mut own = Policy::default();
    own.host_at("hosted.org", "google").unwrap();
    own.set_alias("alias.org", "h-works.org").unwrap();
    own.set_mailbox_rule("h-works.org", false, Some('-')).unwrap();
    own.trust_name("example").unwrap();
    own.max_length = Some(20);
    let mut keep = Policy::default();
    keep.letter_case = LetterCase::Keep;
    vec![Policy::default(), own, keep]
}

#[test]
fn plain_cells_are_what_the_long_way_says() {
    for policy in policies() {
        let mut judge = Judge::new(&policy, Hasher::with_key(3));
        let mut kinds: BTreeMap<u64, (SummaryKey, Summary)> = BTreeMap::new();
        let mut taken = 0;
        for domain in domains() {
            let cells: Vec<String> = LOCALS
                .iter()
                .map(|local| {
                    format!(
                        "{local}@{}",
                        if local.starts_with('A') { domain.to_uppercase() } else { domain.clone() }
                    )
                })
                .collect();
            let mut ahead = CellBatch::default();
            judge.look_ahead(cells.iter().map(|cell| Some((cell.as_bytes(), cell.len()))), &mut ahead);
            for (nth, cell) in cells.iter().enumerate() {
                let examined = examine(cell.as_bytes(), &policy);
                for same in SameMailbox::ALL {
                    let Some(plain) = judge.plain(&ahead, nth, same) else { continue };
                    taken += 1;
                    let standard = examined.standard.as_ref().expect("a plain address has its standard form");
                    assert_eq!(plain.address(), standard.address.as_bytes(), "{cell}");
                    assert_eq!(
                        Some(plain.key().to_vec()),
                        examined.key(same, &policy).map(String::into_bytes),
                        "{cell} {same:?}"
                    );
                    let judged = plain.summary_key.summary(&policy);
                    assert_eq!(
                        (judged.codes, judged.verdict, judged.class, judged.operator, judged.repairs),
                        (
                            examined.codes,
                            examined.verdict,
                            examined.class,
                            examined.operator,
                            examined.repairs
                        ),
                        "{cell}"
                    );
                    // Whatever else is of the same kind gets the same findings.
                    let kind = kinds.entry(plain.summary_key.bits()).or_insert((plain.summary_key, judged));
                    assert_eq!(*kind, (plain.summary_key, judged), "{cell}");
                }
            }
        }
        assert!(
            taken > 5_000 && kinds.len() > 100,
            "{taken} cells of {} kinds went the short way",
            kinds.len()
        );
    }
}

#[test]
fn cells_with_more_to_them_are_left_to_the_long_way() {
    let policy = Policy::default();
    let mut judge = Judge::new(&policy, Hasher::with_key(3));
    let long = format!("{}@{}.org", "a".repeat(60), "b.".repeat(150));
    let cells = [
        None,
        Some(""),
        Some("@"),
        Some("ada"),
        Some("ada@"),
        Some("@h-works.org"),
        Some("\u{A0}ada@h-works.org"),
        Some("ada@h-works.org;"),
        Some("<ada@h-works.org>>"),
        Some("< ada@h-works.org >"),
        Some("R&D <ada@h-works.org>"),
        Some("Ｊosé <ada@h-works.org>"),
        Some("mailto:Ada <ada@h-works.org>"),
        Some("mailto:ada@h-works.org?subject=x"),
        Some("Ada <mailto:ada@h-works.org>"),
        Some("bea@h-works.org <ada@h-works.org>"),
        Some("ada@h-works.org,bea@h-works.org"),
        Some("ada@@h-works.org"),
        Some(".ada@h-works.org"),
        Some("ada.@h-works.org"),
        Some("a..b@h-works.org"),
        Some("ada%40@h-works.org"),
        Some("a&amp;b@h-works.org"),
        Some("josé@h-works.org"),
        Some("ada@höllow.org"),
        Some("ada@xn--mnchen-3ya.de"),
        Some("ada@[192.0.2.1]"),
        Some("\"ada\"@h-works.org"),
        Some("ada@h-works.org."),
        Some(long.as_str()),
    ];
    let mut ahead = CellBatch::default();
    judge.look_ahead(cells.iter().map(|cell| cell.map(|cell| (cell.as_bytes(), cell.len()))), &mut ahead);
    assert_eq!((ahead.len(), ahead.is_empty()), (cells.len(), false));
    for (nth, cell) in cells.iter().enumerate() {
        assert!(judge.plain(&ahead, nth, SameMailbox::Case).is_none(), "{cell:?}");
    }
    ahead.clear();
    assert!(ahead.is_empty());
}
