//! What depends on the order of the pieces: lines and records, and one row a mailbox.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use hashbrown::HashMap;
use ypogram_io::{EncodedRows, OutRow, Output, Result, RowOutput, Values};

use crate::engine::distinct::{Distinct, DistinctCount};
use crate::engine::line_count::unclosed_quote;
use crate::engine::packed_cells::{pack, unpack};
use crate::engine::pipeline::Flow;
use crate::jobs::extract::ExtractOptions;
use crate::jobs::extract::feed::ExtractTask;
use crate::jobs::extract::part::{Counts, Part};
use crate::jobs::extract::report::{ExtractReport, ReadReport};
use crate::jobs::extract::row::{RowKey, RowLayout, value};
use crate::jobs::extract::rows::note_met;
use crate::jobs::extract::unique_rows::UniqueRows;

pub(crate) struct Settling<'p> {
    options: &'p ExtractOptions,
    counts: Counts,
    mailboxes: Distinct,
    domains: Distinct,
    /// The rows of `--unique`, in the order in which their mailboxes were seen.
    unique: UniqueRows,
    /// What the shared cells of these rows follow from.
    keys: Vec<RowKey>,
    key_numbers: HashMap<RowKey, u32>,
    rows: u64,
    /// Rows that the workers gave, of which some may not be written.
    met: u64,
    /// Tells that no more has to be read.
    enough: Arc<AtomicBool>,
    source: Option<usize>,
    lines: u64,
    records: u64,
    blank_lines: u64,
    unpaired: u64,
    undecoded: u64,
    troubles: Vec<String>,
    /// Which of the fields that were named were seen, as in the parts.
    fields_met: Vec<bool>,
}

/// The values that a row has before the end, which of them are texts and which numbers.
const TEXTS: [usize; 7] =
    [value::ADDRESS, value::AS_FOUND, value::NAME, value::FIELD, value::SOURCE, value::CONTEXT, value::ID];
const NUMBERS: [usize; 3] = [value::RECORD, value::LINE, value::OFFSET];

/// The output is handed so many bytes at once.
const GATHERED: usize = 1 << 16;

impl<'p> Settling<'p> {
    pub(crate) fn new(options: &'p ExtractOptions, enough: Arc<AtomicBool>) -> Self {
        Settling {
            options,
            counts: Counts::default(),
            mailboxes: Distinct::default(),
            domains: Distinct::default(),
            unique: UniqueRows::within(options.memory / 2),
            keys: Vec::new(),
            key_numbers: HashMap::new(),
            rows: 0,
            met: 0,
            enough,
            source: None,
            lines: 0,
            records: 0,
            blank_lines: 0,
            unpaired: 0,
            undecoded: 0,
            troubles: Vec::new(),
            fields_met: Vec::new(),
        }
    }

    /// Settles the rows of the next piece.
    ///
    /// # Errors
    /// Where a table ends inside quotes, or the temporary folder cannot be used.
    pub(crate) fn settle(&mut self, task: &ExtractTask, part: &mut Part) -> Result<Flow> {
        if self.source != Some(task.source) {
            (self.source, self.lines, self.records) = (Some(task.source), task.lines_before, 0);
            self.blank_lines += task.blank_lines_before;
        }
        if let Some(before) = task.piece.unclosed {
            return Err(unclosed_quote(&task.name, self.lines + before + 1));
        }
        self.troubles.extend(part.trouble.take());
        self.add(&part.counts);
        for (nth, _) in part.fields_met.iter().enumerate().filter(|(_, met)| **met) {
            note_met(&mut self.fields_met, nth);
        }
        if let Some(first) = self.options.first {
            part.rows.truncate(first.saturating_sub(self.met) as usize);
            self.enough.store(self.met + part.rows.len() as u64 >= first, Ordering::Relaxed);
        }
        self.met += part.rows.len() as u64;
        // Apart from the rows, so that waiting for one place in memory does not wait for the others.
        let listed = part.rows.iter().filter(|place| place.key != 0);
        let listed = listed.map(|place| (place.key as u64, place.domain));
        for (key, domain) in listed.chain(part.unlisted.iter().copied()) {
            self.mailboxes.add(key);
            self.domains.add(domain);
        }
        (part.lines_before, part.records_before) = (self.lines, self.records);
        if self.options.unique {
            self.keep_first_rows(part)?;
        }
        self.rows += part.rows.iter().filter(|row| row.is_written).count() as u64;
        self.lines += part.lines;
        self.records += part.records;
        self.blank_lines += part.blank_lines;
        self.unpaired += part.unpaired;
        self.undecoded += part.undecoded;
        Ok(Flow::GoOn)
    }

    /// Keeps the first row of each mailbox, with its place, for the end.
    fn keep_first_rows(&mut self, part: &mut Part) -> Result<()> {
        for nth in 0..part.rows.len() {
            part.rows[nth].is_written = self.options.show_skipped;
            let row = part.rows[nth];
            if row.key == 0 {
                continue;
            }
            let key = part.keys[row.template as usize];
            let (keys, numbers) = (&mut self.keys, &mut self.key_numbers);
            self.unique.add(row.key, |out| {
                part.set_place(nth);
                let number = *numbers.entry(key).or_insert_with(|| {
                    keys.push(key);
                    keys.len() as u32 - 1
                });
                pack(&number.to_le_bytes(), out);
                let values = part.values.of_row(nth);
                for text in TEXTS {
                    pack(values.get(text), out);
                }
                for place in NUMBERS {
                    pack(&values.number(place).unwrap_or(u64::MAX).to_le_bytes(), out);
                }
            })?;
        }
        Ok(())
    }

    fn add(&mut self, counts: &Counts) {
        self.counts.addresses += counts.addresses;
        self.counts.matches.resize(self.options.patterns.len(), 0);
        for (sum, more) in self.counts.matches.iter_mut().zip(&counts.matches) {
            *sum += more;
        }
        self.counts.formulas += counts.formulas;
        for (sum, more) in self.counts.verdicts.iter_mut().zip(&counts.verdicts) {
            *sum += more;
        }
        for (sum, more) in self.counts.forms.iter_mut().zip(&counts.forms) {
            *sum += more;
        }
        for (sum, more) in self.counts.passed.iter_mut().zip(&counts.passed) {
            *sum += more;
        }
    }

    /// Writes what waited for the end, and tells what there is to tell.
    ///
    /// # Errors
    /// Where the output cannot be written, or the temporary folder not be used.
    pub(crate) fn finish(
        mut self,
        mut read: ReadReport,
        layout: &RowLayout,
        mut output: RowOutput<Output>,
    ) -> Result<ExtractReport> {
        self.write_first_rows(layout, &mut output)?;
        output.finish()?.finish()?;
        read.troubles.append(&mut self.troubles);
        let named = self.options.fields.iter().enumerate();
        let unmet = named.filter(|(nth, _)| !self.fields_met.get(*nth).copied().unwrap_or_default());
        let fields_without_text = unmet.map(|(_, field)| field.clone()).collect();
        Ok(ExtractReport {
            files: read.files,
            names: read.names,
            described: read.described,
            not_read: read.not_read,
            remarks: read.remarks,
            troubles: read.troubles,
            broken_off: read.broken_off,
            fields_without_text,
            addresses: self.counts.addresses,
            formula_cells: self.counts.formulas,
            rows: self.rows,
            blank_lines: self.blank_lines,
            unpaired_surrogates: self.unpaired,
            undecoded_messages: self.undecoded,
            mailboxes: match self.options.unique {
                true => DistinctCount { count: self.rows, exact: true },
                false => self.mailboxes.count(),
            },
            domains: self.domains.count(),
            verdicts: self.counts.verdicts,
            forms: self.counts.forms,
            passed: self.counts.passed,
            matches: match self.options.patterns.is_empty() {
                true => Vec::new(),
                false => {
                    let names = self.options.patterns.iter().map(|pattern| pattern.name.clone());
                    names.zip(self.counts.matches).collect()
                }
            },
        })
    }

    /// Writes the first row of each mailbox, with how many addresses it has.
    fn write_first_rows(&mut self, layout: &RowLayout, output: &mut RowOutput<Output>) -> Result<()> {
        let mut writer = layout.writer();
        for key in &self.keys {
            writer.add_template(layout.template(key));
        }
        let (mut values, mut rows) = (Values::default(), EncodedRows::default());
        let unique = std::mem::replace(&mut self.unique, UniqueRows::within(0));
        unique.finish(|packed, count| {
            values.clear(value::VALUES);
            values.add_row();
            let mut cells = unpack(packed);
            let number = cells.next().and_then(|number| number.try_into().ok()).map_or(0, u32::from_le_bytes);
            for (text, cell) in TEXTS.into_iter().zip(&mut cells) {
                let place = values.append(cell);
                values.set(0, text, place);
            }
            for (place, cell) in NUMBERS.into_iter().zip(&mut cells) {
                let number = cell.try_into().map_or(u64::MAX, u64::from_le_bytes);
                if number != u64::MAX {
                    values.set_number(0, place, number);
                }
            }
            values.set_number(0, value::COUNT, count);
            let row = OutRow {
                record: None,
                template: number as usize,
                values: values.of_row(0),
                values_are_simple: false,
                record_is_simple: false,
                replaced: &[],
            };
            writer.row(&row, &mut rows);
            self.rows += 1;
            if rows.bytes.len() > GATHERED {
                output.write(&rows)?;
                rows.clear();
            }
            Ok(())
        })?;
        output.write(&rows)
    }
}
