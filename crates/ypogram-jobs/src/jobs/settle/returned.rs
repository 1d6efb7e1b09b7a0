//! A file that came back with decisions in it. Nothing of it is taken but the record's number and the decision: spreadsheet programs
//! change dates, zeros and long numbers.

use std::path::Path;

use ypogram_io::{Error, EveryTable, OpenOptions, Result, Source};

use crate::decisions::{Answers, Decision};
use crate::engine::header_cells::sort_of_cell;
use crate::jobs::settle::questions::{each_row, record_number};
use crate::jobs::settle::{Asked, Questions};

/// What came back.
#[derive(Debug, Default)]
pub struct Returned {
    /// The decisions, in the order of the file.
    pub decisions: Vec<Asked>,
    /// What cannot be, with its place.
    pub faults: Vec<String>,
    /// Cells besides the decisions that are not what they were.
    pub changed_cells: u64,
    /// Decisions that were taken before.
    pub repeated: u64,
}

impl Returned {
    /// Adds what stands in the file at `path`, in each table of it that has the columns; `earlier` was decided before.
    ///
    /// # Errors
    /// Where it cannot be read, or no table has the columns.
    pub fn add(&mut self, path: &Path, prefix: &str, questions: &Questions, earlier: &Answers) -> Result<()> {
        let options = OpenOptions { sort_of: Some(sort_of_cell), ..OpenOptions::default() };
        let mut tables = EveryTable::of(path, &options)?;
        let mut found = false;
        while let Some(mut table) = tables.next_table()? {
            found |= self.add_table(&mut *table, prefix, questions, earlier)?;
        }
        match found {
            true => Ok(()),
            false => Err(Error::unusable(
                format!("{}: there are no columns ‘{prefix}record’ and ‘{prefix}decision’", path.display()),
                "give the review file that clean wrote, with decisions in it, whatever program saved it",
            )),
        }
    }

    fn add_table(
        &mut self,
        table: &mut dyn Source,
        prefix: &str,
        questions: &Questions,
        earlier: &Answers,
    ) -> Result<bool> {
        let fields = table.schema().fields.clone();
        let place = |name: &str| {
            let name = format!("{prefix}{name}");
            fields.iter().position(|field| field.trim().eq_ignore_ascii_case(&name))
        };
        let (Some(record_at), Some(decision_at)) = (place("record"), place("decision")) else {
            return Ok(false);
        };
        // Where each column stands in the untouched copy.
        let of_copy: Vec<Option<usize>> =
            fields.iter().map(|field| questions.columns.iter().position(|column| column == field)).collect();
        let name = table.name().to_owned();
        each_row(table, &mut |line, cells| {
            if cells.iter().all(|cell| cell.trim().is_empty()) {
                return Ok(());
            }
            let at = format!("{name}, line {line}");
            let number = record_number(&cells[record_at]);
            let Some(question) = number.and_then(|number| questions.by_record.get(&number)) else {
                let before = number.and_then(|number| earlier.by_record.get(&number));
                match (Decision::read(&cells[decision_at]), before) {
                    (Ok(None), _) => {}
                    (Ok(Some(decision)), Some(before)) if decision.is_that_of(before) => self.repeated += 1,
                    (_, Some(before)) => self.faults.push(format!(
                        "{at}: record {} was decided before ({})",
                        cells[record_at],
                        before.kind.word()
                    )),
                    (_, None) => {
                        let record = &cells[record_at];
                        self.faults.push(format!("{at}: ‘{record}’ is none of the records to decide about"));
                    }
                }
                return Ok(());
            };
            let changed = cells.iter().zip(&of_copy).enumerate().filter(|(place, (cell, of_copy))| {
                let before = of_copy.and_then(|of_copy| question.cells.get(of_copy));
                *place != decision_at
                    && of_copy.is_some_and(|place| place < questions.own)
                    && before.is_some_and(|before| before.trim() != cell.trim())
            });
            self.changed_cells += changed.count() as u64;
            match Decision::read(&cells[decision_at]) {
                Ok(None) => {}
                Ok(Some(decision)) => {
                    self.decisions.push(Asked { record: number.unwrap_or_default(), at, decision });
                }
                Err(why) => self.faults.push(format!("{at}: {why}")),
            }
            Ok(())
        })?;
        Ok(true)
    }
}
