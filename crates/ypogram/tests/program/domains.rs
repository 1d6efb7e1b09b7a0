//! The domains of a list, through the program.

use std::collections::BTreeMap;

use crate::{Place, table};

/// The counts are those of the records, whatever the threads and chunks; slips are told; dates are the first and the last.
#[test]
fn every_domain_with_what_is_known_of_it() {
    let place = Place::with_demo();
    let checked = place.run("check members.csv -q");
    let mut counts: BTreeMap<String, u64> = BTreeMap::new();
    for row in table(&checked.stdout) {
        if let Some((_, domain)) = row["yp_address"].rsplit_once('@') {
            *counts.entry(domain.to_owned()).or_default() += 1;
        }
    }
    let run = place.run("domains members.csv --date joined -o - -q");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let rows = table(&run.stdout);
    let told: BTreeMap<String, u64> =
        rows.iter().map(|row| (row["domain"].clone(), row["count"].parse().unwrap())).collect();
    assert_eq!(told, counts);
    for options in ["--threads 1", "--threads 2 --chunk-bytes 2000"] {
        assert_eq!(
            place.run(&format!("domains members.csv --date joined -o - -q {options}")).stdout,
            run.stdout
        );
    }
    let of = |domain: &str| rows.iter().find(|row| row["domain"] == domain).unwrap();
    let gmail = of("gmail.com");
    assert_eq!([&*gmail["class"], &*gmail["operator"], &*gmail["slip_of"]], ["free", "google", ""]);
    assert!(gmail["first"] < gmail["last"]);
    assert_eq!(of("gmial.com")["slip_of"], "gmail.com");
    assert_eq!(of("library.westmere.example")["registrable"], "westmere.example");

    // One letter from a domain that this list has often, whatever is known elsewhere.
    let list: String =
        (0..60).map(|nth| format!("a{nth}@quarry-works.org,0{}/03/2024\n", nth % 9 + 1)).collect();
    std::fs::write(place.path("list.csv"), format!("email,when\n{list}b@quary-works.org,\n")).unwrap();
    let run = place.run("domains list.csv --date when -o - -q");
    let rows = table(&run.stdout);
    assert_eq!(rows[1]["slip_of"], "quarry-works.org");
    assert_eq!([&*rows[0]["first"], &*rows[0]["last"], &*rows[1]["first"]], ["01/03/2024", "09/03/2024", ""]);
    insta::assert_snapshot!("domains", place.run("domains members.csv").stdout);
}

/// Only the domains that another list does not have.
#[test]
fn new_since() {
    let place = Place::with_demo();
    let all = table(&place.run("domains members.csv -o - -q").stdout);
    let known = table(&place.run("domains loans.csv -o - -q").stdout);
    let new = table(&place.run("domains members.csv --new-since loans.csv -o - -q").stdout);
    let is_known = |domain: &String| known.iter().any(|row| row["domain"] == *domain);
    assert_eq!(place.run("domains loans.csv -o loans-domains.csv -q").code, 0);
    let again = table(&place.run("domains members.csv --new-since loans-domains.csv -o - -q").stdout);
    assert_eq!(again, new);
    let expected: Vec<&String> =
        all.iter().map(|row| &row["domain"]).filter(|domain| !is_known(domain)).collect();
    assert_eq!(new.iter().map(|row| &row["domain"]).collect::<Vec<_>>(), expected);
    assert_eq!(
        place.run("domains members.csv --new-since loans.csv --figure new").stdout.trim(),
        expected.len().to_string()
    );
    assert_eq!(place.run("domains loans.csv --new-since loans.csv --fail-on none-found -q").code, 1);
    for (call, told) in
        [("--date join", "did you mean --date joined?"), ("--new-since nowhere.csv", "not found")]
    {
        let run = place.run(&format!("domains members.csv {call}"));
        assert!(run.code == 2 && run.stderr.contains(told), "{call}: {}", run.stderr);
    }
}
