//! The schemas of `docs/schemas`: what the program prints fits them, and they have no name that it does not print.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use serde_json::Value;

use crate::Place;

/// Calls in the order in which they run in one folder, each with the schema of what it prints; without one where a later call needs what it
/// writes.
const CALLS: &[(&str, &str)] = &[
    ("survey", "survey members.csv --also notes --json"),
    ("survey", "survey loans.csv open-nights.csv --where verdict=accept --json"),
    ("survey", "survey loans.csv --rules loans.toml --json"),
    ("survey", "survey loans.csv --pattern loan --json"),
    ("survey", "survey equipment.xlsx --save equipment.json --json"),
    ("survey-against", "survey members.csv --against equipment.json --json"),
    ("check", "check members.csv --also notes -o checked.csv --json"),
    ("check", "check members.csv loans.csv -o checked-both.csv --json"),
    ("check", "check roster.csv --house 'given \".\" family \"@fernhollow.example\"' -o housed.csv --json"),
    ("check", "check loans.csv --rules loans.toml -o loans-checked.csv --json"),
    ("check", "check loans.csv --field loan --pattern loan -o patterned.csv --json"),
    ("check", "check members.csv --dns-snapshot dns.csv -o dnsed.csv --json"),
    ("check-each", "check --each"),
    ("check-each", "check --each --pattern loan"),
    ("check-each", "check --each --house 'given \".\" family \"@fernhollow.example\"'"),
    ("explain", "explain 'Ada <ada@gmial.com>' 'a@@b' nothing mailto:x@y.example --json"),
    ("explain", "explain ada@fernhollow.example --house 'given \".\" family \"@fernhollow.example\"' --json"),
    ("explain", "explain OBS/0047/a --pattern loan --json"),
    (
        "explain",
        "explain ada.b@fernhollow.example 'Bea <bea@gmail.com> treasurer' --house 'given \".\" family \"@fernhollow.example\"' --given Ada --family Byron --dns-snapshot dns.csv --json",
    ),
    ("split", "split members.csv --parts local-part,first-name,tag --row-per-address -o parts.csv --json"),
    ("split", "split loans.csv --cut 'loan by loan: number as no' -o cut.csv --json"),
    ("extract", "extract members.csv sign-up-sheet.txt volunteers.vcf --json -o found.csv"),
    ("extract", "extract . --json -o all.csv"),
    ("extract", "extract loans.csv --pattern loan --json -o matches.csv"),
    ("extract-row-per-address", "extract members.csv --row-per-address --json -o rows.csv"),
    ("extract-line", "extract members.csv --to jsonl --context 10 --id member_no"),
    ("extract-line", "extract members.csv --to jsonl --unique"),
    ("clean", "clean members.csv --field email --also notes --json -o out"),
    ("clean", "clean members.csv --field email --merge --json -o merged"),
    ("clean", "clean members.csv --field email --also notes --since out --without free --json -o again"),
    ("settle", "settle out --take sure --json"),
    ("check", "check members.csv --without free -o after.csv --json"),
    ("check-each", "check --each --from jsonl --field email"),
    ("dedupe", "dedupe members.csv --json"),
    ("dedupe", "dedupe members.csv loans.csv --groups groups.csv --near twins.csv --json"),
    ("dedupe", "dedupe members.csv --id member_no --json"),
    ("dedupe", "dedupe members.csv --near near-twins.csv --id member_no --json"),
    ("dedupe", "dedupe members.csv --merge --survivor newest:joined -o unique.csv --json"),
    (
        "compare",
        "compare loans.csv --with members.csv --known-field email --withdrawn withdrawn.txt -o compared --json",
    ),
    ("compare", "compare open-nights.csv --with members.csv --known-field email --changed name --json"),
    ("compare", "compare open-nights.csv --with members.csv --known-field email --near near.csv --json"),
    ("bounces", "bounces returned.mbox --json"),
    ("domains", "domains members.csv --json"),
    ("domains", "domains members.csv --dns-snapshot dns.csv --json"),
    ("domains", "domains members.csv --date joined --json"),
    ("links", "links members.csv --by phone --json"),
    ("links", "links members.csv --behind quarryfarm.example --json"),
    ("redact", "redact members.csv --as mask -o masked.csv --json"),
    ("redact-search", "redact search masked.csv members.csv --json"),
    ("", "register new r.db"),
    ("register-add", "register add r.db loans.csv --json"),
    ("register-add", "register add r.db members.csv --admissible-only --json"),
    ("register-look", "register look r.db ada@gmail.com c.ashgrove@marshmill.example --json"),
    ("register-stats", "register stats r.db --json"),
    ("register-verify", "register verify r.db --json"),
    ("rules", "rules --json"),
    ("rules", "rules free-provider --json"),
    ("rules-check", "rules check ypogram.toml --json"),
    ("rules-try", "rules try --pattern loan OBS/0047/a ada@gmail.com --json"),
    (
        "rules-try-house",
        "rules try --house 'given \".\" family \"@fernhollow.example\"' --given Ada --family Byron ada.byron@fernhollow.example x@y.example --json",
    ),
    ("rules-patterns", "rules patterns --json"),
    ("rules-learn-house", "rules learn-house roster.csv --json"),
    ("rules-export", "rules export --for html -o x.html --json"),
    ("rules-export", "rules export --for xlsx -o x.xlsx --test-values v.csv --json"),
    ("lists", "lists --json"),
    ("lists-show", "lists show partners --json"),
    ("lists-test", "lists test ada@mailinator.com x@nothing.example ada@lensworks.example --json"),
    ("", "check members.csv -o app.sqlite -q"),
    ("register-guard", "register guard app.sqlite#app.email --json"),
    ("lists-check", "lists check partners --json"),
    ("lists-check", "lists check bad.txt --of domains --class free --json"),
    ("lists-check-decisions", "lists check decisions --json"),
    ("lists-edit", "lists add withdrawn zoe@gmail.com --json"),
    ("lists-edit", "lists add withdrawn zoe@gmail.com nothing --json"),
    ("run", "run monthly --force --json"),
];

/// Names that none of these calls prints: they need very many records, a table on a server, or a list, register or input at fault.
const NOT_PRINTED: &[&str] = &[
    "counts/estimated",
    "counts/filled",
    "counts/shared_mailbox_decided",
    "differ/entry",
    "differ/line",
    "idle/as_found",
    "idle/line",
    "idle/why",
    "other_keys/address",
    "other_keys/key",
    "other_keys/key_today",
    "sources/broken_off",
];

/// What goes into `check --each`.
const VALUES: &[u8] = b"ada@gmail.com\na@@b\n\nx@y.example, z@y.example\nAda \xe9 <ada@gmail.com> (home)\n\
    {\"email\":\"stargazer.orrery@outlok.com\",\"form\":\"paper\"}\n";

/// A list with an entry of every kind that `lists check` reports.
const BAD_LIST: &[u8] = b"gmail.com\nGMAIL.com\na b\nlensworks.example\nmailinator.com\nlocalhost\n";

fn schema(name: &str) -> Value {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("../../docs/schemas/{name}.json"));
    let text = std::fs::read_to_string(&path).unwrap_or_else(|error| panic!("{}: {error}", path.display()));
    serde_json::from_str(&text).unwrap()
}

/// What a call has printed, document by document.
fn documents(text: &str) -> Vec<Value> {
    serde_json::Deserializer::from_str(text).into_iter().map(Result::unwrap).collect()
}

#[test]
fn what_the_program_prints_fits_its_schema() {
    let place = Place::with_demo();
    std::fs::write(place.path("bad.txt"), BAD_LIST).unwrap();
    let mut printed: BTreeMap<&str, Vec<Value>> = BTreeMap::new();
    for (name, call) in CALLS {
        let words = shlex::split(call).unwrap();
        let run = place.run_words(&words.iter().map(String::as_str).collect::<Vec<_>>(), VALUES);
        assert!(run.code < 2, "{call}: {}", run.stderr);
        if !name.is_empty() {
            printed.entry(name).or_default().extend(documents(&run.stdout));
        }
    }
    let receipts = ["out", "merged", "again"].map(|folder| place.read(&format!("{folder}/receipt.json")));
    printed.insert("receipt", receipts.iter().flat_map(|receipt| documents(receipt)).collect());
    let (mut in_schemas, mut seen) = (BTreeSet::new(), BTreeSet::new());
    for (name, documents) in &printed {
        let schema = schema(name);
        for document in documents {
            let mut faults = Vec::new();
            check(document, &schema, "", &mut faults);
            assert!(faults.is_empty(), "{name}: {faults:#?}");
        }
        names_of_schema(&schema, "", &mut in_schemas);
        documents.iter().for_each(|document| names_of(document, "", &mut seen));
    }
    // What is inside of one name is the same in every layout.
    let silent: Vec<&String> = in_schemas.difference(&seen).collect();
    assert_eq!(silent, NOT_PRINTED, "names in schemas that no call prints");
}

/// Holds a value against a schema, as far as the schemas here go: a keyword that is not known here is a fault as well.
fn check(value: &Value, schema: &Value, path: &str, faults: &mut Vec<String>) {
    for (keyword, wanted) in schema.as_object().unwrap() {
        let holds = match (&**keyword, value) {
            ("$schema" | "title" | "description", _) => true,
            ("type", _) => match wanted {
                Value::Array(types) => types.iter().any(|one| is_of_type(value, one)),
                one => is_of_type(value, one),
            },
            ("const", _) => value == wanted,
            ("enum", _) => wanted.as_array().unwrap().contains(value),
            ("minimum", Value::Number(number)) => number.as_u64() >= wanted.as_u64(),
            ("pattern", Value::String(text)) => {
                assert_eq!(wanted, "^[0-9a-f]{64}$");
                text.len() == 64 && text.bytes().all(|byte| matches!(byte, b'0'..=b'9' | b'a'..=b'f'))
            }
            ("required", Value::Object(members)) => {
                wanted.as_array().unwrap().iter().all(|name| members.contains_key(name.as_str().unwrap()))
            }
            ("minProperties", Value::Object(members)) => members.len() as u64 >= wanted.as_u64().unwrap(),
            ("anyOf", _) => wanted.as_array().unwrap().iter().any(|one| {
                let mut faults = Vec::new();
                check(value, one, path, &mut faults);
                faults.is_empty()
            }),
            ("properties", Value::Object(members)) => {
                for (name, value) in members {
                    if wanted[name].is_object() {
                        check(value, &wanted[name], &format!("{path}/{name}"), faults);
                    }
                }
                true
            }
            ("additionalProperties", Value::Object(members)) => {
                let known = &schema["properties"];
                for (name, value) in members.iter().filter(|(name, _)| known[name].is_null()) {
                    match wanted {
                        Value::Bool(true) => {}
                        Value::Bool(false) => faults.push(format!("{path}/{name} is not in the schema")),
                        each => check(value, each, &format!("{path}/{name}"), faults),
                    }
                }
                true
            }
            ("items", Value::Array(values)) => {
                values.iter().for_each(|value| check(value, wanted, path, faults));
                true
            }
            (
                "minimum"
                | "pattern"
                | "required"
                | "minProperties"
                | "properties"
                | "additionalProperties"
                | "items",
                _,
            ) => true,
            _ => false,
        };
        if !holds {
            faults.push(format!("{path}: {keyword} {wanted} does not hold for {value}"));
        }
    }
}

fn is_of_type(value: &Value, name: &Value) -> bool {
    match name.as_str().unwrap() {
        "null" => value.is_null(),
        "boolean" => value.is_boolean(),
        "integer" => value.is_i64() || value.is_u64(),
        "string" => value.is_string(),
        "array" => value.is_array(),
        "object" => value.is_object(),
        _ => false,
    }
}

/// The name that others are inside of: several have the same inside.
fn inside_of(name: &str) -> &str {
    match name {
        "known_sources" => "sources",
        "addresses" => "",
        name => name,
    }
}

/// All names in a schema, each behind the one that it is inside of; each of which says what it is.
fn names_of_schema(schema: &Value, path: &str, into: &mut BTreeSet<String>) {
    if let Some(properties) = schema["properties"].as_object() {
        for (name, property) in properties {
            let inside = format!("{path}/{name}");
            let what = property["description"].as_str().unwrap_or_default();
            assert!(what.ends_with('.'), "{inside} has no description");
            names_of_schema(property, inside_of(name), into);
            into.insert(inside);
        }
    }
    if schema["items"].is_object() {
        names_of_schema(&schema["items"], path, into);
    }
}

fn names_of(value: &Value, path: &str, into: &mut BTreeSet<String>) {
    match value {
        Value::Object(members) => members.iter().for_each(|(name, value)| {
            names_of(value, inside_of(name), into);
            into.insert(format!("{path}/{name}"));
        }),
        Value::Array(values) => values.iter().for_each(|value| names_of(value, path, into)),
        _ => {}
    }
}

/// Every summary begins with the same names, of the same types.
#[test]
fn all_summaries_begin_alike() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/schemas");
    let mut summaries = 0;
    for entry in std::fs::read_dir(folder).unwrap() {
        let name = entry.unwrap().file_name().into_string().unwrap();
        let name = name.trim_end_matches(".json");
        let schema = schema(name);
        let properties = &schema["properties"];
        if properties["layout"].is_null() || name == "survey-against" {
            continue;
        }
        summaries += 1;
        let required: BTreeSet<&str> =
            schema["required"].as_array().unwrap().iter().map(|name| name.as_str().unwrap()).collect();
        for needed in ["layout", "command", "sources", "counts"] {
            assert!(required.contains(needed), "{name} may lack {needed}");
        }
        assert_eq!(properties["sources"]["items"]["type"], "object", "{name}");
        for count in ["records", "mailboxes", "no_address", "written", "further_addresses"] {
            let property = &properties["counts"]["properties"][count];
            assert!(
                property.is_null() || property["type"] == "integer" || name == "run",
                "{name}: counts.{count}"
            );
        }
    }
    assert!(summaries > 20, "{summaries} summaries");
}
