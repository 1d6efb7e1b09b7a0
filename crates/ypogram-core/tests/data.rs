//! The reference data: sorted, without twins, well spelt, and of one mind.

use std::collections::{BTreeMap, BTreeSet};

use ypogram_core::providers::Certainty;
use ypogram_core::{Class, Policy, examine, local_words, providers};

/// The facts of a data file, cut at tabs.
fn facts(text: &str) -> Vec<Vec<&str>> {
    text.lines()
        .filter(|line| !line.is_empty() && !line.starts_with('#'))
        .map(|line| line.split('\t').collect())
        .collect()
}

fn assert_sorted_and_distinct(name: &str, facts: &[Vec<&str>], columns: usize) {
    for pair in facts.windows(2) {
        assert!(
            pair[0][..columns] < pair[1][..columns],
            "{name}: {:?} and {:?} are out of order or twins",
            pair[0],
            pair[1]
        );
    }
    for fact in facts {
        assert!(fact.iter().all(|cell| cell.trim() == *cell), "{name}: {fact:?} has stray spaces");
    }
}

fn assert_domain(name: &str, domain: &str) {
    let ascii = idna::domain_to_ascii_strict(domain).unwrap_or_default();
    assert_eq!(ascii, domain, "{name}: {domain} is no domain in lower-case A-labels");
}

const PROVIDERS: &str = include_str!("../data/providers.tsv");

#[test]
fn providers_are_domains_with_a_class_and_an_operator() {
    let facts = facts(PROVIDERS);
    assert_sorted_and_distinct("providers.tsv", &facts, 1);
    assert!(facts.len() > 3000);
    let mut names = BTreeSet::new();
    for fact in &facts {
        let domain = fact[0].trim_start_matches('.');
        assert_domain("providers.tsv", domain);
        assert!(names.insert(domain), "{domain} stands there with and without a dot");
        let verdict = examine(format!("night.owl@{domain}").as_bytes(), &Policy::default()).verdict;
        assert!(verdict.is_usable(), "{domain}: no address can have it, so that the entry never matches");
        assert!(["free", "isp", "paid", "relay", "disposable"].contains(&fact[1]), "{fact:?}");
        assert!(["both", "one"].contains(&fact[3]), "{fact:?}");
        let operator = fact[2];
        assert!(
            !operator.is_empty()
                && operator.bytes().all(|b| b.is_ascii_lowercase() || b.is_ascii_digit() || b == b'-'),
            "{fact:?}"
        );
        let provider = providers::find(domain.as_bytes()).expect("every entry is found");
        assert_eq!((provider.class.word(), provider.operator.name()), (fact[1], operator));
        assert!(
            providers::find(format!("not{domain}").as_bytes())
                .is_none_or(|other| !std::ptr::eq(other, provider)),
            "{domain}: by mere ending"
        );
    }
    let known = providers::all().filter(|(_, provider)| provider.certainty() == Certainty::Known);
    assert_eq!(known.count(), facts.len());
}

#[test]
fn listed_domains_are_free_providers_unless_more_is_known() {
    let facts = facts(include_str!("../data/free-listed.tsv"));
    assert_sorted_and_distinct("free-listed.tsv", &facts, 1);
    let mut usable = 0;
    for fact in &facts {
        assert_domain("free-listed.tsv", fact[0]);
        let examined = examine(format!("night.owl@{}", fact[0]).as_bytes(), &Policy::default());
        let is_listed = examined.certainty() == Certainty::Listed;
        // What has no TLD of the root zone, and what is a slip, has no class of that kind.
        let is_none = examined.class != Some(Class::Free);
        assert!(is_listed != is_none, "{}: {:?}", fact[0], examined.class);
        usable += u32::from(is_listed);
    }
    assert!(usable > 1900, "{usable}");
}

#[test]
fn mailbox_rules_speak_of_known_operators_and_domains() {
    let facts = facts(include_str!("../data/mailbox-rules.tsv"));
    assert_sorted_and_distinct("mailbox-rules.tsv", &facts, 3);
    let mut domains: BTreeMap<&str, BTreeSet<String>> = BTreeMap::new();
    for (domain, provider) in providers::all() {
        domains.entry(provider.operator.name()).or_default().insert(domain.to_owned());
    }
    for fact in &facts {
        let known = domains.get(fact[0]).unwrap_or_else(|| panic!("{fact:?}: nobody of that name"));
        assert!(["sure", "likely"].contains(&fact[3]), "{fact:?}");
        if fact[1] == "one-mailbox" && fact[2] != "all" {
            for domain in fact[2].split('=') {
                assert!(known.contains(domain), "{fact:?}: {domain} is not of that operator");
            }
        }
    }
}

#[test]
fn slips_lead_to_real_domains_and_away_from_none() {
    let slips = facts(include_str!("../data/slips.tsv"));
    assert_sorted_and_distinct("slips.tsv", &slips, 1);
    let real: BTreeSet<&str> =
        facts(include_str!("../data/not-slips.txt")).iter().map(|fact| fact[0]).collect();
    for fact in &slips {
        assert!(["sure", "likely"].contains(&fact[2]) && fact[0] != fact[1], "{fact:?}");
        assert!(!real.contains(fact[0]), "{} is said to be real", fact[0]);
        if !fact[0].starts_with(['.', ',']) {
            assert_domain("slips.tsv", fact[1]);
            assert!(providers::find(fact[0].as_bytes()).is_none(), "{} is a provider", fact[0]);
        }
    }
    for domain in real {
        assert_domain("not-slips.txt", domain);
        let codes = examine(format!("night.owl@{domain}").as_bytes(), &Policy::default()).codes;
        assert!(!codes.contains(ypogram_core::Code::TypingSlip), "{domain} is never corrected");
    }
    for fact in facts(include_str!("../data/popular.txt")) {
        assert!(providers::find(fact[0].as_bytes()).is_some(), "{} is popular and on no list", fact[0]);
    }
}

#[test]
fn words_are_sorted_and_known() {
    for (name, text) in [
        ("roles.tsv", include_str!("../data/roles.tsv")),
        ("placeholders.tsv", include_str!("../data/placeholders.tsv")),
    ] {
        let facts = facts(text);
        assert_sorted_and_distinct(name, &facts, 1);
        for fact in facts {
            assert_eq!(fact[0], fact[0].to_lowercase(), "{name}");
            assert!(local_words::find(fact[0].as_bytes()).is_some(), "{name}: {} is not found", fact[0]);
        }
    }
}

#[test]
fn classes_by_public_suffix() {
    for (domain, class) in [
        ("fernhollow.edu", Class::Education),
        ("fernhollow.ac.uk", Class::Education),
        ("fernhollow.edu.au", Class::Education),
        ("fernhollow.gov", Class::Government),
        ("fernhollow.gov.uk", Class::Government),
        ("fernhollow.gouv.fr", Class::Government),
        ("fernhollow.mil", Class::Government),
        ("fernhollow.gc.ca", Class::Government),
        ("fernhollow.gub.uy", Class::Government),
        ("fernhollow.ed.jp", Class::Education),
        ("fernhollow.lg.jp", Class::Government),
        ("fernhollow.k12.ca.us", Class::Education),
        ("fernhollow.ac", Class::Business),
        ("fernhollow.school", Class::Business),
        ("fernhollow.museum", Class::Business),
        ("edu.fernhollow.com", Class::Business),
        ("gmail.com", Class::Free),
        ("mail.gmail.com", Class::Business),
        ("user.33mail.com", Class::Relay),
        ("nyc.rr.com", Class::Isp),
        ("notrr.com", Class::Business),
    ] {
        assert_eq!(
            examine(format!("ada@{domain}").as_bytes(), &Policy::default()).class,
            Some(class),
            "{domain}"
        );
    }
}
