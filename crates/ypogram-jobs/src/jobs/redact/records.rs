//! Copies of workbooks, databases and other files of typed cells: the records are written anew, with every cell redacted.

use std::path::Path;

use hashbrown::HashSet;
use ypogram_core::Hasher;
use ypogram_io::pieces::{Kind, Opened, Segment};
use ypogram_io::{
    Batch, Change, EncodedRows, Error, OutRow, Output, Record, Result, RowOutput, RowSpec, Target, Template,
};

use crate::engine::pipeline::Feed as _;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, Task};
use crate::jobs::redact::covered::{Covered, replaced_in};
use crate::jobs::redact::finder::Finder;
use crate::jobs::redact::options::RedactOptions;
use crate::jobs::redact::personal::{Part, Personal};
use crate::jobs::redact::proof::Left;
use crate::jobs::redact::replaced::Replaced;
use crate::jobs::redact::report::RedactReport;
use crate::plan::columns::{ColumnSet, Naming};
use crate::plan::fields::FieldPlan;
use crate::plan::layout::OutputLayout;

/// Whether `source` is a file of typed cells, which have no place in bytes.
///
/// # Errors
/// Where it cannot be opened.
pub fn has_typed_cells(options: &RedactOptions, source: &Path) -> Result<bool> {
    Ok(matches!(Opened::open(source, &options.pieces)?.kind(), Kind::Typed { .. }))
}

/// Writes the records of `source` without what is to be hidden to `output`, which is that of `target`, and gives it back to be published: unless
/// something was left in them, which is given as well.
///
/// # Errors
/// Where the source is unusable, a field does not exist, or the copy cannot be written.
pub fn run_records(
    options: &RedactOptions,
    source: &Path,
    (target, output): (&Target, Output),
    progress: &Progress,
) -> Result<(RedactReport, Vec<Left>, Output)> {
    let hasher = Hasher::with_key(options.hash_key);
    let mut replaced = Replaced::default();
    let hidden = hidden_values(options, source, &mut replaced, progress)?;
    let mut reading = Reading::open(&[source.to_path_buf()], &options.pieces.open)?;
    let plan = FieldPlan::of_all(&reading);
    let layout = OutputLayout::of(&reading, &plan, None).for_target(target)?;
    if layout.keeps_records_whole() {
        return Err(Error::unusable(
            format!(
                "{}: cards and entries are kept whole, and so cannot be redacted cell by cell",
                source.display()
            ),
            "write the copy as a table, such as -o copy.csv",
        ));
    }
    // What is hidden becomes a text, whatever it was.
    let changed = hidden.iter().map(|&field| (plan.fields[field].clone(), as_it_is as Change));
    let spec = RowSpec { changed: changed.collect(), ..RowSpec::default() };
    let none = ColumnSet::new(Vec::new(), Naming::with(""), &plan.fields)?;
    let projection = layout.projection(&none, &spec)?;
    let mut writer = layout.writer(&projection);
    let template = writer.add_template(Template { cells: Vec::new() });
    let mut rows = RowOutput::begin(output, &writer.opening(), &projection)?;
    let mut cells = Cells {
        finder: Finder::new(&options.policy, &options.hide, &options.by, hasher),
        replaced,
        hasher,
        report: RedactReport { source: source.display().to_string(), ..RedactReport::default() },
        different: HashSet::new(),
        left: Vec::new(),
    };
    let mut decoder = reading.decoders().remove(0);
    let (mut batch, mut encoded, mut task, mut line) = (
        Batch::default(),
        EncodedRows::default(),
        Task::default(),
        reading.schemas().map(|schema| schema.lines_before).sum::<u64>(),
    );
    while reading.next(&mut task)? {
        progress.check()?;
        batch.clear();
        encoded.clear();
        decoder.decode(&task.chunk, &mut batch)?;
        for record in batch.records(&task.chunk) {
            let redacted = cells.of_record(record, &plan, line + record.line_in_chunk() + 1);
            let out = OutRow {
                record: Some(record),
                template,
                values: Default::default(),
                values_are_simple: true,
                record_is_simple: false,
                replaced: &redacted,
            };
            writer.row(&out, &mut encoded);
        }
        rows.write(&encoded)?;
        line += batch.lines;
    }
    let output = rows.finish()?;
    let Cells { mut report, different, left, replaced, .. } = cells;
    report.different = different.len() as u64;
    report.merged = different.iter().filter(|instead| replaced.has_merged(**instead)).count() as u64;
    Ok((report, left, output))
}

fn as_it_is(cell: &[u8]) -> Vec<u8> {
    cell.to_vec()
}

/// The places of the fields that are hidden, whose values are gathered: all of them have to be known before the first record is proved.
fn hidden_values(
    options: &RedactOptions,
    source: &Path,
    replaced: &mut Replaced,
    progress: &Progress,
) -> Result<Vec<usize>> {
    let mut reading = Reading::open(&[source.to_path_buf()], &options.pieces.open)?;
    let plan = FieldPlan::of_all(&reading);
    let hidden = options.hide.iter().map(|field| plan.place_of(field, &reading, "--hide"));
    let hidden = hidden.collect::<Result<Vec<_>>>()?;
    let mut decoder = reading.decoders().remove(0);
    let (mut batch, mut task) = (Batch::default(), Task::default());
    while !hidden.is_empty() && reading.next(&mut task)? {
        progress.check()?;
        batch.clear();
        decoder.decode(&task.chunk, &mut batch)?;
        for record in batch.records(&task.chunk) {
            for &field in &hidden {
                replaced.add_value(plan.cell(record, field).unwrap_or_default());
            }
        }
    }
    Ok(hidden)
}

/// Redacts cell after cell, and searches what comes of it.
struct Cells<'p> {
    finder: Finder<'p>,
    replaced: Replaced,
    hasher: Hasher,
    report: RedactReport,
    different: HashSet<u64>,
    left: Vec<Left>,
}

impl Cells<'_> {
    /// The cells of a record that are other ones in the copy.
    fn of_record(&mut self, record: Record<'_>, plan: &FieldPlan, line: u64) -> Vec<(usize, Vec<u8>)> {
        let mut redacted = Vec::new();
        for (field, name) in plan.fields.iter().enumerate() {
            let cell = plan.cell(record, field).unwrap_or_default();
            if cell.trim_ascii().is_empty() {
                continue;
            }
            let found = self.look(cell, name);
            let (copy, covered) = (replaced_in(cell, &found), Covered::of(&found));
            for personal in &found {
                self.different.insert(self.replaced.note_text(personal, self.hasher));
                self.report.count(personal.what);
            }
            self.prove(&copy, &covered, line);
            if !found.is_empty() {
                redacted.push((field, copy));
            }
        }
        redacted
    }

    /// What of a cell is to be hidden, in order.
    fn look(&mut self, cell: &[u8], field: &str) -> Vec<Personal> {
        let segment = Segment::plain(cell, 0, field, None);
        let mut part = Part::default();
        self.finder.segment(&segment, &mut |at| at as u64, &mut part);
        self.report.passed_over += part.passed;
        part.in_order();
        part.found
    }

    /// Searches a cell of the copy.
    fn prove(&mut self, copy: &[u8], covered: &Covered, line: u64) {
        let passed = self.report.passed_over;
        let addresses = self.look(copy, "");
        self.report.passed_over = passed;
        let mut left = |what, offset: u64, end| {
            if !covered.covers(offset, end) {
                self.left.push(Left { what, offset, line });
            }
        };
        for address in addresses {
            left("address", address.start, address.end);
        }
        self.replaced.values.find(copy, |start, end| {
            left("value of a hidden field", start as u64, end as u64);
        });
    }
}
