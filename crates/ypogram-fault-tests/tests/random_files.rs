//! Random tables, of which an independent reader says what comes out: every record in exactly one place, its fields unchanged, and every
//! count of the receipt.

use std::collections::BTreeMap;
use std::path::Path;

use serde_json::Value;
use ypogram_fault_tests::{Draw, cases, run, said};

/// What cells are put together from.
const BITS: [&str; 40] = [
    "ada@h-works.org",
    "Ada.Lovell@GMail.com",
    "night.owl+moon@googlemail.com",
    "bea@bücher.de",
    "@",
    "@@",
    ".",
    "..",
    " ",
    ",",
    ";",
    "\"",
    "\"\"",
    "'",
    "\n",
    "\r\n",
    "\t",
    "<",
    ">",
    "(",
    ")",
    "[192.0.2.1]",
    "mailto:",
    "=?utf-8?q?",
    "=1+1",
    "+44 1632 960413",
    "-",
    "&#64;",
    "%40",
    "xn--",
    "\u{200b}",
    "\u{202e}",
    "é",
    "e\u{301}",
    "漢",
    "\u{1F989}",
    "a",
    "gmail.com",
    "unknown",
    "n/a",
];

struct Table {
    bytes: Vec<u8>,
    fields: usize,
}

fn cell(draw: &mut Draw) -> String {
    match draw.below(3) {
        0 => draw.of(&BITS[..4]).to_string(),
        1 => String::new(),
        _ => (0..draw.below(6)).map(|_| *draw.of(&BITS)).collect(),
    }
}

/// A table with a number in the first field of each record, written by someone else's writer, then with rows that are too short or too
/// long, blank lines and other line ends.
fn table(draw: &mut Draw) -> Table {
    let fields = 3 + draw.below(3);
    let delimiter = *draw.of(b",;\t|");
    let line_end = if draw.below(3) == 0 { "\r\n" } else { "\n" };
    let names: Vec<String> = (0..fields)
        .map(|nth| match nth {
            0 => "nr".into(),
            1 => "email".into(),
            nth => format!("field{nth}"),
        })
        .collect();
    let row = |cells: &[String]| {
        let mut writer =
            csv::WriterBuilder::new().delimiter(delimiter).flexible(true).from_writer(Vec::new());
        writer.write_record(cells).unwrap();
        let mut bytes = writer.into_inner().unwrap();
        bytes.pop();
        bytes.extend_from_slice(line_end.as_bytes());
        bytes
    };
    let mut bytes = if draw.below(4) == 0 { b"\xEF\xBB\xBF".to_vec() } else { Vec::new() };
    bytes.extend(row(&names));
    for nr in 0..draw.below(120) {
        let width = if draw.below(9) == 0 { 2 + draw.below(5) } else { fields };
        let mut cells = vec![format!("N{nr}")];
        cells.extend((1..width).map(|_| cell(draw)));
        bytes.extend(row(&cells));
        if draw.below(20) == 0 {
            bytes.extend_from_slice(line_end.as_bytes());
        }
        if draw.below(30) == 0 {
            bytes.extend(
                row(&[format!("N{nr}x"), "broken\u{FFFD}".into()])
                    .iter()
                    .map(|&b| if b == 0xBF { 0xFF } else { b }),
            );
        }
    }
    Table { bytes, fields }
}

/// The records of a table by their numbers, read by someone else's reader.
fn read(bytes: &[u8]) -> (Vec<String>, Vec<Vec<Vec<u8>>>) {
    let bytes = bytes.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(bytes);
    let header_end = bytes.iter().position(|&b| b == b'\n').unwrap_or(bytes.len());
    let delimiter = *bytes[..header_end].iter().find(|b| b",;\t|".contains(b)).expect("several fields");
    let mut reader = csv::ReaderBuilder::new().delimiter(delimiter).flexible(true).from_reader(bytes);
    let names = reader.byte_headers().unwrap().iter().map(|name| String::from_utf8_lossy(name).into_owned());
    let names = names.collect();
    let records =
        reader.byte_records().map(|record| record.unwrap().iter().map(<[u8]>::to_vec).collect()).collect();
    (names, records)
}

/// The own fields of a record, filled up to `fields`, and what it has beyond.
fn own(record: &[Vec<u8>], fields: usize, added: usize) -> Vec<Vec<u8>> {
    let mut own: Vec<Vec<u8>> = record.iter().take(fields).cloned().collect();
    own.resize(fields, Vec::new());
    own.extend(record.iter().skip(fields + added).cloned());
    own
}

fn tally<'r>(rows: impl Iterator<Item = &'r Vec<Vec<u8>>>, column: usize) -> BTreeMap<String, u64> {
    let mut counts = BTreeMap::new();
    for row in rows {
        for word in String::from_utf8_lossy(&row[column]).split_whitespace() {
            *counts.entry(word.to_owned()).or_default() += 1;
        }
    }
    counts
}

fn counted(receipt: &Value, name: &str) -> BTreeMap<String, u64> {
    let counts = receipt["counts"][name].as_object().expect(name);
    counts.iter().map(|(word, count)| (word.clone(), count.as_u64().unwrap())).collect()
}

fn check_outputs(seed: u64, folder: &Path, table: &Table) {
    let (_, records) = read(&table.bytes);
    let mut expected: Vec<_> = records.iter().map(|record| own(record, table.fields, 0)).collect();
    let read_file = |name: &str| std::fs::read(folder.join(name)).ok().map(|bytes| read(&bytes));
    let receipt: Value =
        serde_json::from_slice(&std::fs::read(folder.join("out/receipt.json")).unwrap()).unwrap();
    let (mut met, mut files) = (Vec::new(), Vec::new());
    for outcome in ["kept", "review", "rejected", "duplicate", "no-address", "set-aside"] {
        let name = if outcome == "duplicate" { "duplicates" } else { outcome };
        let written = ["csv", "tsv"].iter().find_map(|ending| read_file(&format!("out/{name}.{ending}")));
        let (names, rows) = written.unwrap_or_default();
        assert_eq!(counted(&receipt, "outcomes")[outcome], rows.len() as u64, "{seed}: {outcome}");
        if rows.is_empty() {
            continue;
        }
        let added = names.len() - table.fields;
        met.extend(rows.iter().map(|row| own(row, table.fields, added)));
        files.push((names, rows));
    }
    assert_eq!(receipt["counts"]["records"], records.len(), "{seed}");
    if files.is_empty() {
        return assert!(records.is_empty(), "{seed}");
    }
    met.sort();
    expected.sort();
    assert_eq!(met, expected, "{seed}: every record in one place, its fields unchanged");
    for (counts, column) in [("findings", "yp_findings"), ("forms", "yp_form")] {
        let nonzero = |(_, count): &(String, u64)| *count > 0;
        let told: BTreeMap<_, _> = counted(&receipt, counts).into_iter().filter(nonzero).collect();
        // Forms are those of the records with an address, and these have a verdict.
        let mut found = BTreeMap::new();
        for (names, rows) in &files {
            let place = |name: &str| names.iter().position(|column| column == name).expect(name);
            let judged = rows.iter().filter(|row| !row[place("yp_verdict")].is_empty());
            tally(judged, place(column))
                .into_iter()
                .for_each(|(word, count)| *found.entry(word).or_default() += count);
        }
        assert_eq!(told, found, "{seed}: {counts}");
    }
}

#[test]
fn every_record_is_in_one_place() {
    for seed in 0..cases(60) {
        let mut draw = Draw::new(seed);
        let folder = tempfile::tempdir().unwrap();
        let table = table(&mut draw);
        std::fs::write(folder.path().join("list.csv"), &table.bytes).unwrap();
        let machine = format!("--threads {} --chunk-bytes {}", 1 + draw.below(3), 1 + draw.below(400));
        let memory = draw.of(&["", "--memory 1K", "--memory 1M"]);
        let also = draw.of(&["", "--also field2"]);
        let call = format!(
            "clean list.csv --header 1 --encoding utf-8 --field email {also} -o out {machine} {memory}"
        );
        let output = run(folder.path(), &call);
        assert!(matches!(output.status.code(), Some(0 | 1)), "{seed}: {}", said(&output));
        check_outputs(seed, folder.path(), &table);
        for call in ["check", "split", "dedupe --mark", "extract --row-per-address"] {
            let output = run(
                folder.path(),
                &format!(
                    "{call} list.csv --header 1 --encoding utf-8 --field email -o rows.csv --force {machine}"
                ),
            );
            assert!(matches!(output.status.code(), Some(0 | 1)), "{seed} {call}: {}", said(&output));
            let rows = read(&std::fs::read(folder.path().join("rows.csv")).unwrap()).1;
            let records = read(&table.bytes).1;
            if !call.contains("row-per-address") {
                let own = |row: &Vec<Vec<u8>>| row[0].clone();
                let (met, expected): (Vec<_>, Vec<_>) =
                    (rows.iter().map(own).collect(), records.iter().map(own).collect());
                assert_eq!(met, expected, "{seed} {call}");
            }
        }
    }
}

/// What files of some formats have in them.
const WORDS: [&[u8]; 9] = [
    b"BEGIN:VCARD\r\n",
    b"END:VCARD\n",
    b"EMAIL;ENCODING=QUOTED-PRINTABLE:a=\n",
    b"\ndn: cn=a\nmail:: ",
    b"[{\"a\":1},",
    b"PK\x03\x04",
    b"SQLite format 3\0",
    b"\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1",
    b"From a\nFrom: ",
];

/// Workbooks and databases with some bytes changed, or cut off: what can be read is read, or the program says what is wrong.
#[test]
fn damaged_files_are_told() {
    let folder = tempfile::tempdir().unwrap();
    let rows: String = (0..300).map(|nr| format!("{nr},Ada {nr},ada{nr}@h-works.org,2026-11-30\n")).collect();
    std::fs::write(folder.path().join("good.csv"), format!("nr,name,email,date\n{rows}")).unwrap();
    for name in ["good.xlsx", "good.sqlite"] {
        let output = run(folder.path(), &format!("check good.csv -q -o {name}"));
        assert!(output.status.success(), "{}", said(&output));
        let whole = std::fs::read(folder.path().join(name)).unwrap();
        let damaged = name.replace("good", "damaged");
        for seed in 0..cases(60) {
            let mut draw = Draw::new(seed);
            let mut bytes = whole.clone();
            for _ in 0..1 + draw.below(20) {
                let at = draw.below(bytes.len());
                bytes[at] = draw.below(256) as u8;
            }
            if draw.below(4) == 0 {
                bytes.truncate(draw.below(whole.len()));
            }
            std::fs::write(folder.path().join(&damaged), bytes).unwrap();
            for call in ["check --prefix new_", "extract"] {
                let output = run(folder.path(), &format!("{call} {damaged} -o rows.csv --force"));
                let told = said(&output);
                assert!(matches!(output.status.code(), Some(0..=2)), "{seed} {call} {name}: {told}");
                assert!(!told.contains("fault of its own"), "{seed} {call} {name}: {told}");
            }
        }
    }
}

/// Bytes of no format at all: the program tells what is wrong, or takes what there is, and never fails of itself.
#[test]
fn nothing_is_too_odd() {
    for seed in 0..cases(60) {
        let mut draw = Draw::new(seed + 1_000_000);
        let folder = tempfile::tempdir().unwrap();
        let mut bytes = Vec::new();
        for _ in 0..draw.below(300) {
            match draw.below(8) {
                0 => bytes.push(draw.below(256) as u8),
                1 => bytes.extend_from_slice(b"boundary=x\n--x\nContent-Type: multipart/mixed;"),
                2 => bytes.extend_from_slice(b"{\"a\":[\""),
                3 => bytes.extend_from_slice(b"\"]}\n"),
                4 => bytes.extend_from_slice(draw.of::<&[u8]>(&WORDS)),
                _ => bytes.extend_from_slice(draw.of(&BITS).as_bytes()),
            }
        }
        let name = format!(
            "x.{}",
            draw.of(&[
                "csv", "txt", "tsv", "json", "jsonl", "eml", "mbox", "html", "gz", "csv.zst", "vcf", "ldif",
                "xlsx", "xls", "ods", "sqlite", "odd",
            ])
        );
        std::fs::write(folder.path().join(&name), bytes).unwrap();
        for call in [
            "survey",
            "check --grammar header",
            "clean",
            "dedupe",
            "extract --obfuscated",
            "extract --unique",
        ] {
            let output = run(
                folder.path(),
                &format!("{call} {name} -o o --force --chunk-bytes {}", 1 + draw.below(99)),
            );
            let told = said(&output);
            assert!(matches!(output.status.code(), Some(0..=3)), "{seed} {call} {name}: {told}");
            assert!(
                !told.contains("panicked") && !told.contains("fault of its own"),
                "{seed} {call} {name}: {told}"
            );
            let left = ypogram_fault_tests::files(folder.path());
            assert!(
                !left.keys().any(|path| path.to_string_lossy().contains("partial")),
                "{seed} {call}: {left:?}"
            );
        }
    }
}
