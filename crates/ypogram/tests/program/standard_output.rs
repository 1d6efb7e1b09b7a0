//! `-o -` is standard output in every command that writes one stream, and refused where several files are written.

use crate::{Place, table};

#[test]
fn a_dash_is_standard_output() {
    let place = Place::with_demo();
    assert_eq!(place.run("register new guests.register").code, 0);
    assert!(place.run("register add guests.register loans.csv --admissible-only -q").code < 2);
    for (call, begins) in [
        ("check members.csv -o -", "member_no,name,email"),
        ("check members.csv --to jsonl -o -", "{\"member_no\":"),
        ("split loans.csv --parts domain -o -", "loan,item,borrower,email"),
        ("dedupe members.csv -o -", "member_no,name,email"),
        ("dedupe members.csv --groups -", "group,count"),
        ("extract members.csv -o -", "address,as_found"),
        ("extract members.csv --row-per-address -o -", "member_no,name,email"),
        ("compare loans.csv --with members.csv --known-field email --mark -o -", "loan,item,borrower"),
        ("domains members.csv -o -", "domain,count"),
        ("links members.csv -o -", "<?xml"),
        ("bounces returned.mbox -o -", "recipient,what"),
        ("redact members.csv --as mask -o -", "member_no,name,email"),
        ("survey members.csv --save -", "{\n  \"layout\": 3"),
        ("survey members.csv --html -", "<!DOCTYPE html>"),
        ("rules export --for html -o -", "<!--"),
        ("register list guests.register -o -", "address,state"),
        ("lists check partners -o -", "# Houses that lend us"),
        ("man -o -", ".ie"),
    ] {
        let run = place.run(call);
        assert!(matches!(run.code, 0 | 1), "{call}: {}", run.stderr);
        assert!(
            run.stdout.lines().any(|line| line.starts_with(begins)) || run.stdout.starts_with(begins),
            "{call}: {}",
            run.stdout.chars().take(200).collect::<String>()
        );
        assert!(!place.path("-").exists(), "{call}: a file of that name");
        // Data alone: what is said about it stands on standard error.
        if begins.contains(',') {
            assert!(!table(&run.stdout).is_empty(), "{call}");
        }
    }
}

#[test]
fn what_is_several_files_is_refused() {
    let place = Place::with_demo();
    for (call, way_out) in [
        ("clean members.csv -o -", "name a folder, or a workbook such as cleaned.xlsx"),
        ("compare loans.csv --with members.csv --known-field email -o -", "name a folder, or add --mark"),
        ("redact members.csv --as token --map - -o copy.csv", "name a new file"),
        ("dedupe members.csv -o - --dropped -", "give each a file of its own"),
        ("survey members.csv --save - --html -", "give each a file of its own"),
    ] {
        let run = place.run(call);
        assert!(run.code > 1 && run.stderr.contains(way_out), "{call}: {} {}", run.code, run.stderr);
        assert_eq!(run.stdout, "", "{call}");
        assert!(!place.path("-").exists(), "{call}");
    }
}

/// Where rows go to standard output, the summary as JSON stands on standard error: whole, quiet or not, and nothing beside it.
#[test]
fn json_stands_beside_the_data() {
    let place = Place::with_demo();
    for call in [
        "check members.csv",
        "check members.csv --to jsonl",
        "split loans.csv --parts domain",
        "dedupe members.csv -o -",
        "extract members.csv",
        "extract members.csv --row-per-address",
        "compare loans.csv --with members.csv --known-field email --mark -o -",
        "domains members.csv -o -",
        "links members.csv -o -",
        "bounces returned.mbox -o -",
        "redact members.csv --as mask -o -",
    ] {
        let plain = place.run(&format!("{call} -q"));
        assert_eq!(plain.stderr, "", "{call}");
        for quiet in ["", "-q"] {
            let run = place.run(&format!("{call} --json {quiet}"));
            assert_eq!((run.code, &run.stdout), (plain.code, &plain.stdout), "{call} {quiet}");
            let summary: serde_json::Value = serde_json::from_str(&run.stderr)
                .unwrap_or_else(|error| panic!("{call} {quiet}: {error}: {}", run.stderr));
            assert_eq!(summary["layout"], 3, "{call}");
            assert_eq!(summary["command"], call.split(' ').next().unwrap(), "{call}");
            assert!(summary["sources"][0]["name"].is_string() && summary["counts"].is_object(), "{call}");
        }
    }
}
