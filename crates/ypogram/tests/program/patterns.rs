//! Patterns, through the program: held against values, against the cells of all fields, looked for in texts.

use serde_json::Value;

use crate::{Place, table};

/// A rulebook with two patterns.
const RULES: &str = "version = 2\n[patterns]\nloan = 'OBS/(\\d{4})/(?P<copy>[a-z])'\nold = { pattern = 'OLD-(\\d+)', ignore-case = true }\n";

fn write(place: &Place, name: &str, text: &str) {
    std::fs::write(place.path(name), text).expect("a file in the folder");
}

fn run(place: &Place, command: &str) -> String {
    let words: Vec<&str> = command.split(' ').collect();
    let run = place.run_words(&words, Vec::new());
    assert!(run.code < 2, "{command}: {}", run.stderr);
    run.stdout
}

/// A value that no pattern fits is for review, with how far it fits and what was expected there, in the columns and in `yp_why`; the counts
/// add up in every command.
#[test]
fn a_miss_is_for_review_and_shows_where() {
    let place = Place::with(&[]);
    write(&place, "ypogram.toml", RULES);
    write(&place, "list.csv", "no,email\n1,ada@fernhollow.org\n2,OBS/0117-b\n3,wren.lovell@fernhollow.org\n");
    write(&place, "names.toml", "version = 2\n[patterns]\nnames = '[a-z]+\\.[a-z]+@fernhollow\\.org'\n");
    let said = run(&place, "clean list.csv --rules names.toml --pattern names --pattern ipv4 -o out --json");
    let said: Value = serde_json::from_str(&said).unwrap();
    assert_eq!(said["counts"]["patterns"].to_string(), r#"{"ipv4":0,"names":1}"#);
    let review = table(&place.read("out/review.csv"));
    assert_eq!(review.len(), 1);
    let why = "names fits up to ‘ada’, then ‘.’ or one of a to z was expected, not ‘@fernhollow.org’";
    assert_eq!([&*review[0]["yp_pattern_why"], &*review[0]["yp_why"]], [why, why]);
    let kept = table(&place.read("out/kept.csv"));
    assert_eq!([&*kept[0]["yp_pattern"], &*kept[0]["yp_pattern_why"]], ["names", ""]);
    let rejected = table(&place.read("out/rejected.csv"));
    assert_eq!(rejected[0]["yp_why"], "There are words and no address.");

    let lines = run(&place, "explain OBS/0117-b --pattern loan --json");
    let said: Value = serde_json::from_str(&lines).unwrap();
    let finding = &said[0]["findings"][1];
    assert_eq!(
        (&finding["code"], &finding["start"], &finding["end"]),
        (&"pattern".into(), &8.into(), &10.into())
    );
    assert_eq!(
        finding["message"],
        "The pattern ‘loan’ fits up to ‘OBS/0117’, then ‘/’ was expected, not ‘-b’."
    );
    assert_eq!(said[0]["pattern"], Value::Null);
    let each = place.run_words(&["check", "--each", "--pattern", "loan"], b"OBS/0117-b\n".to_vec());
    let each: Value = serde_json::from_str(&each.stdout).unwrap();
    assert_eq!(each["findings"], said[0]["findings"]);
}

/// The survey counts what fits in every field; each condition that it names opens just those records, and its contrary the others.
#[test]
fn the_survey_counts_what_fits_in_every_field() {
    let place = Place::with_demo();
    let command = "survey loans.csv --pattern loan --pattern date-day-first --pattern ipv4 --json";
    let said: Value = serde_json::from_str(&run(&place, command)).unwrap();
    let mut opened = 0;
    for field in said["fields"].as_array().unwrap() {
        for pattern in field["patterns"].as_array().unwrap() {
            let (name, count) = (pattern["name"].as_str().unwrap(), pattern["count"].as_u64().unwrap());
            for (sign, expected) in [("", count), ("!", 64 - count)] {
                let condition = format!("field={},pattern{sign}={name}", field["name"].as_str().unwrap());
                let shown = run_words(&place, &["survey", "loans.csv", "--show", &condition]);
                assert_eq!(table(&shown).len() as u64, expected, "{condition}");
                opened += 1;
            }
        }
    }
    assert_eq!(opened, 36);
    let shown = run(&place, "survey loans.csv --pattern loan --pattern ipv4");
    assert!(shown.contains("loan: loan  59") && shown.contains("no cell of any field fits ipv4"), "{shown}");
}

fn run_words(place: &Place, words: &[&str]) -> String {
    let run = place.run_words(words, Vec::new());
    assert_eq!(run.code, 0, "{}", run.stderr);
    run.stdout
}

/// Every match is a row with its groups, which one it is, and its place; the same whatever the pieces and threads.
#[test]
fn extract_gives_every_match() {
    let place = Place::with(&[]);
    write(&place, "ypogram.toml", RULES);
    write(&place, "notes.txt", "OBS/0117/b and OBS/0118/c, xOBS/0119/d\r\nold-7, OBS/0120/e; é OLD-8\n");
    let found = table(&run(&place, "extract notes.txt --pattern loan --pattern old -q"));
    let columns = ["pattern", "match", "occurrence", "group_1", "copy", "line", "offset"];
    let rows: Vec<String> =
        found.iter().map(|row| columns.map(|column| row[column].clone()).join("|")).collect();
    assert_eq!(
        rows,
        [
            "loan|OBS/0117/b|1|0117|b|1|0",
            "loan|OBS/0118/c|2|0118|c|1|15",
            "old|old-7|1|7||2|40",
            "loan|OBS/0120/e|1|0120|e|2|47",
            "old|OLD-8|2|8||2|62"
        ]
    );
    // In a table each match is numbered within its cell; records without an address count as well.
    write(&place, "list.csv", "no,what\n1,OBS/0117/b OBS/0118/c\n2,\"old-9, and\nOBS/0119/d\"\n3,none\n");
    let found = table(&run(&place, "extract list.csv --pattern loan --pattern old --id no -q"));
    let columns = ["match", "occurrence", "field", "record", "line", "id"];
    let rows: Vec<String> =
        found.iter().map(|row| columns.map(|column| row[column].clone()).join("|")).collect();
    assert_eq!(
        rows,
        [
            "OBS/0117/b|1|what|1|2|1",
            "OBS/0118/c|2|what|1|2|1",
            "old-9|1|what|2|3|2",
            "OBS/0119/d|1|what|2|4|2"
        ]
    );
    let said: Value = serde_json::from_str(&run(
        &place,
        "extract list.csv --pattern loan --pattern old -o out.jsonl --json",
    ))
    .unwrap();
    assert_eq!(said["counts"]["matches"].to_string(), r#"{"loan":3,"old":1}"#);
    assert_eq!(said["counts"]["written"], 4);

    let long: String = (0..20_000)
        .map(|nth| format!("note {nth}: OBS/{:04}/b or 192.0.2.{}\n", nth % 9999, nth % 300))
        .collect();
    write(&place, "long.txt", &long);
    let once = run(&place, "extract long.txt --pattern loan --pattern ipv4 -q --threads 1");
    let addresses = (0..20_000).filter(|nth| nth % 300 < 256).count();
    assert_eq!(once.lines().count(), 1 + 20_000 + addresses);
    for options in ["--threads 2", "--threads 2 --chunk-bytes 4096", "--threads 1 --chunk-bytes 1000"] {
        assert_eq!(
            run(&place, &format!("extract long.txt --pattern loan --pattern ipv4 -q {options}")),
            once,
            "{options}"
        );
    }
    assert_eq!(run(&place, "extract notes.txt --pattern old --to plain -q"), "old-7\nOLD-8\n");
}

/// Ready-made patterns are shown with their sources, can be described and tried, and give way to one of the rulebook of that name.
#[test]
fn ready_made_patterns() {
    let place = Place::with(&[]);
    write(&place, "ypogram.toml", &format!("{RULES}date = '\\d{{8}}'\n"));
    let said: Value = serde_json::from_str(&run(&place, "rules patterns --json")).unwrap();
    let all = said.as_array().unwrap();
    assert!(all.iter().all(|pattern| !pattern["source"].as_str().unwrap().is_empty()));
    assert_eq!(all.iter().filter(|pattern| pattern["name"] == "date").count(), 1);
    for pattern in all {
        let (name, example) = (pattern["name"].as_str().unwrap(), pattern["example"].as_str().unwrap());
        let tried = place.run_words(&["rules", "try", "--pattern", name, example], Vec::new());
        assert_eq!(tried.code, 0, "{name} {example}: {}", tried.stdout);
        assert!(run(&place, &format!("rules describe --pattern {name}")).contains(name));
    }
    insta::assert_snapshot!("patterns", run(&place, "rules patterns"));
    let wrong = place.run_words(&["extract", "x.txt", "--pattern", "postal-code-uk"], Vec::new());
    assert_eq!(wrong.code, 2);
    write(&place, "x.txt", "");
    let wrong = place.run_words(&["extract", "x.txt", "--pattern", "postal-code-gv"], Vec::new());
    assert!(wrong.stderr.contains("did you mean ‘postal-code-gb’?"), "{}", wrong.stderr);
}
