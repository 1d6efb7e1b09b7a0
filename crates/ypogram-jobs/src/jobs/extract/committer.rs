//! What depends on the order of the pieces: lines and records, one row a mailbox, and the output.

use std::io::Write as _;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use ypogram_tables::csv::{Arranged, CsvEncoder};
use ypogram_tables::{Output, Result, append_few, append_short};

use crate::engine::distinct::{Distinct, DistinctCount};
use crate::engine::line_count::unclosed_quote;
use crate::engine::numbers::{Decimal, write_number};
use crate::jobs::extract::ExtractOptions;
use crate::jobs::extract::feed::ExtractTask;
use crate::jobs::extract::report::{ExtractReport, ReadReport};
use crate::jobs::extract::row::{self, RowFormat};
use crate::jobs::extract::unique_rows::UniqueRows;
use crate::jobs::extract::worker::{Counts, Part, RowPlace, note_met};

pub(crate) struct Committer<'p> {
    options: &'p ExtractOptions,
    output: Output,
    buffer: Vec<u8>,
    counts: Counts,
    mailboxes: Distinct,
    domains: Distinct,
    /// The rows of `--unique`, in the order in which their mailboxes were met.
    unique: UniqueRows,
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
    /// Which of the fields that were named were met, as in the parts.
    fields_met: Vec<bool>,
}

/// So many octets, and others behind them: to copy a few too many is quicker than to find out how many there are.
type Short<'a> = (&'a [u8], usize);

/// What the output is handed at once.
const BUFFER: usize = 1 << 14;

impl<'p> Committer<'p> {
    pub(crate) fn new(options: &'p ExtractOptions, enough: Arc<AtomicBool>) -> Result<Self> {
        let mut buffer = Vec::with_capacity(BUFFER * 2);
        let mut arranged = None;
        if let RowFormat::Separated(delimiter) = options.format {
            let with_id = options.pieces.id.is_some();
            let names = row::header(options.show_skipped, options.context > 0, with_id, options.unique);
            if options.arrangement.is_none() {
                CsvEncoder::copying(0, delimiter, b"\n").row(names, &mut buffer);
            } else {
                let names: Vec<String> = names.into_iter().map(str::to_owned).collect();
                arranged = Some(Arranged::new(&options.arrangement, &names, delimiter, b"\n")?);
            }
        }
        let mut output = options.target.open()?;
        if let Some(arranged) = arranged {
            output.write(arranged.header())?;
            output.arrange(Some(arranged));
        }
        Ok(Committer {
            options,
            output,
            buffer,
            counts: Counts::default(),
            mailboxes: Distinct::default(),
            domains: Distinct::default(),
            unique: UniqueRows::within(options.memory / 2),
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
        })
    }

    pub(crate) fn commit(&mut self, task: &ExtractTask, part: &mut Part) -> Result<()> {
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
        let mut start = 0;
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
        for place in &part.rows {
            let (split, end) = (place.split as usize, place.end as usize);
            let row = (&part.bytes[start..], split - start);
            let rest = (&part.bytes[split..], end - split);
            start = end;
            if self.options.unique && place.key != 0 {
                let above = (self.lines, self.records);
                self.unique.add(place.key, |out| {
                    write_row(self.options.format, above, place, row, rest, out);
                })?;
            } else if !self.options.unique || self.options.show_skipped {
                let above = (self.lines, self.records);
                write_row(self.options.format, above, place, row, rest, &mut self.buffer);
                self.buffer.push(b'\n');
                self.rows += 1;
            }
            if self.buffer.len() >= BUFFER {
                self.output.write(&self.buffer)?;
                self.buffer.clear();
            }
        }
        self.lines += part.lines;
        self.records += part.records;
        self.blank_lines += part.blank_lines;
        self.unpaired += part.unpaired;
        self.undecoded += part.undecoded;
        Ok(())
    }

    fn add(&mut self, counts: &Counts) {
        self.counts.addresses += counts.addresses;
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

    pub(crate) fn finish(mut self, mut read: ReadReport) -> Result<ExtractReport> {
        let unique = std::mem::replace(&mut self.unique, UniqueRows::within(0));
        unique.finish(|row, count| {
            match self.options.format {
                RowFormat::Separated(delimiter) => {
                    self.buffer.extend_from_slice(row);
                    self.buffer.push(delimiter);
                    let _ = write!(self.buffer, "{count}");
                }
                RowFormat::JsonLines => {
                    self.buffer.extend_from_slice(&row[..row.len() - 1]);
                    let _ = write!(self.buffer, ",\"count\":{count}}}");
                }
                RowFormat::Plain => self.buffer.extend_from_slice(row),
            }
            self.buffer.push(b'\n');
            self.rows += 1;
            if self.buffer.len() >= BUFFER {
                self.output.write(&self.buffer)?;
                self.buffer.clear();
            }
            Ok(())
        })?;
        self.output.write(&self.buffer)?;
        self.output.finish()?;
        read.troubles.append(&mut self.troubles);
        let named = self.options.fields.iter().enumerate();
        let unmet = named.filter(|(nth, _)| !self.fields_met.get(*nth).copied().unwrap_or_default());
        let fields_without_text = unmet.map(|(_, field)| field.clone()).collect();
        Ok(ExtractReport {
            names: read.names,
            described: read.described,
            binary: read.binary,
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
        })
    }
}

/// Appends a row with its record and line, without a line end; so many lines and records stand above its piece.
fn write_row(
    format: RowFormat,
    (lines, records): (u64, u64),
    place: &RowPlace,
    row: Short<'_>,
    rest: Short<'_>,
    out: &mut Vec<u8>,
) {
    let line = lines.saturating_add_signed(place.line.into()) + 1;
    let mut line_digits = Decimal::new();
    let line_digits = line_digits.of(line);
    append_short::<128>(row.0, row.1, out);
    let record = (place.record != u32::MAX).then(|| records + u64::from(place.record) + 1);
    match format {
        RowFormat::Plain => {}
        RowFormat::Separated(delimiter) => {
            out.push(delimiter);
            if let Some(record) = record {
                write_number(record, out);
            }
            out.push(delimiter);
            append_few(line_digits, out);
            append_short::<32>(rest.0, rest.1, out);
        }
        RowFormat::JsonLines => {
            let record = record.map_or_else(|| "null".into(), |record| record.to_string());
            let _ = write!(out, ",\"record\":{record},\"line\":{line}}}");
        }
    }
}
