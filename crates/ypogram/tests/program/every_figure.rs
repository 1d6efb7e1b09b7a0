//! Every figure of every summary and receipt, held against a plain count of the rows that were written, on random tables.

use std::collections::{BTreeMap, BTreeSet};

use serde_json::Value;

use crate::{Place, table};

type Row = BTreeMap<String, String>;
type Counts = BTreeMap<String, u64>;

/// A random list of made-up members: several addresses in a cell, mailboxes that persons share, blank lines, short rows.
fn list(seed: u64) -> String {
    const CELLS: [&str; 18] = [
        "ada.lovell@h-works.org",
        "Ada.Lovell@H-Works.org",
        "night.owl+moon@gmail.com",
        "nightowl@googlemail.com; bea@h-works.org",
        "<bea@h-works.org>",
        "mailto:cleo@gmx.de?subject=dome",
        "finn@web.de, gwen@h-works.org, ada.lovell@h-works.org",
        "dara..b@h-works.org",
        "info@h-works.org",
        "none@none.com",
        "edda@gmial.com",
        "asdf@asdf.com",
        "ida@@h-works.org",
        "",
        " ",
        "ask the office",
        "jo@mailinator.com",
        "Edda@gmial.com",
    ];
    const NOTES: [&str; 6] = [
        "",
        "since 2019",
        "or write to ora@h-works.org",
        "telescope @ dome 2",
        "do not mail",
        "hal@gmx.de and ivy@gmx.de",
    ];
    const NAMES: [&str; 4] = ["Ada Lovell", "Bea Ash", "", "LOVELL, Ada"];
    let mut state = seed;
    let mut next = move |most: usize| {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (state >> 33) as usize % most
    };
    let mut list = "nr,email,notes,name\n".to_owned();
    for nr in 1..=60 + next(200) {
        let cell = CELLS[next(CELLS.len())];
        match next(12) {
            0 => list.push_str(&format!("{nr},\"{cell}\"\n")),
            1 => list.push_str(&format!("\n{nr},\"{cell}\",,\n")),
            _ => {
                let (notes, name) = (NOTES[next(NOTES.len())], NAMES[next(NAMES.len())]);
                list.push_str(&format!("{nr},\"{cell}\",{notes},\"{name}\"\n"));
            }
        }
    }
    list
}

/// What a block of a summary counts: its title and a word, with the number behind that.
fn blocks(text: &str) -> BTreeMap<String, Counts> {
    let mut blocks: BTreeMap<String, Counts> = BTreeMap::new();
    let mut title = String::new();
    for line in text.lines() {
        match line.strip_prefix("  ") {
            None => title = line.split(" (").next().unwrap_or_default().to_owned(),
            Some(line) => {
                let mut cells = line.split("  ").map(str::trim).filter(|cell| !cell.is_empty());
                if let (Some(word), Some(count)) = (cells.next(), cells.next())
                    && let Ok(count) = count.replace(',', "").parse()
                {
                    blocks.entry(title.clone()).or_default().insert(word.to_owned(), count);
                }
            }
        }
    }
    blocks
}

fn tally<'r>(words: impl IntoIterator<Item = &'r str>) -> Counts {
    let mut counts = Counts::new();
    for word in words.into_iter().filter(|word| !word.is_empty()) {
        *counts.entry(word.to_owned()).or_default() += 1;
    }
    counts
}

fn words<'r>(row: &'r Row, column: &str) -> Vec<&'r str> {
    row[column].split_whitespace().collect()
}

fn is_usable(row: &Row) -> bool {
    matches!(&*row["yp_verdict"], "accept" | "review")
}

fn counted(rows: &[&Row], is: impl Fn(&Row) -> bool) -> u64 {
    rows.iter().filter(|row| is(row)).count() as u64
}

/// The block of usable records.
fn usable(rows: &[&Row], with_text: bool) -> Counts {
    let of_address_field = |row: &Row| is_usable(row) && row["yp_field"] == "email";
    let mut counts = Counts::new();
    counts.insert(
        "as it stood".into(),
        counted(rows, |row| of_address_field(row) && row["yp_repairs"].is_empty()),
    );
    counts.insert(
        "after repair".into(),
        counted(rows, |row| of_address_field(row) && !row["yp_repairs"].is_empty()),
    );
    if with_text {
        counts.insert(
            "from text fields".into(),
            counted(rows, |row| is_usable(row) && row["yp_field"] == "notes"),
        );
    }
    counts.insert("in all".into(), counted(rows, is_usable));
    counts
}

/// The records by what decides about them: the first of their findings that has that severity.
fn by_first_reason(rows: &[&Row], severities: &BTreeMap<String, String>, severity: &str) -> Counts {
    tally(
        rows.iter().filter_map(|row| {
            words(row, "yp_findings").into_iter().find(|code| severities[*code] == severity)
        }),
    )
}

fn json_counts(value: &Value) -> Counts {
    let map = value.as_object().expect("counts").iter();
    map.map(|(name, count)| (name.clone(), count.as_u64().expect("a count")))
        .filter(|(_, count)| *count > 0)
        .collect()
}

fn severities(place: &Place) -> BTreeMap<String, String> {
    let rules: Value = serde_json::from_str(&place.run("rules --json").stdout).unwrap();
    let rules = rules.as_array().unwrap().iter();
    rules
        .map(|rule| {
            (rule["code"].as_str().unwrap().to_owned(), rule["severity"].as_str().unwrap().to_owned())
        })
        .collect()
}

#[test]
fn check_and_survey_count_what_check_writes() {
    for seed in 0..6 {
        let list = list(seed);
        let place = Place::with(&[("list.csv", list.as_bytes())]);
        let fields = if seed % 2 == 0 { "--field email" } else { "--field email --also notes" };
        let run = place.run(&format!("check list.csv {fields} --full -o checked.csv"));
        assert_eq!(run.code, 0, "{}", run.stderr);
        let written = table(&place.read("checked.csv"));
        let rows: Vec<&Row> = written.iter().collect();
        let of = |verdict: &str| counted(&rows, |row| row["yp_verdict"] == verdict);
        let answer = format!(
            "{} accepted · {} review · {} rejected · {} no-address — {} records",
            of("accept"),
            of("review"),
            of("reject"),
            of(""),
            rows.len()
        );
        let surveyed = place.run(&format!("survey list.csv {fields} --full"));
        assert_eq!(run.stdout.lines().next(), Some(&*answer), "{seed}");
        assert_eq!(surveyed.stdout.lines().next(), Some(&*answer), "{seed}");
        let (told, surveyed) = (blocks(&run.stdout), blocks(&surveyed.stdout));
        let usable = usable(&rows, fields.contains("--also"));
        assert_eq!((&told["Usable"], &surveyed["Usable"]), (&usable, &usable), "{seed}");
        let severities = severities(&place);
        for (title, severity) in
            [("What rejects", "reject"), ("What asks for a decision", "review"), ("Noted", "note")]
        {
            let findings = rows.iter().flat_map(|row| words(row, "yp_findings"));
            let expected = tally(findings.filter(|code| severities[*code] == severity));
            let of = |told: &BTreeMap<String, Counts>| told.get(title).cloned().unwrap_or_default();
            assert_eq!((of(&told), of(&surveyed)), (expected.clone(), expected), "{seed}: {title}");
        }
        let with_address: Vec<&Row> =
            rows.iter().copied().filter(|row| !row["yp_verdict"].is_empty()).collect();
        let usable_rows: Vec<&Row> = rows.iter().copied().filter(|row| is_usable(row)).collect();
        let forms = tally(with_address.iter().map(|row| &*row["yp_form"]));
        let classes = tally(usable_rows.iter().map(|row| &*row["yp_class"]));
        assert_eq!((&surveyed["Forms"], &surveyed["Classes"]), (&forms, &classes), "{seed}");
        let keys = tally(usable_rows.iter().map(|row| &*row["yp_key"]));
        let shared: u64 = keys.values().filter(|count| **count > 1).sum();
        let mailboxes = &surveyed["Mailboxes"];
        assert_eq!(mailboxes["mailboxes"], keys.len() as u64, "{seed}");
        assert_eq!(mailboxes.get("records that share one").copied().unwrap_or_default(), shared, "{seed}");
        for field in ["nr", "email", "notes", "name"] {
            let filled = counted(&rows, |row| !row[field].trim().is_empty());
            assert_eq!(surveyed["Fields"][field], filled, "{seed}: {field}");
        }
        // The same for programs, and one at a time.
        let json: Value =
            serde_json::from_str(&place.run(&format!("check list.csv {fields} --json -o again.csv")).stdout)
                .unwrap();
        let counts = &json["counts"];
        assert_eq!(
            (&json_counts(&counts["forms"]), &json_counts(&counts["classes"])),
            (&forms, &classes),
            "{seed}"
        );
        let findings = tally(rows.iter().flat_map(|row| words(row, "yp_findings")));
        assert_eq!(json_counts(&counts["findings"]), findings, "{seed}");
        let blank = list.lines().filter(|line| line.is_empty()).count() as u64;
        assert_eq!(counts["blank_lines"], blank, "{seed}");
        let further: usize = usable_rows
            .iter()
            .map(|row| row["yp_more"].split(',').filter(|more| !more.is_empty()).count())
            .sum();
        let one = findings.iter().next().map_or(("records".into(), rows.len() as u64), |(code, count)| {
            (format!("finding.{code}"), *count)
        });
        for (name, expected) in
            [("blank-lines".to_owned(), blank), ("further-addresses".into(), further as u64), one]
        {
            let run = place.run(&format!("check list.csv {fields} --figure {name}"));
            assert_eq!((run.stdout, run.stderr), (format!("{expected}\n"), String::new()), "{seed}: {name}");
        }
    }
}

#[test]
fn clean_counts_what_it_writes() {
    for seed in 10..22 {
        let place = Place::with(&[("list.csv", list(seed).as_bytes())]);
        let options = [
            "",
            "--also notes",
            "--also notes --row-per-address",
            "--also notes --shared keep --memory 1K",
            "--also notes --without free --row-per-address --shared keep",
            "--without free,typing-slip --shared drop",
        ][(seed % 6) as usize];
        let run = place.run(&format!("clean list.csv --field email {options} --full -o out"));
        assert_eq!(run.code, 0, "{}", run.stderr);
        let mut files: BTreeMap<&str, Vec<Row>> = BTreeMap::new();
        for outcome in ["kept", "review", "rejected", "duplicate", "no-address", "set-aside"] {
            let file = format!("out/{}.csv", if outcome == "duplicate" { "duplicates" } else { outcome });
            let written = if place.path(&file).exists() { table(&place.read(&file)) } else { Vec::new() };
            files.insert(outcome, written);
        }
        let rows: Vec<&Row> = files.values().flatten().collect();
        let of = |outcome: &str| files[outcome].len() as u64;
        let records: BTreeSet<&str> = rows.iter().map(|row| &*row["yp_record"]).collect();
        let added = rows.len() - records.len();
        let mut answer = format!(
            "{} kept · {} review · {} rejected · {} duplicate · {} no-address · {} set aside — {} records",
            of("kept"),
            of("review"),
            of("rejected"),
            of("duplicate"),
            of("no-address"),
            of("set-aside"),
            records.len()
        );
        if added > 0 {
            answer.push_str(&format!(" + {added} further address{}", if added == 1 { "" } else { "es" }));
        }
        assert_eq!(run.stdout.lines().next(), Some(&*answer), "{seed} {options}");
        let told = blocks(&run.stdout);
        assert_eq!(told["Usable"], usable(&rows, options.contains("--also")), "{seed} {options}");
        let title = if added == 0 { "Every record is in one place" } else { "Every row is in one place" };
        for (outcome, count) in &told[title] {
            assert_eq!(*count, of(outcome), "{seed} {options}: {outcome}");
        }
        let severities = severities(&place);
        let block = |title: &str| told.get(title).cloned().unwrap_or_default();
        let of_file = |outcome: &str| files[outcome].iter().collect::<Vec<_>>();
        let rejected = by_first_reason(&of_file("rejected"), &severities, "reject");
        let review = by_first_reason(&of_file("review"), &severities, "review");
        assert_eq!(
            (block("Rejected"), block("Review")),
            (rejected.clone(), review.clone()),
            "{seed} {options}"
        );
        let handed_over = files["kept"].iter().chain(&files["review"]);
        let mut classes = tally(handed_over.map(|row| &*row["yp_class"]));
        classes.entry("free".into()).or_default();
        assert_eq!(block("Classes"), classes, "{seed} {options}");
        let repairs = rows.iter().filter(|row| is_usable(row)).flat_map(|row| words(row, "yp_repairs"));
        assert_eq!(block("Repaired"), tally(repairs), "{seed} {options}");

        let receipt: Value = serde_json::from_str(&place.read("out/receipt.json")).unwrap();
        let counts = &receipt["counts"];
        assert_eq!(
            (counts["records"].as_u64(), counts["rows_added"].as_u64()),
            (Some(records.len() as u64), Some(added as u64))
        );
        assert_eq!(
            (json_counts(&counts["rejected"]), json_counts(&counts["review"])),
            (rejected, review),
            "{seed} {options}"
        );
        let findings = tally(rows.iter().flat_map(|row| words(row, "yp_findings")));
        assert_eq!(json_counts(&counts["findings"]), findings, "{seed} {options}");
        let handed: Vec<&Row> =
            ["kept", "review", "duplicate"].iter().flat_map(|outcome| &files[*outcome]).collect();
        let mailboxes = tally(handed.iter().map(|row| &*row["yp_key"])).len() as u64;
        assert_eq!(counts["mailboxes"], mailboxes, "{seed} {options}");
        let by_reason = tally(files["set-aside"].iter().map(|row| &*row["yp_set_aside"]));
        assert_eq!(
            json_counts(counts.get("set_aside").unwrap_or(&serde_json::json!({}))),
            by_reason,
            "{seed} {options}"
        );
        if options.contains("--row-per-address") {
            continue;
        }
        // Further addresses that are in no kept record, neither as its address nor beside it.
        let mailbox = |address: &str| place_key(&place, address);
        let more = |row: &Row| -> Vec<String> {
            row["yp_more"].split(',').filter(|more| !more.is_empty()).map(mailbox).collect()
        };
        let kept: BTreeSet<String> = files["kept"]
            .iter()
            .flat_map(|row| more(row).into_iter().chain([row["yp_key"].clone()]))
            .collect();
        let others = files.iter().filter(|(outcome, _)| **outcome != "kept").flat_map(|(_, rows)| rows);
        let others: BTreeSet<String> = others.flat_map(more).collect();
        assert_eq!(
            counts["further_addresses_in_no_kept_record"],
            others.difference(&kept).count() as u64,
            "{seed} {options}"
        );
    }
}

/// The mailbox of an address, asked for alone.
fn place_key(place: &Place, address: &str) -> String {
    let explained: Value =
        serde_json::from_str(&place.run(&format!("explain {address} --json")).stdout).unwrap();
    explained[0]["keys"]["provider"].as_str().unwrap_or_default().to_owned()
}

#[test]
fn dedupe_counts_what_it_writes() {
    for seed in 30..39 {
        let place = Place::with(&[("list.csv", list(seed).as_bytes())]);
        let shared = ["keep", "review", "drop"][(seed % 3) as usize];
        let options = format!("--field email --also notes --shared {shared}");
        let run = place.run(&format!(
            "dedupe list.csv {options} -o unique.csv --dropped dropped.csv --no-address none.csv --report boxes.csv --full"
        ));
        assert_eq!(run.code, 0, "{}", run.stderr);
        let rows = |file: &str| if place.path(file).exists() { table(&place.read(file)) } else { Vec::new() };
        let (kept, dropped) = (rows("unique.csv"), rows("dropped.csv"));
        let (review, none) = (rows("unique-review.csv"), rows("none.csv"));
        let records = kept.len() + dropped.len() + review.len() + none.len();
        let reviewed =
            if shared == "review" { format!(" · {} review", review.len()) } else { String::new() };
        let answer = format!(
            "{} kept{reviewed} · {} duplicate · {} no-address — {records} records; ",
            kept.len(),
            dropped.len(),
            none.len()
        );
        assert!(run.stdout.starts_with(&answer), "{seed} {shared}: {answer}: {}", run.stdout);
        // Who shares a mailbox with another person, by names in any order and letter case.
        assert_eq!(place.run(&format!("dedupe list.csv {options} --mark -o marked.csv -q")).code, 0);
        let person = |row: &Row| -> BTreeSet<String> {
            row["name"]
                .to_lowercase()
                .split(|c: char| !c.is_alphanumeric())
                .filter(|word| !word.is_empty())
                .map(str::to_owned)
                .collect()
        };
        let marked = rows("marked.csv");
        let mut first: BTreeMap<&str, BTreeSet<String>> = BTreeMap::new();
        let mut sharing = 0;
        for row in marked.iter().filter(|row| !row["yp_key"].is_empty()) {
            let own = person(row);
            let earlier = first.entry(&row["yp_key"]).or_insert_with(|| own.clone());
            sharing += usize::from(!own.is_empty() && !earlier.is_empty() && own != *earlier);
        }
        let json: Value =
            serde_json::from_str(&place.run(&format!("dedupe list.csv {options} --json")).stdout).unwrap();
        assert!(
            run.stdout.lines().next().unwrap().contains(&format!("; {sharing} share")),
            "{seed} {shared}: {sharing}: {}",
            run.stdout
        );
        assert_eq!(json["counts"]["shared_mailbox"], sharing, "{seed} {shared}");
        // Each mailbox once, the most frequent first.
        let keys = tally(marked.iter().map(|row| &*row["yp_key"]));
        let boxes = rows("boxes.csv");
        let listed: Vec<u64> = boxes.iter().map(|row| row["count"].parse().unwrap()).collect();
        assert!(listed.is_sorted_by(|one, next| one >= next), "{seed}: {listed:?}");
        let mut expected: Vec<u64> = keys.values().copied().collect();
        expected.sort_unstable_by(|one, other| other.cmp(one));
        assert_eq!(
            (listed, json["counts"]["mailboxes"].as_u64()),
            (expected, Some(keys.len() as u64)),
            "{seed} {shared}"
        );
        let often = place.run(&format!("dedupe list.csv {options} --report - --at-least 3 -q")).stdout;
        assert_eq!(table(&often).len(), keys.values().filter(|count| **count >= 3).count(), "{seed}");
        let figure = place.run(&format!("dedupe list.csv {options} --figure mailboxes"));
        assert_eq!((figure.stdout, figure.stderr), (format!("{}\n", keys.len()), String::new()));
    }
}

#[test]
fn extract_and_split_count_what_they_write() {
    for seed in 40..44 {
        let list = list(seed);
        let place = Place::with(&[("list.csv", list.as_bytes())]);
        let run = place.run("extract list.csv -o found.csv --full");
        assert_eq!(run.code, 0, "{}", run.stderr);
        let written = table(&place.read("found.csv"));
        let verdicts = tally(written.iter().map(|row| &*row["verdict"]));
        let of = |verdict: &str| verdicts.get(verdict).copied().unwrap_or_default();
        let answer = format!(
            "{} accepted · {} review · {} rejected — {} addresses",
            of("accept"),
            of("review"),
            of("reject"),
            written.len()
        );
        assert_eq!(run.stdout.lines().next(), Some(&*answer), "{seed}");
        let told = blocks(&run.stdout);
        let usable = written.iter().filter(|row| row["verdict"] != "reject");
        let domain = |row: &Row| row["address"].rsplit_once('@').unwrap().1.to_owned();
        let domains: BTreeSet<String> = usable.clone().map(domain).collect();
        let keys: BTreeSet<String> = usable.map(|row| row["address"].clone()).collect();
        let mailboxes: BTreeSet<String> = keys.iter().map(|address| place_key(&place, address)).collect();
        let expected =
            [("addresses", written.len()), ("mailboxes", mailboxes.len()), ("domains", domains.len())];
        let expected: Counts = expected.map(|(word, count)| (word.to_owned(), count as u64)).into();
        assert_eq!(told["Found"], expected, "{seed}");
        assert_eq!(told["Forms"], tally(written.iter().map(|row| &*row["form"])), "{seed}");
        let skipped = table(&place.run("extract list.csv --show-skipped -q").stdout);
        assert_eq!(told["Passed over"], tally(skipped.iter().map(|row| &*row["reason"])), "{seed}");
        let blank = list.lines().filter(|line| line.is_empty()).count();
        assert_eq!(place.run("extract list.csv --figure blank-lines").stdout, format!("{blank}\n"), "{seed}");

        // A row for each address, and the figures of `check`.
        let checked = place.run("check list.csv --field email --also notes --full -o checked.csv");
        let run =
            place.run("split list.csv --field email --also notes --row-per-address --full -o split.csv");
        assert_eq!(run.stdout.lines().next(), checked.stdout.lines().next(), "{seed}");
        let (records, rows) = (table(&place.read("checked.csv")), table(&place.read("split.csv")));
        let further: usize =
            records.iter().map(|row| row["yp_more"].split(',').filter(|more| !more.is_empty()).count()).sum();
        assert_eq!(rows.len(), records.len() + further, "{seed}");
        let told = format!(
            "{} rows written to split.csv ({} records + {further} further address",
            rows.len(),
            records.len()
        );
        assert!(run.stdout.contains(&told), "{seed}: {told}: {}", run.stdout);
    }
}
