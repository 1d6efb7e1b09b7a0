//! Rules for fields other than the address, through the program.

use serde_json::Value;

use crate::{Place, table};

const RULES: &str = r#"version = 2
[field-rules.no]
filled = true
unique = true
[field-rules.joined]
is = "date"
earliest = 2020-01-01
latest = "today"
[field-rules.kind]
one-of = "kinds"
length = { from = 3, to = 8 }
[field-rules.phone]
is = "telephone"
at-least-one-of = ["email"]
[field-rules.code]
fits = "code"
[lists.kinds]
entries = ["Adult", "student"]
[patterns]
code = '[A-Z]\d'
"#;

/// The demo-like list: what each record breaks stands in its last cell.
const LIST: &str = "no,email,joined,kind,phone,code,breaks\n\
M1,ada@fernhollow.org,2021-05-01,adult,01632 960001,A1,\n\
M2,bea@fernhollow.org,1999-05-01,ADULT ,,B2,joined: earliest\n\
M1 ,cleo@fernhollow.org,9999-01-01,student,,,joined: latest; no: unique\n\
,dara@fernhollow.org,soon,pilot,xyz,b2,code: fits; joined: is; joined: earliest; joined: latest; kind: one-of; no: filled; phone: is\n\
M4,,,,,,phone: at-least-one-of\n\
M1,,2020-01-01,ab,01632 960002,,kind: one-of; kind: length; no: unique\n\
M7,not an address,31.12.2023 10:00,,,,\n\
m1,finn@fernhollow.org,,,,,\n";

fn place(rules: &str) -> Place {
    Place::with(&[("ypogram.toml", rules.as_bytes()), ("list.csv", LIST.as_bytes())])
}

/// Every record has exactly the faults that it should have, whatever the threads and chunks; the counts are those of the rows.
#[test]
fn every_fault_is_found_and_counted() {
    let place = place(RULES);
    let mut counts = std::collections::BTreeMap::<String, u64>::new();
    for options in ["", " --threads 2 --chunk-bytes 60", " --threads 1 --chunk-bytes 200 --memory 8M"] {
        let run = place.run(&format!("check list.csv --field email -o out.csv --force --json{options}"));
        assert_eq!(run.code, 0, "{}", run.stderr);
        counts.clear();
        for row in table(&place.read("out.csv")) {
            assert_eq!(row["yp_fields_at_fault"], row["breaks"], "{options}: {row:?}");
            for fault in row["breaks"].split("; ").filter(|fault| !fault.is_empty()) {
                *counts.entry(fault.to_owned()).or_default() += 1;
                let code = format!("field-{}", fault.rsplit_once(": ").unwrap().1);
                assert!(row["yp_findings"].split(' ').any(|word| word == code), "{code}: {row:?}");
            }
        }
        let said: Value = serde_json::from_str(&run.stdout).unwrap();
        let mut told: std::collections::BTreeMap<String, u64> =
            serde_json::from_value(said["counts"]["field_faults"].clone()).unwrap();
        told.retain(|_, count| *count > 0);
        assert_eq!(told, counts, "{options}");
    }
    // Each count opens just its records, in `check` and in `survey`, which counts the same.
    let survey: Value =
        serde_json::from_str(&place.run("survey list.csv --field email --json").stdout).unwrap();
    for (fault, count) in &counts {
        let (field, word) = fault.split_once(": ").unwrap();
        for command in ["check", "survey"] {
            let show = format!("field={field},fault={word}");
            let run = place
                .run_words(&[command, "list.csv", "--field", "email", "--show", &show, "-q"], Vec::new());
            let rows = table(&run.stdout);
            assert_eq!(rows.len() as u64, *count, "{command} {show}: {}", run.stderr);
            assert!(rows.iter().all(|row| row["breaks"].contains(fault)), "{show}");
        }
        let fields = survey["fields"].as_array().unwrap();
        let of_field =
            fields.iter().find(|named| named["name"] == field).unwrap()["faults"].as_array().unwrap();
        assert!(of_field.iter().any(|told| told["name"] == word && told["count"] == *count), "{fault}");
    }
    for command in ["check", "clean", "survey"] {
        let trial = place.run(&format!("{command} list.csv --field email --first 3"));
        assert_eq!(trial.code, 0, "{command}: {}", trial.stderr);
        assert!(trial.stdout.contains("no: unique") || command == "survey", "{command}: {}", trial.stdout);
    }
    let piped = place.run_words(&["check", "-", "--from", "csv", "--field", "email"], LIST.as_bytes());
    assert_eq!(
        table(&piped.stdout).iter().filter(|row| row["yp_findings"].contains("field-unique")).count(),
        2
    );
}

/// `clean` sorts by them, severities count, and exit codes tell.
#[test]
fn outcomes_severities_and_exit_codes() {
    let place = place(RULES);
    let run = place.run("clean list.csv --field email -o out --json");
    let said: Value = serde_json::from_str(&run.stdout).unwrap();
    let outcome = |name: &str| {
        let rows = std::fs::read_to_string(place.path(&format!("out/{name}.csv"))).map(|text| table(&text));
        rows.map_or(vec![], |rows| rows.iter().map(|row| row["no"].trim().to_owned()).collect())
    };
    assert_eq!(outcome("kept"), ["M1", "m1"]);
    assert_eq!(outcome("review"), ["M2", "M1", ""]);
    assert_eq!(outcome("no-address"), ["M4", "M1"]);
    assert_eq!(outcome("rejected"), ["M7"]);
    assert_eq!(said["counts"]["field_faults"]["no: unique"], 2);
    // A decision that keeps the record answers what its fields break.
    let review = place.read("out/review.csv");
    std::fs::write(place.path("out/review.csv"), review.replacen(",2,,", ",2,keep,", 1)).unwrap();
    let settled = place.run("settle out");
    assert_eq!(settled.code, 0, "{}", settled.stderr);
    assert!(table(&place.read("out/kept.csv")).iter().any(|row| row["no"] == "M2"));

    for (trouble, code) in
        [("field-unique", 1), ("field-at-least-one-of", 1), ("double-dot", 0), ("reject", 1)]
    {
        for command in ["check", "survey"] {
            let run = place.run(&format!("{command} list.csv --field email -q --fail-on {trouble}"));
            assert_eq!(run.code, code, "{command} {trouble}: {}", run.stderr);
        }
    }
    let off = format!("{RULES}[severity]\nfield-unique = \"off\"\nfield-one-of = \"reject\"\n");
    std::fs::write(place.path("ypogram.toml"), off).unwrap();
    let run = place.run("check list.csv --field email -o out.csv --force -q --fail-on field-unique");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let rows = table(&place.read("out.csv"));
    assert!(rows.iter().all(|row| !row["yp_fields_at_fault"].contains("unique")));
    assert_eq!(rows[3]["yp_verdict"], "reject");
}

/// What is not there is told with the nearest, and what cannot be with its place.
#[test]
fn wrong_rules() {
    for (rules, told) in [
        ("[field-rules.joint]\nfilled = true", "did you mean [field-rules] joined?"),
        ("[field-rules.no]\nfilld = true", "unknown key ‘filld’"),
        ("[field-rules.no]\nis = 'dat'", "did you mean ‘date’?"),
        ("[field-rules.no]\nfits = 'ipv5'", "did you mean ‘ipv6’?"),
        ("[field-rules.no]\none-of = 'kinds'", "there is no list ‘kinds’"),
        ("[field-rules.no]\nlength = 'long'", "length is a number of characters"),
        ("[field-rules.no]\nlength = { from = 3, to = 2 }", "the length goes down"),
        ("[field-rules.no]\nearliest = 'soon'", "earliest = \"soon\" is no date"),
        ("[field-rules.no]\nlatest = 3", "earliest and latest are a date"),
        ("[field-rules.no]\nat-least-one-of = ['fone']", "there is no field ‘fone’"),
        ("[field-rules.no]", "nothing is asked of the field"),
    ] {
        let place = place(&format!("version = 2\n{rules}\n"));
        let run = place.run("check list.csv --field email");
        assert!(run.code == 2 && run.stderr.contains(told), "{rules}: {}", run.stderr);
    }
    let place = place(RULES);
    let run = place.run("check list.csv --fail-on field-uniqe");
    assert!(run.code == 2 && run.stderr.contains("did you mean ‘field-unique’?"), "{}", run.stderr);
    let run = place.run("dedupe list.csv --fail-on field-unique");
    assert!(run.code == 2 && run.stderr.contains("findings are not counted here"), "{}", run.stderr);
}
