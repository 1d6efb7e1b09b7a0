//! `--first N`: a trial on a few records. What would be written goes to a folder that is gone again, and is shown.

use std::path::{Path, PathBuf};

use tempfile::TempDir;
use ypogram_io::{Batch, Chunk, Format, IfThere, OpenOptions, Result, Target, open, temporary_folder};

use crate::arguments::OutputArguments;
use crate::output_target;

/// A place for outputs that nobody keeps.
pub(crate) struct Trial {
    folder: TempDir,
}

/// Rows that were written in a trial.
#[derive(Debug, Default)]
pub(crate) struct Rows {
    pub(crate) names: Vec<String>,
    pub(crate) rows: Vec<Vec<String>>,
}

/// The rows of a trial that has one output.
pub(crate) const ROWS: &str = "rows.csv";

/// Where rows go: nowhere in a trial, else to standard output or the file that was named.
pub(crate) fn target_of(trial: Option<&Trial>, output: &OutputArguments, if_there: IfThere) -> Target {
    match trial {
        Some(trial) => trial.target(ROWS),
        None if output.place.is_none() && output.figure.is_some() => Target::Nowhere,
        None => output_target::target_if(output.place.as_ref(), if_there),
    }
}

/// The format of rows: CSV in a trial, else the one that was asked for.
pub(crate) fn format_of(trial: Option<&Trial>, asked_for: Option<Format>) -> Option<Format> {
    if trial.is_some() { Some(Format::Csv) } else { asked_for }
}

impl Trial {
    /// A trial, where `first` asks for one.
    ///
    /// # Errors
    /// Where there is no room for it.
    pub(crate) fn of(first: Option<u64>) -> Result<Option<Self>> {
        let make = |_| temporary_folder().map(|folder| Trial { folder });
        first.map(make).transpose()
    }

    /// The place of an output called `name`.
    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.folder.path().join(name)
    }

    /// A target for rows called `name`.
    pub(crate) fn target(&self, name: &str) -> Target {
        Target::File { path: self.path(name), if_there: IfThere::Refuse }
    }

    /// The rows of the output called `name`; none where nothing was written.
    ///
    /// # Errors
    /// Where it cannot be read.
    pub(crate) fn rows(&self, name: &str) -> Result<Rows> {
        read(&self.path(name))
    }
}

fn read(path: &Path) -> Result<Rows> {
    if !path.is_file() {
        return Ok(Rows::default());
    }
    let mut source = open(path, &OpenOptions::default())?;
    let mut rows = Rows { names: source.schema().fields.clone(), rows: Vec::new() };
    let (mut chunk, mut batch, mut decoder) = (Chunk::default(), Batch::default(), source.decoder());
    while source.next_chunk(&mut chunk)? {
        batch.clear();
        decoder.decode(&chunk, &mut batch)?;
        let text = |cell: &[u8]| String::from_utf8_lossy(cell).into_owned();
        rows.rows.extend(batch.records(&chunk).map(|record| record.cells().map(text).collect::<Vec<_>>()));
    }
    Ok(rows)
}

impl Rows {
    /// Leaves the columns that `keep` wants, and of the others those that are not empty throughout.
    pub(crate) fn leave(&mut self, keep: impl Fn(&str) -> bool, drop: impl Fn(&str) -> bool) {
        let filled =
            |place: usize| self.rows.iter().any(|row| row.get(place).is_some_and(|cell| !cell.is_empty()));
        let wanted: Vec<usize> = (0..self.names.len())
            .filter(|&place| keep(&self.names[place]) || !drop(&self.names[place]) && filled(place))
            .collect();
        let pick = |row: &Vec<String>| {
            wanted.iter().map(|&place| row.get(place).cloned().unwrap_or_default()).collect()
        };
        self.rows = self.rows.iter().map(pick).collect();
        self.names = pick(&self.names);
    }
}
