//! The figures of different commands about one list, and the rows they write, held against one another.

use std::collections::{BTreeMap, BTreeSet};

use serde_json::Value;

use crate::{Place, table};

/// A list of made-up members in which every kind of trouble comes again and again; the same for the same seed.
fn messy(seed: u64, records: usize) -> String {
    const CELLS: [&str; 24] = [
        "ada.lovell@h-works.org",
        "Ada.Lovell@H-Works.org",
        "night.owl+moon@gmail.com",
        "NightOwl@googlemail.com",
        "<bea@h-works.org>",
        "mailto:cleo@gmx.de?subject=dome",
        "\"\"\"Yarrow, Finn\"\" <finn@web.de>\"",
        "finn@web.de; gwen@h-works.org",
        "dara..b@h-works.org",
        "info@h-works.org",
        "none@none.com",
        "edda@gmial.com",
        "hugo@fernhollow.example",
        "ida@@h-works.org",
        "",
        " ",
        "ask the office",
        "jo@mailinator.com",
        "kim@h-works.org.",
        "josé@h-works.org",
        "lea%40h-works.org",
        "mo at h-works.org",
        "ned@h-works",
        "a@b.h-works.ac.uk",
    ];
    const NOTES: [&str; 5] = [
        "",
        "joined at the open night",
        "or write to ora@h-works.org",
        "telescope @ dome 2",
        "\"two\nlines\"",
    ];
    let mut state = seed;
    let mut next = move |most: usize| {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (state >> 33) as usize % most
    };
    let mut list = "nr,email,notes\n".to_owned();
    for nr in 1..=records {
        let cell = match next(3) {
            0 => format!("reader{}@{}.org", next(records), ["h-works", "obs-north", "gmail"][next(3)]),
            _ => CELLS[next(CELLS.len())].to_owned(),
        };
        list.push_str(&format!("{nr},{cell},{}\n", NOTES[next(NOTES.len())]));
        if next(40) == 0 {
            list.push('\n');
        }
    }
    list
}

fn counts<'v>(told: &'v Value, path: &str) -> &'v Value {
    let found = told.pointer(path);
    found.unwrap_or_else(|| panic!("{path} in {told:#}"))
}

fn sum(map: &Value) -> u64 {
    map.as_object().expect("counts").values().map(|count| count.as_u64().expect("a count")).sum()
}

#[test]
fn every_command_counts_the_same_and_rows_add_up() {
    for (seed, fields) in
        [(1, ""), (2, " --also notes"), (3, " --same exact"), (4, " --same everywhere --also notes")]
    {
        let list = messy(seed, 400);
        let place = Place::with(&[("list.csv", list.as_bytes())]);
        let run = |call: &str| -> Value {
            let run = place.run(&format!("{call} --field email{fields} --json"));
            assert_eq!(run.code, 0, "{call}: {}", run.stderr);
            serde_json::from_str(&run.stdout).expect("JSON")
        };
        let checked = run("check list.csv -o checked.csv");
        let cleaned = run("clean list.csv -o out");
        let deduped = run("dedupe list.csv");
        run("dedupe list.csv --mark -o marked.csv");
        run("dedupe list.csv -o unique.csv --dropped dropped.csv");

        // What the commands say of all records.
        for (name, one, other) in [
            ("records", counts(&checked, "/counts/records"), counts(&cleaned, "/counts/records")),
            ("records", counts(&checked, "/counts/records"), counts(&deduped, "/counts/records")),
            ("blank lines", counts(&checked, "/counts/blank_lines"), counts(&cleaned, "/counts/blank_lines")),
            ("blank lines", counts(&checked, "/counts/blank_lines"), counts(&deduped, "/counts/blank_lines")),
            (
                "no address",
                counts(&checked, "/counts/no_address"),
                counts(&cleaned, "/counts/outcomes/no-address"),
            ),
            ("no address", counts(&checked, "/counts/no_address"), counts(&deduped, "/counts/no_address")),
            (
                "rejected",
                counts(&checked, "/counts/verdicts/reject"),
                counts(&cleaned, "/counts/outcomes/rejected"),
            ),
            (
                "rejected",
                counts(&checked, "/counts/verdicts/reject"),
                counts(&deduped, "/counts/verdicts/reject"),
            ),
            (
                "for review",
                counts(&checked, "/counts/verdicts/review"),
                counts(&deduped, "/counts/verdicts/review"),
            ),
            ("repaired", counts(&checked, "/counts/forms/angle"), counts(&cleaned, "/counts/forms/angle")),
        ] {
            assert_eq!(one, other, "{name}, {fields}");
        }
        assert_eq!(counts(&checked, "/counts/records"), 400);
        assert_eq!(sum(counts(&cleaned, "/counts/outcomes")), 400);
        assert_eq!(
            sum(counts(&checked, "/counts/verdicts"))
                + counts(&checked, "/counts/no_address").as_u64().unwrap(),
            400
        );

        // Every record is in one file of `clean`, as `check` annotated it but for what depends on other records.
        let rows = table(&place.read("checked.csv"));
        let mut by_number: BTreeMap<u64, (String, BTreeMap<String, String>)> = BTreeMap::new();
        for (file, bytes) in
            place.tree("out").iter().filter(|(file, _)| file.extension().is_some_and(|e| e == "csv"))
        {
            let file = file.file_stem().unwrap().to_string_lossy().into_owned();
            let written = table(std::str::from_utf8(bytes).unwrap());
            let told = counts(&cleaned, "/outputs")
                .as_array()
                .unwrap()
                .iter()
                .find(|output| output["name"] == format!("{file}.csv"));
            assert_eq!(told.unwrap()["records"], written.len() as u64, "{file}");
            for row in written {
                let twice = by_number.insert(row["yp_record"].parse().unwrap(), (file.clone(), row));
                assert!(twice.is_none(), "record {} is in two files", twice.unwrap().1["yp_record"]);
            }
        }
        assert_eq!(by_number.keys().copied().collect::<Vec<_>>(), (1..=400).collect::<Vec<u64>>());
        let mut tallied: BTreeMap<&str, u64> = BTreeMap::new();
        for ((number, (file, cleaned)), checked) in by_number.iter().zip(&rows) {
            assert_eq!(cleaned["nr"], number.to_string());
            for column in [
                "nr",
                "email",
                "notes",
                "yp_address",
                "yp_repairs",
                "yp_form",
                "yp_class",
                "yp_key",
                "yp_suggestion",
                "yp_more",
            ] {
                assert_eq!(cleaned[column], checked[column], "record {number}: {column}");
            }
            let expected = match &*checked["yp_verdict"] {
                "" => "no-address",
                "reject" => "rejected",
                "review" => "review",
                _ => "kept",
            };
            assert!(file == expected || file == "duplicates", "record {number} is in {file}");
            for finding in checked["yp_findings"].split_whitespace() {
                *tallied.entry(finding).or_default() += 1;
            }
            if file == "duplicates" {
                let earlier: u64 = cleaned["yp_same_as"].parse().unwrap();
                assert!(
                    earlier < *number && by_number[&earlier].1["yp_key"] == cleaned["yp_key"],
                    "record {number}"
                );
                assert_ne!(by_number[&earlier].0, "duplicates", "a survivor was dropped itself");
            }
        }
        let told: BTreeMap<&str, u64> = counts(&checked, "/counts/findings")
            .as_object()
            .unwrap()
            .iter()
            .map(|(code, count)| (&**code, count.as_u64().unwrap()))
            .collect();
        assert_eq!(told, tallied, "findings told and written");

        // `dedupe`: marks, survivors and dropped records tell one story.
        let marked = table(&place.read("marked.csv"));
        let numbers = |file: &str| -> BTreeSet<String> {
            table(&place.read(file)).iter().map(|row| row["nr"].clone()).collect()
        };
        let (unique, dropped) = (numbers("unique.csv"), numbers("dropped.csv"));
        assert_eq!((marked.len(), unique.len() + dropped.len()), (400, 400));
        assert_eq!(deduped["counts"]["outcomes"]["duplicate"], dropped.len() as u64);
        for row in &marked {
            assert_eq!(row["yp_same_as"].is_empty(), unique.contains(&row["nr"]), "record {}", row["nr"]);
        }
        let usable = rows
            .iter()
            .filter(|row| matches!(&*row["yp_verdict"], "accept" | "review") && !row["yp_key"].is_empty());
        let keys: BTreeSet<&str> = usable.map(|row| &*row["yp_key"]).collect();
        assert_eq!(deduped["counts"]["mailboxes"], keys.len() as u64, "{fields}");
    }
}

/// What a selection sets aside is what a filter of all rows sets aside, with the reason; and nothing of it holds a mailbox.
#[test]
fn selections_set_aside_what_a_plain_filter_does() {
    let place = Place::with(&[("list.csv", messy(8, 300).as_bytes())]);
    assert_eq!(place.run("check list.csv --field email -o all.csv -q").code, 0);
    let all = table(&place.read("all.csv"));
    for (only, without) in [
        ("", "free"),
        ("", "free,role-account"),
        ("business", ""),
        ("free,isp", ""),
        ("free,business", "tagged"),
        ("typing-slip", ""),
        ("education", "education"),
    ] {
        let options: Vec<String> = [("--only", only), ("--without", without)]
            .iter()
            .filter(|(_, sorts)| !sorts.is_empty())
            .map(|(option, sorts)| format!("{option} {sorts}"))
            .collect();
        let options = options.join(" ");
        let run = place.run(&format!("clean list.csv --field email -o out --force -q {options}"));
        assert_eq!(run.code, 0, "{options}: {}", run.stderr);
        let is_of = |row: &BTreeMap<String, String>, sort: &str| {
            row["yp_class"] == sort || row["yp_findings"].split(' ').any(|finding| finding == sort)
        };
        let sorts = |words: &'static str| words.split(',').filter(|word| !word.is_empty());
        let expected: Vec<(String, String)> = all
            .iter()
            .filter(|row| matches!(&*row["yp_verdict"], "accept" | "review"))
            .filter_map(|row| {
                let unwanted =
                    sorts(without).find(|sort| is_of(row, sort)).map(|sort| format!("without {sort}"));
                let missed = !only.is_empty() && !sorts(only).any(|sort| is_of(row, sort));
                let reason = unwanted.or(missed.then(|| format!("only {}", only.replace(',', " "))));
                Some((row["nr"].clone(), reason?))
            })
            .collect();
        let told = |file: &str| match place.path(file).exists() {
            true => table(&place.read(file)),
            false => Vec::new(),
        };
        let set_aside: Vec<(String, String)> = told("out/set-aside.csv")
            .iter()
            .map(|row| (row["nr"].clone(), row["yp_set_aside"].clone()))
            .collect();
        assert_eq!(set_aside, expected, "{options}");
        assert!(!expected.is_empty(), "{options} sets nothing aside");
        let aside: BTreeSet<&str> = expected.iter().map(|(nr, _)| &**nr).collect();
        for row in told("out/duplicates.csv") {
            assert!(!aside.contains(&*row["yp_same_as"]), "{options}: lost to one that was set aside");
        }
    }
}

#[test]
fn a_receipt_can_be_held_against_the_files() {
    let list = messy(5, 120);
    let place = Place::with(&[("one.csv", list.as_bytes()), ("two.csv", messy(6, 30).as_bytes())]);
    assert_eq!(place.run("clean one.csv two.csv --field email -o out -q").code, 0);
    let receipt: Value = serde_json::from_str(&place.read("out/receipt.json")).unwrap();
    for source in receipt["sources"].as_array().unwrap() {
        let bytes = place.bytes(source["name"].as_str().unwrap());
        assert_eq!(source["bytes"], bytes.len() as u64);
        assert_eq!(source["blake3"], blake3::hash(&bytes).to_hex().as_str());
    }
    let mut records = 0;
    for output in receipt["outputs"].as_array().unwrap() {
        let rows = table(&place.read(&format!("out/{}", output["name"].as_str().unwrap())));
        assert_eq!(output["records"], rows.len() as u64, "{output}");
        records += rows.len();
    }
    assert_eq!((records, counts(&receipt, "/counts/records")), (150, &150.into()));
    // The rulebook in the receipt makes the same run again.
    std::fs::write(place.path("ypogram.toml"), toml::to_string(&receipt["rulebook"]).unwrap()).unwrap();
    assert_eq!(place.run("clean one.csv two.csv --field email -o again -q").code, 0);
    assert!(place.tree("out") == place.tree("again"));
}

/// What `--show` picks is what a filter of all rows picks.
#[test]
fn conditions_pick_what_a_plain_filter_picks() {
    type Row = BTreeMap<String, String>;
    type Picks = fn(&Row) -> bool;
    fn has(row: &Row, column: &str, word: &str) -> bool {
        row[column].split_whitespace().any(|found| found == word)
    }
    fn usable(row: &Row) -> bool {
        matches!(&*row["yp_verdict"], "accept" | "review")
    }
    fn domain(row: &Row) -> &str {
        row["yp_address"].rsplit_once('@').map_or("", |(_, domain)| domain)
    }
    let conditions: [(&str, Picks); 25] = [
        ("finding=free-provider", |row| has(row, "yp_findings", "free-provider")),
        ("finding=double-dot", |row| has(row, "yp_findings", "double-dot")),
        ("finding=tagged,class=free", |row| has(row, "yp_findings", "tagged") && row["yp_class"] == "free"),
        ("repair=mailto", |row| has(row, "yp_repairs", "mailto")),
        ("repair=local-part-case,repair=domain-case", |row| {
            has(row, "yp_repairs", "local-part-case") && has(row, "yp_repairs", "domain-case")
        }),
        ("verdict=review", |row| row["yp_verdict"] == "review"),
        ("verdict=reject", |row| row["yp_verdict"] == "reject"),
        ("verdict=none", |row| row["yp_verdict"].is_empty()),
        ("usable=as-it-stands", |row| usable(row) && row["yp_repairs"].is_empty()),
        ("usable=after-repair", |row| {
            usable(row) && !row["yp_repairs"].is_empty() && row["yp_field"] == "email"
        }),
        ("usable=from-text", |row| usable(row) && row["yp_field"] == "notes"),
        ("form=several", |row| row["yp_form"] == "several"),
        ("form=plain,class=business", |row| row["yp_form"] == "plain" && row["yp_class"] == "business"),
        ("operator=google", |row| row["yp_operator"] == "google"),
        ("domain=h-works.org", |row| usable(row) && domain(row) == "h-works.org"),
        ("local-part=info", |row| usable(row) && row["yp_address"].starts_with("info@")),
        ("field=notes,filled=yes", |row| !row["notes"].trim().is_empty()),
        ("field=notes,at-sign=yes", |row| row["notes"].contains('@')),
        ("field=email,value=ask␣the␣office", |row| row["email"] == "ask the office"),
        ("field=email,filled=no", |row| row["email"].trim().is_empty()),
        ("class!=free", |row| row["yp_class"] != "free"),
        ("address=no,field=notes,at-sign=yes", |row| !usable(row) && row["notes"].contains('@')),
        ("field=email,filled=yes,field=notes,at-sign=no", |row| {
            !row["email"].trim().is_empty() && !row["notes"].contains('@')
        }),
        ("address=yes,field!=email", |row| usable(row) && row["yp_field"] != "email"),
        ("list=works", |row| usable(row) && domain(row) == "h-works.org" || row["yp_lists"] == "works"),
    ];
    let place = Place::with(&[("list.csv", messy(7, 500).as_bytes())]);
    std::fs::write(place.path("works.txt"), "h-works.org\n").unwrap();
    let fields = "--field email --also notes --list works=works.txt,of=domains,severity=note";
    assert_eq!(place.run(&format!("check list.csv {fields} -o all.csv -q")).code, 0);
    let all = table(&place.read("all.csv"));
    for (condition, picks) in conditions {
        let run = place.run(&format!("check list.csv {fields} --show {condition} -o shown.csv --force -q"));
        assert_eq!(run.code, 0, "{condition}: {}", run.stderr);
        let shown: Vec<String> =
            table(&place.read("shown.csv")).iter().map(|row| row["nr"].clone()).collect();
        let expected: Vec<String> =
            all.iter().filter(|row| picks(row)).map(|row| row["nr"].clone()).collect();
        assert!(!expected.is_empty(), "{condition} picks nothing");
        assert_eq!(shown, expected, "{condition}");
    }
    for (condition, told) in [
        ("finding=dubble-dot", "double-dot"),
        ("colour=red", "the keys are finding"),
        ("free-provider", "write key=value"),
        ("list=wroks", "Your lists are: works"),
        ("verdict=maybe", "accept"),
        ("field=nots,filled=yes", "notes"),
    ] {
        let run = place.run(&format!("check list.csv {fields} --show {condition}"));
        assert_eq!((run.code, run.stderr.contains(told)), (2, true), "{condition}: {}", run.stderr);
    }
}

/// An address asked for alone gets the same findings as in a list, whatever it is held against.
#[test]
fn one_at_a_time_and_all_at_once_say_the_same() {
    let list: Vec<String> = table(&messy(9, 250)).into_iter().map(|row| row["email"].clone()).collect();
    let list: String =
        list.iter().filter(|cell| !cell.trim().is_empty()).map(|cell| format!("{cell}\n")).collect();
    let place = Place::with(&[("list.txt", list.as_bytes())]);
    for options in ["", "--grammar html", "--grammar header", "--letter-case keep", "--same case"] {
        let run = place.run(&format!("check list.txt -o rows.csv --force -q {options}"));
        assert_eq!(run.code, 0, "{options}: {}", run.stderr);
        let rows = table(&place.read("rows.csv"));
        let each = place.run_with(&format!("check --each {options}"), list.clone());
        let answers: Vec<Value> = each
            .stdout
            .lines()
            .map(|line| serde_json::from_str(line).expect("one JSON line for each"))
            .collect();
        assert_eq!(answers.len(), rows.len(), "{options}");
        for (row, answer) in rows.iter().zip(&answers) {
            // Of several in one line the first that is accepted counts, else the first for review, else the first.
            let several = answer["addresses"].as_array();
            let answer = several.map_or(answer, |several| {
                let best = ["accept", "review", "reject"]
                    .iter()
                    .find_map(|verdict| several.iter().find(|one| one["verdict"] == *verdict));
                best.expect("one of them")
            });
            let words = |name: &str| -> String {
                let words = answer[name].as_array().expect("a list").iter();
                words
                    .map(|word| word["code"].as_str().or(word.as_str()).expect("a word"))
                    .collect::<Vec<_>>()
                    .join(" ")
            };
            let text = |value: &Value| value.as_str().unwrap_or_default().to_owned();
            let rule = if options == "--same case" { "case" } else { "provider" };
            let key = if row["yp_verdict"] == "reject" { String::new() } else { text(&answer["keys"][rule]) };
            for (column, said) in [
                ("yp_address", text(&answer["address"])),
                ("yp_verdict", text(&answer["verdict"])),
                ("yp_form", text(&answer["form"])),
                ("yp_class", text(&answer["class"])),
                ("yp_operator", text(&answer["operator"])),
                ("yp_findings", words("findings")),
                ("yp_repairs", words("repairs")),
                ("yp_suggestion", text(&answer["suggestion"]["address"])),
                ("yp_key", key),
            ] {
                let same = match column {
                    // In the order of the table there, in that of the address here.
                    "yp_findings" => {
                        row[column].split(' ').collect::<BTreeSet<_>>()
                            == said.split(' ').collect::<BTreeSet<_>>()
                    }
                    _ => row[column] == said,
                };
                assert!(same, "{options} {}: {column}: {} but {said}", row["line"], row[column]);
            }
        }
    }
}
