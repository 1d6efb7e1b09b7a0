//! Tables of files as sheets of one workbook, with a summary before them.

use std::path::{Path, PathBuf};

use ypogram_core::Policy;
use ypogram_io::{
    Batch, BookFile, BookSummary, EncodedRows, ErrorKind, Format, OpenOptions, Opening, OutRow, OutputFile,
    Result, RowOutput, RowSpec, Template,
};

use crate::engine::header_cells::sort_of_cell;
use crate::engine::pipeline::Feed as _;
use crate::engine::reading::{Reading, Task};
use crate::plan::columns::{ColumnSet, Naming};
use crate::plan::fields::{FieldChoice, FieldPlan};
use crate::plan::layout::OutputLayout;

/// A table that becomes a sheet.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct BookTable {
    /// The name of the sheet: at most 31 characters, none of `[]:*?/\`.
    pub name: String,
    /// The file, with the table behind `#` where it is a database.
    pub source: PathBuf,
}

/// Writes the tables into the workbook at `path`, in order; gives the file, which is not published yet. One without records has no
/// sheet.
///
/// # Errors
/// Where a table cannot be read, or the workbook exists and is not to be replaced, or cannot be written.
pub fn workbook(
    path: &Path,
    replace: bool,
    tables: &[BookTable],
    summary: &BookSummary,
) -> Result<OutputFile> {
    let book = BookFile::create(path, replace)?;
    for table in tables {
        match add(&book, table) {
            Err(error) if error.kind == ErrorKind::Empty => {}
            result => result?,
        }
    }
    let names: Vec<&str> = tables.iter().map(|table| &*table.name).collect();
    book.finish(summary, &names)
}

fn add(book: &BookFile, table: &BookTable) -> Result<()> {
    let options = OpenOptions { sort_of: Some(sort_of_cell), ..OpenOptions::default() };
    let mut reading = Reading::open(std::slice::from_ref(&table.source), &options)?;
    let plan = FieldPlan::settle(&mut reading, &FieldChoice::default(), &Policy::default())?;
    let layout = OutputLayout::of(&reading, &plan, Some(Format::Xlsx));
    let columns = ColumnSet::new(Vec::new(), Naming::with("yp_"), &plan.fields)?;
    let projection = layout.projection(&columns, &RowSpec::default())?;
    let mut writer = layout.writer(&projection);
    writer.add_template(Template { cells: Vec::new() });
    let sheet = book.add_sheet(&table.name, &projection, None)?;
    // A sheet takes the rows as they are packed.
    let mut rows = RowOutput::begin(sheet, &Opening::default(), &projection)?;
    let mut decoder = reading.decoders().remove(0);
    let (mut batch, mut encoded) = (Batch::default(), EncodedRows::default());
    let mut task = Task::default();
    while reading.next(&mut task)? {
        batch.clear();
        encoded.clear();
        decoder.decode(&task.chunk, &mut batch)?;
        for record in batch.records(&task.chunk) {
            let out = OutRow {
                record: Some(record),
                template: 0,
                values: Default::default(),
                values_are_simple: true,
                record_is_simple: false,
                replaced: &[],
            };
            writer.row(&out, &mut encoded);
        }
        rows.write(&encoded)?;
    }
    rows.finish().map(drop)
}
