//! What somebody is asked about: the records of the untouched copies.

use std::collections::{BTreeMap, BTreeSet};

use ypogram_io::{Batch, Chunk, Error, OpenOptions, Result, Source, open};

use crate::jobs::settle::SettleFolder;

/// A record that somebody is asked about.
#[derive(Clone, Debug, Default)]
pub struct Question {
    /// It is rejected, rather than for review.
    pub is_rejected: bool,
    /// Its address, where it has one in standard form.
    pub address: String,
    /// What was found, by name.
    pub findings: Vec<String>,
    /// Why it is asked about.
    pub why: String,
    /// What was probably meant, how sure that is, and why.
    pub suggestion: String,
    /// How sure that is.
    pub confidence: String,
    /// Why that.
    pub reason: String,
    /// The record of another person that it stands against.
    pub same_as: String,
    /// Its cells, those of Ypogram included.
    pub cells: Vec<String>,
}

/// The records of a folder that somebody is asked about, by their numbers.
#[derive(Debug, Default)]
pub struct Questions {
    /// By record.
    pub by_record: BTreeMap<u64, Question>,
    /// The names of the columns of their cells.
    pub columns: Vec<String>,
    /// Columns that are the record's own.
    pub own: usize,
    /// The own cells of records that others stand against, by their numbers, as far as they are known.
    pub against: BTreeMap<String, Vec<String>>,
}

impl Questions {
    /// Those of `folder`, whose added columns begin with `prefix`.
    ///
    /// # Errors
    /// Where a copy cannot be read, or records have no numbers of their own.
    pub fn read(folder: &SettleFolder, prefix: &str) -> Result<Self> {
        let mut questions = Questions::default();
        for output in &folder.outputs {
            let copy = folder.copy_of(&output.name);
            let mut source = open(&copy, &OpenOptions::default())?;
            let is_rejected = output.name.starts_with("rejected");
            questions.add(&mut *source, prefix, is_rejected)?;
        }
        Ok(questions)
    }

    /// Whether some record is for review.
    pub fn are_for_review(&self) -> bool {
        self.by_record.values().any(|question| !question.is_rejected)
    }

    /// Looks up the records that others stand against, for whoever is asked about them.
    ///
    /// # Errors
    /// Where an output of the folder cannot be read.
    pub fn look_up_others(&mut self, folder: &SettleFolder, prefix: &str) -> Result<()> {
        let wanted = self.by_record.values().map(|question| question.same_as.clone());
        let wanted: BTreeSet<String> = wanted.filter(|number| !number.is_empty()).collect();
        let mut found = BTreeMap::new();
        let files = folder.others.iter().map(|name| folder.path.join(name)).filter(|_| !wanted.is_empty());
        for path in files.chain(folder.outputs.iter().map(|output| folder.copy_of(&output.name))) {
            let Ok(mut source) = open(&path, &OpenOptions::default()) else { continue };
            let fields = source.schema().fields.clone();
            let record = format!("{prefix}record");
            let Some(place) = fields.iter().position(|field| *field == record) else { continue };
            let own = fields.iter().take_while(|field| !field.starts_with(prefix)).count();
            each_row(&mut *source, &mut |_, cells| {
                if wanted.contains(&cells[place]) {
                    found.insert(cells[place].clone(), cells[..own].to_vec());
                }
                Ok(())
            })?;
        }
        self.against = found;
        Ok(())
    }

    fn add(&mut self, source: &mut dyn Source, prefix: &str, is_rejected: bool) -> Result<()> {
        let fields = source.schema().fields.clone();
        let place = |name: &str| {
            let name = format!("{prefix}{name}");
            fields.iter().position(|field| *field == name).ok_or_else(|| {
                Error::unusable(
                    format!("{}: there is no column ‘{name}’", source.name()),
                    "clean the sources again",
                )
            })
        };
        let record_at = place("record")?;
        let [address, findings, why, suggestion, confidence, reason, same_as] = [
            "address",
            "findings",
            "why",
            "suggestion",
            "suggestion_confidence",
            "suggestion_reason",
            "same_as",
        ]
        .map(place);
        let [address, findings, why, suggestion, confidence, reason, same_as] =
            [address?, findings?, why?, suggestion?, confidence?, reason?, same_as?];
        self.own = fields.iter().take_while(|field| !field.starts_with(prefix)).count();
        let name = source.name().to_owned();
        each_row(source, &mut |_, cells| {
            let number = record_number(&cells[record_at]);
            let cell = |place: usize| cells[place].clone();
            let question = Question {
                is_rejected,
                address: cell(address),
                findings: cells[findings].split_whitespace().map(str::to_owned).collect(),
                why: cell(why),
                suggestion: cell(suggestion),
                confidence: cell(confidence),
                reason: cell(reason),
                same_as: cell(same_as),
                cells,
            };
            let is_twice = number.is_none_or(|number| self.by_record.insert(number, question).is_some());
            if is_twice {
                return Err(Error::unusable(
                    format!("{name}: records have more than one row"),
                    "clean the sources without --row-per-address, and decide then",
                ));
            }
            Ok(())
        })?;
        self.columns = fields;
        Ok(())
    }
}

/// The number of a record, as it stands in a cell; spreadsheet programs may show it with decimals.
pub(super) fn record_number(cell: &str) -> Option<u64> {
    let cell = cell.trim();
    cell.strip_suffix(".0").unwrap_or(cell).parse().ok()
}

/// Calls `see` with the line and the cells of each record, as many as there are fields.
pub(super) fn each_row(
    source: &mut dyn Source,
    see: &mut dyn FnMut(u64, Vec<String>) -> Result<()>,
) -> Result<()> {
    let (mut chunk, mut batch, mut decoder) = (Chunk::default(), Batch::default(), source.decoder());
    let (mut lines, width) = (source.schema().lines_before, source.schema().fields.len());
    while source.next_chunk(&mut chunk)? {
        batch.clear();
        decoder.decode(&chunk, &mut batch)?;
        for record in batch.records(&chunk) {
            let cell = |place| String::from_utf8_lossy(record.cell(place).unwrap_or_default()).into_owned();
            see(lines + record.line_in_chunk() + 1, (0..width).map(cell).collect())?;
        }
        lines += batch.lines;
    }
    Ok(())
}
