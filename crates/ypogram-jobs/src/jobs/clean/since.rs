//! What changed since an earlier run: its records held against those of this one, by what distinguishes them, else by mailbox.

use std::collections::BTreeSet;
use std::fs::File;
use std::io::{BufWriter, Write as _};
use std::path::{Path, PathBuf};

use hashbrown::HashMap;
use serde::Serialize;
use ypogram_core::Hasher;
use ypogram_io::csv::write_row;
use ypogram_io::{Batch, Chunk, Error, OpenOptions, Result, open};

use crate::jobs::receipt::{self, Earlier};
use crate::plan::outcome::Outcome;

/// How many records changed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Since {
    /// They were not there.
    pub new: u64,
    /// They are not there any more.
    pub gone: u64,
    /// They ended as before, with other fields.
    pub changed: u64,
    /// They ended elsewhere.
    pub moved: u64,
}

/// Sees a record: its outcome, and its cells.
type See<'s> = dyn FnMut(Outcome, &Cells<'_>) -> Result<()> + 's;

/// What counts of a record of an output.
struct Cells<'c> {
    /// Its own cells, in the order of the fields; none where the output has not that field.
    own: Vec<Option<&'c [u8]>>,
    /// What it is found again by.
    key: &'c [u8],
}

/// The outputs of a run, to be read as records.
pub(super) struct Outputs {
    /// Each with its outcome, its name, and where it lies.
    files: Vec<(Outcome, PathBuf, PathBuf)>,
}

impl Outputs {
    /// Those of the files `files`, by their names.
    pub(super) fn of(files: impl Iterator<Item = (String, PathBuf)>) -> Self {
        let outcome = |name: &str| {
            let stem = name.split('.').next();
            Outcome::ALL.into_iter().find(|outcome| stem == Some(outcome.file_stem()))
        };
        let files = files.filter_map(|(name, place)| Some((outcome(&name)?, PathBuf::from(name), place)));
        Outputs { files: files.collect() }
    }

    /// Those in the output folder of an earlier run.
    ///
    /// # Errors
    /// Where there is none.
    pub(super) fn of_folder(folder: &Path) -> Result<Self> {
        let (folder, earlier) = match Earlier::read(folder)? {
            Some(earlier) => (folder.to_path_buf(), earlier),
            None => of_job(folder)?,
        };
        let place = |name: &String| folder.join(name);
        Ok(Outputs::of(earlier.outputs.into_iter().map(|output| (output.name.clone(), place(&output.name)))))
    }

    /// Calls `see` with each record.
    fn each(&self, comparing: &Comparing<'_>, see: &mut See<'_>) -> Result<()> {
        for (outcome, name, place) in &self.files {
            let options = OpenOptions {
                kept: vec![(name.clone(), place.clone())],
                fingerprint: false,
                ..OpenOptions::default()
            };
            let mut source = open(name, &options)?;
            let columns = &source.schema().fields;
            let own: Vec<Option<usize>> = comparing
                .fields
                .iter()
                .map(|field| columns.iter().position(|column| column == field))
                .collect();
            let key_column = comparing.key_column();
            let key = columns.iter().position(|column| *column == key_column);
            let (mut chunk, mut batch, mut decoder) = (Chunk::default(), Batch::default(), source.decoder());
            while source.next_chunk(&mut chunk)? {
                batch.clear();
                decoder.decode(&chunk, &mut batch)?;
                for record in batch.records(&chunk) {
                    let cell = |place| record.cell(place).unwrap_or_default();
                    let key = key.ok_or_else(|| no_key_column(&key_column))?;
                    let own = own.iter().map(|place| place.map(cell)).collect();
                    see(*outcome, &Cells { own, key: cell(key) })?;
                }
            }
        }
        Ok(())
    }
}

/// The folder that a step of a job cleaned into, in the folder of the job, with its account.
///
/// # Errors
/// Where there is none, or there are several.
fn of_job(folder: &Path) -> Result<(PathBuf, Earlier)> {
    let refused =
        |what: &str, hint: &str| Error::unusable(format!("--since {}: {what}", folder.display()), hint);
    let mut written: BTreeSet<PathBuf> = BTreeSet::new();
    for file in std::fs::read_dir(folder).into_iter().flatten().flatten() {
        if !file.file_name().to_string_lossy().ends_with(".receipt.json") {
            continue;
        }
        let text = std::fs::read(file.path()).unwrap_or_default();
        let account: serde_json::Value = serde_json::from_slice(&text).unwrap_or_default();
        let steps =
            account["steps"].as_array().into_iter().flatten().filter(|step| step["command"] == "clean");
        written.extend(steps.filter_map(|step| Some(PathBuf::from(step["published"][0].as_str()?))));
    }
    written.retain(|output| folder.join(output).join(receipt::FILE_NAME).is_file());
    let mut names = written.iter().map(|output| output.display().to_string());
    match (names.next(), names.next()) {
        (Some(only), None) => {
            let place = folder.join(only);
            let earlier = Earlier::read(&place)?;
            earlier.map(|earlier| (place, earlier)).ok_or_else(|| refused("it is gone", ""))
        }
        (Some(one), Some(_)) => Err(refused(
            "several steps of a job have cleaned into it",
            &format!("name the folder of one, as in --since {}", folder.join(one).display()),
        )),
        (None, _) => Err(refused(
            "there is no receipt.json in it",
            "give a folder that ypogram clean or ypogram run has written",
        )),
    }
}

/// What distinguishes records, and what is compared of them.
pub(super) struct Comparing<'f> {
    /// The record's own fields.
    pub(super) fields: &'f [String],
    /// The field that distinguishes records; their mailbox where there is none.
    pub(super) id: Option<&'f str>,
    /// What the names of added columns start with.
    pub(super) prefix: &'f str,
    pub(super) hasher: Hasher,
}

/// A record of the earlier run.
struct Before {
    outcome: Outcome,
    /// Of each own field, in order; none where it had not that field.
    cells: Vec<Option<u128>>,
    /// It is there now.
    is_met: bool,
}

impl Comparing<'_> {
    /// Writes what changed between `before` and `now` to a file at `to`.
    ///
    /// # Errors
    /// Where an output cannot be read, or has nothing by which records can be found again, or the file cannot be written.
    pub(super) fn write(&self, before: &Outputs, now: &Outputs, to: &Path) -> Result<Since> {
        let mut since = Since::default();
        let mut known: HashMap<(u128, u32), Before> = HashMap::new();
        let mut met: HashMap<u128, u32> = HashMap::new();
        before.each(self, &mut |outcome, cells| {
            let key = self.key(cells, &mut met);
            let cells = self.hashes(cells);
            known.insert(key, Before { outcome, cells, is_met: false });
            Ok(())
        })?;
        let writing = |error: std::io::Error| Error::writing(to, &error);
        let mut file = BufWriter::new(File::create(to).map_err(writing)?);
        let mut row = Vec::new();
        let added = ["change", "outcome_before", "outcome", "changed_fields"]
            .map(|name| format!("{}{name}", self.prefix));
        write_row(self.fields.iter().chain(&added), b',', &mut row);
        file.write_all(&row).map_err(writing)?;
        let mut write = |change: [&str; 3], changed: &str, cells: &Cells<'_>| {
            row.clear();
            let own = cells.own.iter().map(|cell| cell.unwrap_or_default());
            let told = change.into_iter().chain([changed]).map(str::as_bytes);
            write_row(own.chain(told), b',', &mut row);
            file.write_all(&row)
        };
        met.clear();
        now.each(self, &mut |outcome, cells| {
            let key = self.key(cells, &mut met);
            let Some(earlier) = known.get_mut(&key) else {
                since.new += 1;
                return write(["new", "", outcome.word()], "", cells).map_err(writing);
            };
            earlier.is_met = true;
            let hashes = self.hashes(cells);
            let differs = |(now, before): (&Option<u128>, &Option<u128>)| now != before && before.is_some();
            let places =
                (0..self.fields.len()).filter(|&place| differs((&hashes[place], &earlier.cells[place])));
            let changed: Vec<&str> = places.map(|place| self.fields[place].as_str()).collect();
            let change = match (outcome == earlier.outcome, changed.is_empty()) {
                (true, true) => return Ok(()),
                (true, false) => {
                    since.changed += 1;
                    "changed"
                }
                (false, _) => {
                    since.moved += 1;
                    "moved"
                }
            };
            let change = [change, earlier.outcome.word(), outcome.word()];
            write(change, &changed.join(", "), cells).map_err(writing)
        })?;
        met.clear();
        before.each(self, &mut |outcome, cells| {
            let key = self.key(cells, &mut met);
            if known.get(&key).is_some_and(|before| before.is_met) {
                return Ok(());
            }
            since.gone += 1;
            write(["gone", outcome.word(), ""], "", cells).map_err(writing)
        })?;
        file.flush().map_err(writing)?;
        Ok(since)
    }

    fn hashes(&self, cells: &Cells<'_>) -> Vec<Option<u128>> {
        cells.own.iter().map(|cell| Some(self.hasher.hash((*cell)?))).collect()
    }

    /// The column by which records are found again.
    fn key_column(&self) -> String {
        self.id.map_or_else(|| format!("{}key", self.prefix), str::to_owned)
    }

    /// What a record is found again by, and which of those with the same it is. One that tells nothing of that kind is found again where
    /// it is the same as a whole.
    fn key(&self, cells: &Cells<'_>, met: &mut HashMap<u128, u32>) -> (u128, u32) {
        let hash = match cells.key {
            b"" => {
                let whole: Vec<u8> =
                    cells.own.iter().flatten().flat_map(|cell| [cell, &b"\0"[..]].concat()).collect();
                self.hasher.hash(&whole) ^ 1
            }
            cell => self.hasher.hash(cell),
        };
        let nth = met.entry(hash).or_default();
        *nth += 1;
        (hash, *nth)
    }
}

fn no_key_column(name: &str) -> Error {
    Error::unusable(
        format!("--since: an output has no column ‘{name}’, by which records are found again"),
        "name the field that distinguishes records with --id, or leave the column in with --columns",
    )
}
