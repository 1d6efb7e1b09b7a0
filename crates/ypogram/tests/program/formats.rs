//! Every command reads and writes JSON lines.

use serde_json::{Value, json};

use crate::{Place, table};

const MEMBERS: &[u8] =
    br#"{"id": 7, "name": "Ada Lovell", "contact": {"email": " Ada.Lovell@H-Works.org", "phone": null}}

{"id": 8, "name": "Ada Lovell", "contact": {"email": "ada.lovell@h-works.org"}, "fee": 12.50}
{"id": 9, "contact": {"email": ["bea@h-works.org", "cy@h-works.org"]}, "tags": [{"a": "=1+1"}]}
{"id": 10, "name": "Dee \"D\" \u00d6", "contact": {"email": "dee@@h-works.org"}}
{}
"#;

fn place() -> Place {
    Place::with(&[("m.jsonl", MEMBERS)])
}

fn objects(text: &str) -> Vec<Value> {
    text.lines().map(|line| serde_json::from_str(line).unwrap_or_else(|_| panic!("{line}"))).collect()
}

fn values<'o>(objects: &'o [Value], keys: &[&str]) -> Vec<Vec<&'o Value>> {
    objects.iter().map(|object| keys.iter().map(|key| &object[*key]).collect()).collect()
}

#[test]
fn objects_are_kept_and_added_to() {
    let place = place();
    let run = place.run("check m.jsonl --field contact.email -q");
    let lines: Vec<&str> = run.stdout.lines().collect();
    let source: Vec<&str> =
        std::str::from_utf8(MEMBERS).unwrap().lines().filter(|line| !line.is_empty()).collect();
    assert_eq!(lines.len(), source.len());
    for (line, source) in lines.iter().zip(&source) {
        assert!(line.starts_with(&source[..source.len() - 1]), "{line}");
    }
    let verdicts = values_of(&run.stdout, &["yp_address", "yp_verdict", "yp_well_formed", "yp_field"]);
    let expected = [
        json!(["ada.lovell@h-works.org", "accept", false, "contact.email"]),
        json!(["ada.lovell@h-works.org", "accept", true, "contact.email"]),
        json!(["bea@h-works.org", "accept", false, "contact.email"]),
        json!([null, "reject", false, "contact.email"]),
        json!([null, null, false, null]),
    ];
    assert_eq!(verdicts, expected);
}

fn values_of(text: &str, keys: &[&str]) -> Vec<Value> {
    let objects = objects(text);
    values(&objects, keys).into_iter().map(|values| values.into_iter().cloned().collect()).collect()
}

/// The same figures and cells, whatever the formats of source and output.
#[test]
fn formats_say_the_same() {
    let place = Place::with_demo();
    let csv = table(&place.run("check members.csv -q").stdout);
    assert_eq!(place.run("check members.csv -q -o m.jsonl").code, 0);
    let lines = objects(&place.read("m.jsonl"));
    assert_eq!(csv.len(), lines.len());
    for (row, object) in csv.iter().zip(&lines) {
        for (column, cell) in row {
            let text = match &object[column] {
                Value::Null => String::new(),
                Value::String(text) => text.clone(),
                other => other.to_string(),
            };
            assert_eq!(&text, cell, "{column} of {object}");
        }
    }
    // What the demo holds comes out again, through JSON and back.
    let fields = "member_no,name,email,phone,membership,joined,notes";
    let same =
        place.run(&format!("check m.jsonl --prefix again_ --field email --columns {fields} --to csv -q"));
    let own = place.run(&format!("check members.csv --columns {fields} -q"));
    assert_eq!(table(&same.stdout), table(&own.stdout));
    for call in ["clean", "dedupe -o out.csv --force", "survey"] {
        let figures = |source: &str| {
            let run = place.run(&format!(
                "{call} {source} --field email --also notes --person name --id member_no --json"
            ));
            let json: Value =
                serde_json::from_str(&run.stderr).or_else(|_| serde_json::from_str(&run.stdout)).unwrap();
            let _ = std::fs::remove_dir_all(place.path("members-cleaned"));
            let mut counts = json["counts"].clone();
            // Of blank lines and short rows there are none in objects.
            for key in ["blank_lines", "short_records"] {
                counts[key].take();
            }
            counts
        };
        assert_eq!(
            place.run(&format!("check members.csv --columns {fields} -q -o own.jsonl --force")).code,
            0
        );
        assert_eq!(figures("own.jsonl"), figures("members.csv"), "{call}");
    }
}

#[test]
fn every_command_writes_them() {
    let place = place();
    assert_eq!(place.run("clean m.jsonl --field contact.email --id id -o out -q").code, 0);
    let review = values_of(&place.read("out/duplicates.jsonl"), &["id", "yp_record", "yp_same_as"]);
    assert_eq!(review, [json!([8, 2, "7"])]);
    let run = place.run("dedupe m.jsonl --field contact.email --mark -q -o -");
    assert_eq!(
        values_of(&run.stdout, &["id", "yp_same_as", "yp_same_count"])[..2],
        [json!([7, null, 2]), json!([8, 1, 2])]
    );
    let run =
        place.run("dedupe m.jsonl --field contact.email --merge -q -o merged.jsonl --changes changes.jsonl");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let merged = place.read("merged.jsonl");
    let first = r#"{"id": 7, "name": "Ada Lovell", "contact": {"email": " Ada.Lovell@H-Works.org", "phone": null},"fee":"12.50"}"#;
    assert_eq!(merged.lines().next(), Some(first));
    let changes = objects(&place.read("changes.jsonl"));
    assert_eq!(changes, [json!({ "record": 1, "field": "fee", "value": "12.50", "from_record": 2 })]);
    let run = place.run(
        "split m.jsonl --field contact.email --parts local-part --columns id,yp_local_part --sort-by -id -q",
    );
    let parts = values_of(&run.stdout, &["id", "yp_local_part"]);
    assert_eq!(parts[..2], [json!([10, null]), json!([9, "bea"])]);
    let run = place.run("extract m.jsonl --row-per-address -q --columns id,yp_address");
    assert_eq!(run.stdout.lines().filter(|line| line.contains("\"id\":9,")).count(), 2, "{}", run.stdout);
    let run = place.run_with(
        "check - --from jsonl --field contact.email --show verdict=reject --columns yp_line,id -q",
        MEMBERS,
    );
    assert_eq!(run.stdout, "{\"yp_line\":5,\"id\":10}\n");
    let run =
        place.run("check m.jsonl --field contact.email --columns name,contact.email,yp_verdict --to csv -q");
    let first = "name,contact.email,yp_verdict\nAda Lovell, Ada.Lovell@H-Works.org,accept\n";
    assert!(
        run.stdout.starts_with(first) && run.stdout.contains("\"bea@h-works.org, cy@h-works.org\""),
        "{}",
        run.stdout
    );
}

#[test]
fn a_line_that_is_no_object_is_an_error() {
    let bad = [
        ("[1]\n", "line 1: this is not a JSON object; see byte 1 of it"),
        ("{\"a\":1}\n\n{\"a\":}\n", "line 3: this is not a JSON object; see byte 6 of it"),
        ("{\"a\":1} {\"a\":2}\n", "line 1: this is not a JSON object; see byte 9 of it"),
        ("{\"a\":\"\u{1}\"}\n", "line 1: this is not a JSON object; see byte 6 of it"),
    ];
    for (text, told) in bad {
        let place = Place::with(&[("bad.jsonl", text.as_bytes())]);
        let run = place.run("check bad.jsonl -o out.jsonl");
        assert_eq!(run.code, 2, "{}", run.stderr);
        assert!(run.stderr.contains(told), "{}", run.stderr);
        assert!(!place.path("out.jsonl").exists());
    }
}
