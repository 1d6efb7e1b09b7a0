//! What the file of mailbox rules says, held against what keys and findings make of it: each sure fact acts, no likely one.

use std::collections::BTreeMap;

use ypogram_core::{Code, Policy, SameMailbox, examine};

const RULES: &str = include_str!("../data/mailbox-rules.tsv");
const PROVIDERS: &str = include_str!("../data/providers.tsv");

struct Fact {
    operator: &'static str,
    what: &'static str,
    value: &'static str,
    sure: bool,
}

fn facts() -> Vec<Fact> {
    let lines = RULES.lines().filter(|line| !line.starts_with('#') && !line.is_empty());
    let fact = |line: &'static str| {
        let cells: Vec<&str> = line.split('\t').collect();
        let [operator, what, value, certainty] = cells[..] else { panic!("{line}") };
        Fact { operator, what, value, sure: certainty == "sure" }
    };
    lines.map(fact).collect()
}

/// The domains of each operator.
fn domains() -> BTreeMap<&'static str, Vec<&'static str>> {
    let mut domains: BTreeMap<_, Vec<_>> = BTreeMap::new();
    for line in PROVIDERS.lines().filter(|line| !line.starts_with('#') && !line.is_empty()) {
        let cells: Vec<&str> = line.split('\t').collect();
        domains.entry(cells[2]).or_default().push(cells[0].trim_start_matches('.'));
    }
    domains
}

fn key(local: &str, domain: &str) -> String {
    let policy = Policy::default();
    let address = format!("{local}@{domain}");
    examine(address.as_bytes(), &policy)
        .key(SameMailbox::Provider, &policy)
        .unwrap_or_else(|| panic!("{address}"))
}

/// Long enough for every provider.
const OWL: &str = "nightowl";

#[test]
fn tags_and_ignored_characters() {
    let domains = domains();
    let mut held = 0;
    for Fact { operator, what, value, sure } in facts() {
        let spelling = match what {
            "tag" => format!("{OWL}{value}x"),
            "ignored" => format!("night{value}owl"),
            _ => continue,
        };
        for domain in &domains[operator] {
            let same = key(&spelling, domain) == key(OWL, domain);
            assert_eq!(same, sure, "{spelling}@{domain}, of which {operator} {what} {value} is {sure}");
            held += 1;
        }
    }
    assert!(held > 100, "{held} domains were held against their rule");
}

/// Domains of one name space are one, others of the same operator are not.
#[test]
fn name_spaces() {
    let domains = domains();
    for Fact { operator, what, value, sure } in facts().into_iter().filter(|fact| fact.what == "one-mailbox")
    {
        let all = &domains[operator];
        let joined: Vec<&str> = if value == "all" { all.clone() } else { value.split('=').collect() };
        let first = if value == "all" { key(OWL, joined[0]) } else { format!("{OWL}@{}", joined[0]) };
        for domain in &joined {
            assert_eq!(key(OWL, domain) == first, sure || *domain == joined[0], "{domain}: {what} {value}");
        }
        for other in all.iter().filter(|domain| !joined.contains(domain)) {
            assert_ne!(key(OWL, other), first, "{other} is none of {value}");
        }
    }
}

/// What a provider issues: the lengths at both ends, and every ASCII character for itself.
#[test]
fn what_can_have_been_issued() {
    let domains = domains();
    for Fact { operator, what, value, .. } in facts().into_iter().filter(|fact| fact.sure) {
        let domain = domains[operator][0];
        let refused = |local: &str| {
            let examined = examine(format!("{local}@{domain}").as_bytes(), &Policy::default());
            assert!(examined.has_standard_form(), "{local}@{domain}");
            examined.codes.contains(Code::NotIssued)
        };
        match what {
            "issued-length" => {
                let (least, most) = value.split_once('-').unwrap();
                let (least, most): (usize, usize) = (least.parse().unwrap(), most.parse().unwrap());
                let local = |bytes: usize| "nx7q".repeat(16)[..bytes].to_owned();
                assert!(!refused(&local(least)) && !refused(&local(most)), "{operator} {value}");
                assert!(refused(&local(most + 1)), "{operator} {value}");
                assert!(least < 2 || refused(&local(least - 1)), "{operator} {value}");
            }
            "issued-characters" => {
                let allowed = |c: char| {
                    value.split(' ').any(|part| match part.as_bytes() {
                        [from, b'-', to] => (*from..=*to).contains(&(c as u8)),
                        only => only == [c as u8],
                    })
                };
                let tag = facts().iter().any(|fact| fact.operator == operator && fact.what == "tag");
                for c in ('!'..='~').filter(|c| !"\"(),:;<>@[\\]".contains(*c) && !c.is_ascii_uppercase()) {
                    if c == '+' && tag {
                        continue;
                    }
                    assert_eq!(refused(&format!("nigh{c}owl")), !allowed(c), "{operator}: {c}");
                }
            }
            _ => {}
        }
    }
}

#[test]
fn names_in_the_sub_domain() {
    let domains = domains();
    for fact in facts().into_iter().filter(|fact| fact.what == "sub-domain" && fact.sure) {
        let below: Vec<_> = domains[fact.operator]
            .iter()
            .filter(|domain| key("anything", &format!("{OWL}.{domain}")) == format!("{OWL}@{domain}"))
            .collect();
        assert!(!below.is_empty(), "{}", fact.operator);
    }
}
