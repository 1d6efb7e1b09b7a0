//! The outcomes as sheets of one workbook, with a summary before them.

use std::path::Path;

use ypogram_core::WordOf;
use ypogram_io::{BookFile, BookSheet, BookSummary, EntryRefusal, OutputFile, Projection, Result};

use crate::engine::reading::SourceReport;
use crate::jobs::clean::report::{CleanCounts, CleanReport};
use crate::plan::outcome::Outcome;

/// A workbook while its sheets are written.
pub(crate) struct Book {
    file: BookFile,
    /// The rule on the address columns of the kept records.
    rule: EntryRefusal,
}

impl Book {
    /// Starts the workbook that shall stand at `path`.
    ///
    /// # Errors
    /// Where the file exists and is not to be replaced, or cannot be made.
    pub(super) fn create(path: &Path, replace: bool, rule: EntryRefusal) -> Result<Self> {
        Ok(Book { file: BookFile::create(path, replace)?, rule })
    }

    /// Adds the sheet of an outcome.
    ///
    /// # Errors
    /// Where it has too many columns, or the temporary folder cannot be used.
    pub(super) fn add_sheet(&self, outcome: Outcome, projection: &Projection) -> Result<BookSheet> {
        let rule = (outcome == Outcome::Kept).then_some(&self.rule);
        self.file.add_sheet(outcome.file_stem(), projection, rule)
    }

    /// Gives the file, which is not published yet.
    ///
    /// # Errors
    /// Where it cannot be written.
    pub(super) fn finish(self, report: &CleanReport, version: &str) -> Result<OutputFile> {
        let names = Outcome::ALL.map(Outcome::file_stem);
        self.file.finish(&summary(report, version), &names)
    }
}

/// What the summary of a workbook says.
fn summary(report: &CleanReport, version: &str) -> BookSummary {
    let CleanCounts { records, .. } = &report.counts;
    let label = |outcome: Outcome| report.words.label(WordOf::Outcome, outcome.word()).to_owned();
    let counts = Outcome::ALL.iter().map(|&outcome| (label(outcome), report.counts.of(outcome)));
    let sum = match report.counts.tally.rows_added {
        0 => ("records read".to_owned(), *records),
        _ => ("records read and further addresses".to_owned(), report.counts.rows()),
    };
    let mut facts = Vec::new();
    for SourceReport { name, format, bytes, blake3, .. } in &report.sources {
        facts.push(("source".to_owned(), name.clone()));
        facts.push(("format".to_owned(), format.clone()));
        facts.push(("bytes".to_owned(), bytes.to_string()));
        facts.push(("BLAKE3".to_owned(), blake3.clone()));
    }
    facts.push(("address fields".to_owned(), report.plan.address_names().join(", ")));
    facts.push(("ypogram".to_owned(), version.to_owned()));
    BookSummary {
        title: "Where every record ended".to_owned(),
        counts: counts.filter(|(_, count)| *count > 0).collect(),
        sum,
        facts,
    }
}
