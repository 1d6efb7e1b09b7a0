//! What stood where something else stands now, for the owner alone.
//!
//! A line for each run of the same text in the place of the same original: since a mailbox can be written in several ways and has one token,
//! the order of the lines tells which of them stood at which place.

use std::path::Path;

use data_encoding::HEXLOWER;
use hashbrown::HashMap;
use ypogram_io::csv::{Header, write_row};
use ypogram_io::{Batch, Error, Format, OpenOptions, Result, write_private};

use crate::engine::pipeline::Feed as _;
use crate::engine::reading::{Reading, Task};

/// What stood where, in the order of the places.
#[derive(Clone, Debug, Default)]
pub struct RedactMap {
    runs: Vec<Run>,
    /// The last run of each text that stands for something.
    last: HashMap<String, usize>,
}

/// So many times one after the other, of the places with that text, the same original stood there.
#[derive(Clone, Debug, PartialEq, Eq)]
struct Run {
    instead: String,
    original: Vec<u8>,
    times: u64,
}

const HEADER: [&str; 4] = ["instead", "original", "original_hex", "times"];

impl RedactMap {
    /// Notes that `original` stood where `instead` stands now.
    pub fn note(&mut self, instead: &str, original: &[u8]) {
        if let Some(&last) = self.last.get(instead)
            && self.runs[last].original == original
        {
            self.runs[last].times += 1;
            return;
        }
        self.last.insert(instead.to_owned(), self.runs.len());
        self.runs.push(Run { instead: instead.to_owned(), original: original.to_vec(), times: 1 });
    }

    /// The originals of each text, in the order of its places.
    pub(super) fn originals(&self) -> HashMap<&str, Vec<(&[u8], u64)>> {
        let mut originals: HashMap<&str, Vec<(&[u8], u64)>> = HashMap::new();
        for run in &self.runs {
            originals.entry(&run.instead).or_default().push((&run.original, run.times));
        }
        originals
    }

    /// Writes it to a new file that its owner alone can read.
    ///
    /// # Errors
    /// Where there is such a file, or it cannot be written.
    pub fn write(&self, path: &Path) -> Result<()> {
        let mut text = Vec::new();
        write_row(HEADER, b',', &mut text);
        for Run { instead, original, times } in &self.runs {
            let shown = std::str::from_utf8(original).ok().filter(|text| !text.contains(char::is_control));
            let hex = if shown.is_some() { String::new() } else { HEXLOWER.encode(original) };
            write_row([instead, shown.unwrap_or_default(), &hex, &times.to_string()], b',', &mut text);
        }
        write_private(path, &text, "what a map brings back is nowhere else")
    }

    /// Reads a map.
    ///
    /// # Errors
    /// Where it cannot be read, or is no map.
    pub fn read(path: &Path) -> Result<Self> {
        let open = OpenOptions {
            format: Some(Format::Csv),
            delimiter: Some(b','),
            header: Header::Line(1),
            ..OpenOptions::default()
        };
        let mut reading = Reading::open(&[path.to_path_buf()], &open)?;
        let header: Vec<String> =
            reading.schemas().next().map(|schema| schema.fields.clone()).unwrap_or_default();
        let no_map = |line: Option<u64>| {
            let line = line.map_or_else(String::new, |line| format!("line {line}: "));
            Error::unusable(
                format!("{}: {line}this is no map of a redacted copy", path.display()),
                "give the file that --map wrote",
            )
        };
        if header != HEADER {
            return Err(no_map(None));
        }
        let mut decoder = reading.decoders().remove(0);
        let (mut task, mut batch, mut map, mut line) =
            (Task::default(), Batch::default(), RedactMap::default(), 1);
        while reading.next(&mut task)? {
            batch.clear();
            decoder.decode(&task.chunk, &mut batch)?;
            for record in batch.records(&task.chunk) {
                let cells: Vec<&[u8]> = record.cells().collect();
                let run = run_of(&cells).ok_or_else(|| no_map(Some(line + record.line_in_chunk() + 1)))?;
                map.runs.push(run);
            }
            line += batch.lines;
        }
        Ok(map)
    }
}

fn run_of(cells: &[&[u8]]) -> Option<Run> {
    let [instead, original, hex, times] = cells else { return None };
    let original = match hex.is_empty() {
        true => original.to_vec(),
        false => HEXLOWER.decode(hex).ok()?,
    };
    let text = |cell: &[u8]| std::str::from_utf8(cell).ok().map(str::to_owned);
    Some(Run { instead: text(instead)?, original, times: text(times)?.parse().ok()? })
}
