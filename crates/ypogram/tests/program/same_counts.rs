//! What is counted under one name is the same in every command: in JSON, of one list, with the same fields.

use std::collections::BTreeMap;

use serde_json::Value;

use crate::Place;

/// Commands that count the records of a list.
const COMMANDS: [(&str, &str); 7] = [
    ("survey", "survey LIST"),
    ("check", "check LIST -o checked.csv --force"),
    ("clean", "clean LIST -o cleaned --force"),
    ("split", "split LIST -o parts.csv --force"),
    ("dedupe", "dedupe LIST --shared review"),
    ("links", "links LIST"),
    ("domains", "domains LIST -o domains.csv --force"),
];

/// Names that say in which command they are counted: where a record ends is for its command to say, and what is written too.
const OF_THE_COMMAND: [&str; 2] = ["/outcomes", "/written"];

/// The counts of `value` by their paths.
fn leaves(value: &Value, path: &str, into: &mut BTreeMap<String, u64>) {
    match value {
        Value::Object(members) => {
            members.iter().for_each(|(name, value)| leaves(value, &format!("{path}/{name}"), into));
        }
        Value::Number(count) => drop(into.insert(path.to_owned(), count.as_u64().unwrap())),
        _ => {}
    }
}

/// Runs every command on `list`; gives by how many commands the names are that several have.
fn agree(place: &Place, list: &str) -> BTreeMap<String, usize> {
    let mut met: BTreeMap<String, Vec<(&str, u64)>> = BTreeMap::new();
    for (command, call) in COMMANDS {
        let run = place.run(&format!("{} --json", call.replace("LIST", list)));
        assert!(matches!(run.code, 0 | 1), "{command} {list}: {}", run.stderr);
        let report: Value =
            serde_json::from_str(&run.stdout).unwrap_or_else(|_| panic!("{command}: {}", run.stdout));
        let mut counts = BTreeMap::new();
        leaves(&report["counts"], "", &mut counts);
        for (path, count) in counts {
            met.entry(path).or_default().push((command, count));
        }
    }
    met.retain(|path, counts| counts.len() > 1 && !OF_THE_COMMAND.iter().any(|own| path.starts_with(own)));
    for (path, counts) in &met {
        let differ = counts.iter().any(|(_, count)| *count != counts[0].1);
        assert!(!differ, "{list}: {path} is {counts:?}");
    }
    met.into_iter().map(|(path, counts)| (path, counts.len())).collect()
}

#[test]
fn on_the_lists_of_the_demo() {
    let place = Place::with_demo();
    for list in [
        "members.csv --field email",
        "members.csv --field email --also notes",
        "members.csv --field email --no-rules",
        "members.csv --field email --same exact",
        "loans.csv",
        "loans.csv open-nights.csv",
        "sign-up-sheet.txt",
        "volunteers.vcf",
        "equipment.xlsx",
        "roster.csv",
    ] {
        let common = agree(&place, list);
        for name in
            ["/records", "/blank_lines", "/no_address", "/usable/total", "/verdicts/reject", "/mailboxes"]
        {
            assert!(common.get(name).is_some_and(|commands| *commands > 2), "{list}: {name} {common:?}");
        }
    }
}

/// What cells are put together from.
const CELLS: [&str; 16] = [
    "ada@h-works.org",
    "ADA@h-works.org",
    "ada+news@gmail.com",
    "a.d.a@gmail.com",
    "<bea@web.de>",
    "mailto:cleo@h-works.org",
    "Dara <dara@gmial.com>",
    "edda@@h-works.org",
    "finn@h-works",
    "nobody",
    "n/a",
    "",
    " ",
    "info@h-works.org; zoe@h-works.org",
    "josé@h-works.org",
    "noreply@mailinator.com",
];

/// Lists that nobody made up beforehand: the same number is the same list.
#[test]
fn on_random_lists() {
    let mut seed = 42_u64;
    let mut below = |most: usize| {
        seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (seed >> 33) as usize % most
    };
    for list in 0..12 {
        let mut text = String::from("nr,email,name,note\n");
        for nr in 0..below(60) {
            let (email, note) = (CELLS[below(CELLS.len())], CELLS[below(CELLS.len())]);
            let name = ["Ada Byron", "Bea Quill", ""][below(3)];
            text.push_str(&format!("{nr},\"{email}\",{name},\"see {note}\"\n"));
            if below(9) == 0 {
                text.push('\n');
            }
        }
        let place = Place::with(&[("list.csv", text.as_bytes())]);
        for options in ["--field email", "--field email --also note", "--field email --same everywhere"] {
            let common = agree(&place, &format!("list.csv {options} --no-rules"));
            assert!(common.len() > 5, "{list} {options}: {common:?}");
        }
    }
}

/// Distinct ones are counted exactly up to a size, and the names of those that are estimates are listed beyond it.
#[test]
fn estimates_are_named() {
    let rows: String = (0..70_000).map(|nr| format!("a{nr}@d{nr}.org\n")).collect();
    let place = Place::with(&[
        ("many.csv", format!("email\n{rows}").as_bytes()),
        ("few.csv", b"email\nada@h-works.org\n"),
    ]);
    for (call, estimated) in [
        ("extract many.csv -o all.csv --force", &["mailboxes", "usable_domains"][..]),
        ("extract many.csv --unique -o all.csv --force", &["usable_domains"]),
        ("extract few.csv -o all.csv --force", &[]),
        ("survey many.csv", &["usable_domains"]),
        ("survey few.csv", &[]),
    ] {
        let run = place.run(&format!("{call} --json"));
        let counts = serde_json::from_str::<Value>(&run.stdout).unwrap()["counts"].clone();
        let named: Vec<&str> =
            counts["estimated"].as_array().into_iter().flatten().filter_map(Value::as_str).collect();
        assert_eq!(named, estimated, "{call}");
        for name in ["mailboxes", "usable_domains"].iter().filter(|_| call.contains("many")) {
            let count = counts[*name].as_u64().unwrap();
            let most = if named.contains(name) { 1400 } else { 0 };
            assert!(count.abs_diff(70_000) <= most, "{call}: {count} {name}");
        }
    }
}
