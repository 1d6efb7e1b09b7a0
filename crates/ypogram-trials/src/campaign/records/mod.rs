//! Random messy files in every format through every command, by an independent reader: each record in exactly one place, its own cells
//! unchanged, the receipt true, and the same bytes whatever the number of threads and the memory.

mod read_back;
mod table;
mod written;

use std::collections::BTreeMap;
use std::path::Path;
use std::process::Output;

use serde_json::Value;

use crate::Draw;
use crate::campaign::{Outcome, Scale, in_parallel};
use crate::program::{files, run as run_program, said};
use read_back::{Rows, TAKEN, read};
pub use table::BITS;
use table::Table;
use written::{GIVEN, is_text, write};

/// How a command runs: in one thread, in several with small chunks, in little memory.
const MACHINES: [&str; 3] =
    ["--threads 1", "--threads 2 --chunk-bytes 97", "--threads 2 --chunk-bytes 1000 --memory 1K"];

/// The outcomes of `clean`, each with the name of its file.
const OUTCOMES: [(&str, &str); 6] = [
    ("kept", "kept"),
    ("review", "review"),
    ("rejected", "rejected"),
    ("duplicate", "duplicates"),
    ("no-address", "no-address"),
    ("set-aside", "set-aside"),
];

fn is_guarded(cell: &str) -> bool {
    cell.strip_prefix('\'').is_some_and(|rest| rest.starts_with(['=', '+', '-', '@', '\t', '\r']))
}

/// A file that is given, and what is tried on it.
struct Case<'c> {
    seed: u64,
    folder: &'c Path,
    source: String,
    table: Table,
}

/// Tries so many files.
pub fn run(scale: Scale) -> Outcome {
    in_parallel(scale.cases(80, 10_000), one)
}

fn one(seed: u64, outcome: &mut Outcome) {
    let mut draw = Draw::new(seed);
    let folder = tempfile::tempdir().expect("a temporary folder");
    let given = GIVEN[seed as usize % GIVEN.len()];
    let table = Table::random(&mut draw, is_text(given));
    let source = format!("list.{given}");
    write(&table, given, &folder.path().join(&source), &mut draw);
    let case = Case { seed, folder: folder.path(), source, table };
    outcome.count("files");
    // An empty workbook or list of objects has no fields.
    if case.table.records.is_empty() && !is_text(given) {
        return;
    }
    case.clean(&mut draw, outcome);
    case.rows("check", &mut draw, outcome);
    case.rows("split", &mut draw, outcome);
    case.rows("dedupe --mark", &mut draw, outcome);
    case.parted(&mut draw, outcome);
    case.further(&mut draw, outcome);
    case.figures(outcome);
}

impl Case<'_> {
    fn call(&self, call: &str, output: &str, machine: &str) -> Output {
        let header =
            if self.source.contains("csv") || self.source.contains("tsv") { "--header 1" } else { "" };
        run_program(
            self.folder,
            &format!("{call} {} {header} --field email {output} --force --no-rules {machine}", self.source),
        )
    }

    /// Runs `call` in every way; the same bytes come out each time. The text of the first.
    fn in_every_way(&self, call: &str, output: &str, outcome: &mut Outcome) -> Option<Output> {
        let (mut first, mut first_files) = (None, BTreeMap::new());
        for machine in MACHINES {
            let made = self.call(call, output, machine);
            outcome.count("runs");
            let is_done = matches!(made.status.code(), Some(0 | 1));
            outcome.expect(is_done, || {
                format!("records {}: {call} {output} {machine}: {}", self.seed, said(&made))
            });
            if !is_done {
                return None;
            }
            let mut left = files(self.folder);
            // A database counts its changes, and is compared by the rows that are read back.
            left.retain(|path, _| {
                !path.components().any(|part| part.as_os_str() == ".ypogram")
                    && path.extension().is_none_or(|ending| ending != "sqlite")
            });
            match first {
                None => (first, first_files) = (Some(made), left),
                Some(_) => {
                    let other = left.iter().find(|(path, bytes)| first_files.get(*path) != Some(bytes));
                    outcome.expect(other.is_none() && left.len() == first_files.len(), || {
                        let path = other.map(|(path, _)| path.display().to_string()).unwrap_or_default();
                        format!("records {}: {call} {output} {machine}: other bytes in {path}", self.seed)
                    });
                }
            }
        }
        first
    }

    /// The own cells of a row that was written, with what it has beyond the columns that were added.
    fn own(&self, (names, row): (&[String], &[String])) -> Vec<String> {
        let fields = self.table.names.len();
        let own = self.table.names.iter().map(|field| {
            let place = names.iter().position(|name| name == field);
            place.and_then(|place| row.get(place)).cloned().unwrap_or_default()
        });
        let mut cells: Vec<String> = own.collect();
        cells.extend(row.iter().skip(names.len().max(fields)).cloned());
        cells
    }

    /// The cells that are expected of all records; formats of typed rows have no place for cells beyond their names.
    fn expected(&self, ending: &str) -> Vec<Vec<String>> {
        let whole = |record: &Vec<String>| {
            let mut cells = self.table.whole(record);
            // An apostrophe before what begins like a formula guards it in CSV, and is no part of the cell (docs/safety.md).
            if is_text(self.source.trim_start_matches("list.")) && ending != "csv"
                || self.source.contains("utf16")
            {
                for cell in cells.iter_mut().filter(|cell| is_guarded(cell)) {
                    cell.remove(0);
                }
            }
            if !matches!(ending, "csv" | "tsv") {
                cells.truncate(self.table.names.len());
            }
            cells
        };
        self.table.records.iter().map(whole).collect()
    }

    /// The first record that `rows` do not hold as it was given, or that they hold and nobody gave; in order where `in_order`.
    fn differs(&self, rows: &[(&[String], &[String])], ending: &str, in_order: bool) -> Option<String> {
        let (mut met, mut expected): (Vec<_>, _) =
            (rows.iter().map(|row| self.own(*row)).collect(), self.expected(ending));
        if !in_order {
            met.sort();
            expected.sort();
        }
        let first = (0..met.len().max(expected.len())).find(|&nth| met.get(nth) != expected.get(nth))?;
        Some(format!("{:?} became {:?}", expected.get(first), met.get(first)))
    }

    /// `clean`: each record in the file of one outcome, and a true receipt.
    fn clean(&self, draw: &mut Draw, outcome: &mut Outcome) {
        let ending = *draw.of(&["csv", "jsonl", "xlsx"]);
        let also = if self.table.names.len() > 3 { *draw.of(&["", "--also field2"]) } else { "" };
        let to = if ending == "xlsx" { "-o out.xlsx".to_owned() } else { format!("-o out --to {ending}") };
        if self.in_every_way(&format!("clean {also}"), &to, outcome).is_none() {
            return;
        }
        let of = |file: &str| match ending {
            "xlsx" => read(&self.folder.join("out.xlsx"), Some(file)),
            _ => read(&self.folder.join("out").join(format!("{file}.{ending}")), None),
        };
        let written: Vec<(&str, Rows)> =
            OUTCOMES.iter().map(|(name, file)| (*name, of(file).unwrap_or_default())).collect();
        let rows: Vec<(&[String], &[String])> = written
            .iter()
            .flat_map(|(_, (names, rows))| rows.iter().map(move |row| (names.as_slice(), row.as_slice())))
            .collect();
        outcome.add("records", self.table.records.len() as u64);
        if let Some(what) = self.differs(&rows, ending, false) {
            outcome.faults.push(format!("records {}: clean {also} {to}: {what}", self.seed));
        }
        if ending == "xlsx" {
            return;
        }
        let text = std::fs::read(self.folder.join("out/receipt.json")).unwrap_or_default();
        let receipt: Value = serde_json::from_slice(&text).unwrap_or_default();
        let counts = &receipt["counts"];
        for (name, (_, rows)) in &written {
            outcome.expect(counts["outcomes"][name] == rows.len() as u64, || {
                format!(
                    "records {}: clean {also}: the receipt has {} {name}",
                    self.seed, counts["outcomes"][name]
                )
            });
        }
        outcome.expect(counts["records"] == self.table.records.len() as u64, || {
            format!("records {}: clean {also}: the receipt has {} records", self.seed, counts["records"])
        });
        let usable: u64 = ["kept", "review", "duplicate", "set-aside"]
            .iter()
            .filter_map(|name| counts["outcomes"][name].as_u64())
            .sum();
        outcome.expect(counts["usable"]["total"] == usable, || {
            format!("records {}: clean {also}: the usable ones do not add up: {counts}", self.seed)
        });
    }

    /// A command that writes each record as a row, in order.
    fn rows(&self, command: &str, draw: &mut Draw, outcome: &mut Outcome) {
        let ending = *draw.of(&TAKEN);
        let place = if ending == "sqlite" { "rows.sqlite#list".to_owned() } else { format!("rows.{ending}") };
        if self.in_every_way(command, &format!("-o {place}"), outcome).is_none() {
            return;
        }
        let (names, rows) = read(&self.folder.join(format!("rows.{ending}")), None).unwrap_or_default();
        let rows: Vec<(&[String], &[String])> = rows.iter().map(|row| (&names[..], &row[..])).collect();
        outcome.add("records", self.table.records.len() as u64);
        if let Some(what) = self.differs(&rows, ending, true) {
            outcome.faults.push(format!("records {}: {command} -o {place}: {what}", self.seed));
        }
    }

    /// `dedupe` and `compare`: each record in one of the files.
    fn parted(&self, draw: &mut Draw, outcome: &mut Outcome) {
        let ending = *draw.of(&["csv", "jsonl", "xlsx"]);
        let call = *draw.of(&["dedupe", "dedupe --survivor last", "dedupe --same exact"]);
        let to = format!("-o one.{ending} --dropped two.{ending} --no-address three.{ending}");
        if self.in_every_way(call, &to, outcome).is_none() {
            return;
        }
        let parts = ["one", "two", "three"]
            .map(|name| read(&self.folder.join(format!("{name}.{ending}")), None).unwrap_or_default());
        let rows: Vec<(&[String], &[String])> = parts
            .iter()
            .flat_map(|(names, rows)| rows.iter().map(move |row| (&names[..], &row[..])))
            .collect();
        outcome.add("records", self.table.records.len() as u64);
        if let Some(what) = self.differs(&rows, ending, false) {
            outcome.faults.push(format!("records {}: {call} {to}: {what}", self.seed));
        }
    }

    /// `extract --row-per-address`: each row has the own cells of its record.
    fn further(&self, draw: &mut Draw, outcome: &mut Outcome) {
        let ending = *draw.of(&["csv", "jsonl", "sqlite"]);
        let place =
            if ending == "sqlite" { "found.sqlite#list".to_owned() } else { format!("found.{ending}") };
        let call = "extract --row-per-address";
        if self.in_every_way(call, &format!("-o {place}"), outcome).is_none() {
            return;
        }
        let (names, rows) = read(&self.folder.join(format!("found.{ending}")), None).unwrap_or_default();
        let given: BTreeMap<String, Vec<String>> =
            self.expected(ending).into_iter().map(|record| (record[0].clone(), record)).collect();
        outcome.add("rows of addresses", rows.len() as u64);
        for row in &rows {
            let own = self.own((&names, row));
            outcome.expect(given.get(&own[0]) == Some(&own), || {
                format!("records {}: {call} -o {place}: a row that no record has: {own:?}", self.seed)
            });
        }
    }

    /// What commands that write no records count.
    fn figures(&self, outcome: &mut Outcome) {
        for command in ["survey", "domains", "links"] {
            let made = self.call(command, "--json", MACHINES[1]).stdout;
            let told: Value = serde_json::from_slice(&made).unwrap_or_default();
            outcome.count("runs");
            outcome.expect(told["counts"]["records"] == self.table.records.len() as u64, || {
                format!("records {}: {command} counts {} records", self.seed, told["counts"]["records"])
            });
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The independent reader reads what the independent writer wrote, so that a difference is one that the program made.
    #[test]
    fn readers_read_what_writers_write() {
        for seed in 0..60 {
            let mut draw = Draw::new(seed);
            for ending in TAKEN {
                let table = Table::random(&mut draw, is_text(ending));
                // Rows of a JSON document alone say what its fields are.
                if table.records.is_empty() {
                    continue;
                }
                let folder = tempfile::tempdir().expect("a temporary folder");
                let path = folder.path().join(format!("list.{ending}"));
                write(&table, ending, &path, &mut draw);
                let (names, rows) = read(&path, None).expect("it is there");
                let fill = |row: &Vec<String>| {
                    let mut cells = row.clone();
                    cells.resize(cells.len().max(table.names.len()), String::new());
                    cells
                };
                let written: Vec<_> = table.records.iter().map(|record| table.whole(record)).collect();
                assert_eq!(rows.iter().map(fill).collect::<Vec<_>>(), written, "{seed} {ending}");
                assert!(table.names.starts_with(&names), "{seed} {ending}: {names:?}");
            }
        }
    }

    /// A fault that is made on purpose is found.
    #[test]
    fn a_changed_cell_is_a_fault() {
        let table = Table {
            names: ["nr", "email", "note"].map(str::to_owned).to_vec(),
            records: vec![["N0", "ada@h-works.org", "a"].map(str::to_owned).to_vec()],
        };
        let case = Case { seed: 0, folder: Path::new("."), source: "list.csv".into(), table };
        let names: Vec<String> = ["nr", "email", "note", "yp_address"].map(str::to_owned).to_vec();
        let row = |cells: [&str; 4]| cells.map(str::to_owned).to_vec();
        let kept = row(["N0", "ada@h-works.org", "a", "ada@h-works.org"]);
        assert_eq!(case.differs(&[(&names, &kept)], "csv", true), None);
        for wrong in [
            row(["N0", "ada@h-works.org", "b", ""]),
            row(["N0", "", "a", ""]),
            row(["N1", "ada@h-works.org", "a", ""]),
        ] {
            assert!(case.differs(&[(&names, &wrong)], "csv", true).is_some(), "{wrong:?}");
        }
        assert!(case.differs(&[], "csv", false).is_some(), "a record that is lost");
        assert!(
            case.differs(&[(&names, &kept), (&names, &kept)], "csv", false).is_some(),
            "one that is there twice"
        );
    }
}
