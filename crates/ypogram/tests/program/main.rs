//! The built program, run on files in a temporary folder.

#![allow(clippy::too_many_lines, reason = "a scenario reads from top to bottom")]

mod bad_input;
mod bounces;
mod browser;
mod cells;
mod check;
mod clean;
mod columns;
mod compare;
mod dedupe;
mod demo;
#[cfg(feature = "dns")]
mod dns;
#[cfg(feature = "dns")]
#[path = "../../../ypogram-jobs/tests/dns_server/mod.rs"]
mod dns_server;
mod domains;
mod every_command;
mod every_figure;
mod examples;
mod explain;
mod extract;
mod fields;
mod figures;
mod formats;
mod formulas;
mod guard;
mod guide;
mod headers;
mod house;
mod jobs;
mod kept;
mod links;
mod lists;
#[cfg(all(feature = "mysql", unix))]
mod mariadb;
#[cfg(all(any(feature = "mysql", feature = "postgres"), unix))]
mod on_servers;
mod other_formats;
mod pages;
mod patterns;
#[cfg(all(feature = "postgres", unix))]
mod postgres;
mod redact;
mod reference;
mod register;
mod rulebook;
mod rules_export;
mod same_counts;
mod schemas;
#[cfg(all(any(feature = "mysql", feature = "postgres"), unix))]
mod servers;
mod settle;
mod shell;
mod sign_up;
mod split;
mod standard_output;
mod survey;
mod terminal;
#[cfg(feature = "worker")]
mod worker;

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use assert_cmd::Command;
use tempfile::TempDir;

/// A folder with files, in which the program is run.
pub(crate) struct Place {
    folder: TempDir,
}

/// What came of a run.
pub(crate) struct Run {
    pub(crate) code: i32,
    pub(crate) stdout: String,
    pub(crate) stderr: String,
}

impl Place {
    pub(crate) fn with(files: &[(&str, &[u8])]) -> Self {
        let folder = TempDir::new().expect("a temporary folder");
        for (name, content) in files {
            std::fs::write(folder.path().join(name), content).expect("written");
        }
        Place { folder }
    }

    /// A folder with the files of the demo.
    pub(crate) fn with_demo() -> Self {
        let place = Place::with(&[]);
        let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("demo");
        for entry in std::fs::read_dir(demo).expect("the demo's files").flatten() {
            std::fs::copy(entry.path(), place.path(&entry.file_name().to_string_lossy())).expect("copied");
        }
        place
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.folder.path().join(name)
    }

    pub(crate) fn read(&self, name: &str) -> String {
        String::from_utf8(self.bytes(name)).expect("UTF-8")
    }

    pub(crate) fn bytes(&self, name: &str) -> Vec<u8> {
        std::fs::read(self.path(name)).unwrap_or_else(|error| panic!("{name}: {error}"))
    }

    /// Runs the program with the words of `call`.
    pub(crate) fn run(&self, call: &str) -> Run {
        self.run_with(call, "")
    }

    pub(crate) fn run_with(&self, call: &str, stdin: impl Into<Vec<u8>>) -> Run {
        let words: Vec<String> = call.split_whitespace().map(|word| word.replace('␣', " ")).collect();
        self.run_words(&words.iter().map(String::as_str).collect::<Vec<_>>(), stdin)
    }

    /// Runs the program with these words, whatever is in them.
    pub(crate) fn run_words(&self, words: &[&str], stdin: impl Into<Vec<u8>>) -> Run {
        let output = Command::cargo_bin("ypogram")
            .expect("built")
            .current_dir(self.folder.path())
            .args(words)
            .write_stdin(stdin)
            .output()
            .expect("run");
        Run {
            code: output.status.code().unwrap_or(-1),
            stdout: String::from_utf8(output.stdout).expect("UTF-8"),
            stderr: String::from_utf8(output.stderr).expect("UTF-8"),
        }
    }

    /// Every file below `name` with its bytes.
    pub(crate) fn tree(&self, name: &str) -> BTreeMap<PathBuf, Vec<u8>> {
        tree_of(&self.path(name))
    }
}

fn tree_of(folder: &Path) -> BTreeMap<PathBuf, Vec<u8>> {
    let Ok(entries) = std::fs::read_dir(folder) else { return BTreeMap::new() };
    let mut tree = BTreeMap::new();
    for path in entries.map(|entry| entry.expect("an entry").path()) {
        let name = PathBuf::from(path.file_name().expect("a name"));
        if name == Path::new(".ypogram") {
            // What is kept for decisions repeats the call.
            continue;
        }
        match path.is_dir() {
            true => tree.extend(tree_of(&path).into_iter().map(|(below, bytes)| (name.join(below), bytes))),
            false => drop(tree.insert(name, std::fs::read(&path).expect("a file"))),
        }
    }
    tree
}

/// The records of a CSV text as maps from column to cell.
pub(crate) fn table(text: &str) -> Vec<BTreeMap<String, String>> {
    let mut reader = csv::ReaderBuilder::new().flexible(true).from_reader(text.as_bytes());
    let header = reader.headers().expect("a header").clone();
    let row = |record: csv::StringRecord| {
        header.iter().zip(record.iter()).map(|(k, v)| (k.to_owned(), v.to_owned())).collect()
    };
    reader.records().map(|record| row(record.expect("a record"))).collect()
}
