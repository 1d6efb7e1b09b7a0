//! A table beside the records, such as the groups of duplicates: rows of cells under names of our own.

use std::sync::Arc;

use ypogram_io::{
    ColumnType, EncodedRows, OutRow, Output, OutputFormat, OwnFields, Projection, Result, RowOutput, RowSpec,
    RowWriter, Target, Template, TemplateCell, Values,
};

/// The table while it grows.
pub(crate) struct SideTable {
    output: RowOutput<Output>,
    writer: RowWriter,
    /// For each column whether it holds numbers.
    numbers: Vec<bool>,
    values: Values,
    rows: EncodedRows,
}

/// Rows are handed over when there are so many bytes of them.
const GATHERED: usize = 1 << 16;

impl SideTable {
    /// Opens one with these columns, of which those in `numbers` hold numbers; of `spec` counts how rows are sorted and guarded.
    ///
    /// # Errors
    /// Where the file exists or cannot be made.
    pub(crate) fn open(target: &Target, columns: &[&str], numbers: &[&str], spec: &RowSpec) -> Result<Self> {
        let names: Vec<String> = columns.iter().map(|name| (*name).to_owned()).collect();
        let number = ColumnType::Integer { bits: 64, signed: true };
        let column_type = |name: &&str| if numbers.contains(name) { number } else { ColumnType::Text };
        let types: Vec<ColumnType> = columns.iter().map(column_type).collect();
        let projection = Arc::new(Projection::new(spec, &[], &names)?.with_types(&[], &types));
        let own = vec![OwnFields::default()];
        let encoder = OutputFormat::default().for_target(target, false)?.encoder(&own, &projection, None);
        let mut writer = RowWriter::new(encoder, own, Arc::clone(&projection));
        let cell = |(value, name): (usize, &&str)| match numbers.contains(name) {
            true => TemplateCell::Number(value),
            false => TemplateCell::Value(value),
        };
        writer.add_template(Template { cells: columns.iter().enumerate().map(cell).collect() });
        let output = RowOutput::begin(target.open()?, &writer.opening(), &projection)?;
        let mut values = Values::default();
        values.clear(columns.len());
        Ok(SideTable {
            output,
            writer,
            numbers: columns.iter().map(|name| numbers.contains(name)).collect(),
            values,
            rows: EncodedRows::default(),
        })
    }

    /// Opens one of pairs of records: these columns, and the identifiers of both where `with_id`.
    ///
    /// # Errors
    /// Where the file exists or cannot be made.
    pub(crate) fn open_pairs(
        target: &Target,
        columns: &[&str],
        with_id: bool,
        spec: &RowSpec,
    ) -> Result<Self> {
        let ids: &[&str] = if with_id { &["id", "other_id"] } else { &[] };
        Self::open(target, &[columns, ids].concat(), &["record", "line", "other_record", "other_line"], spec)
    }

    /// Adds a row; it has as many cells as there are columns, numbers in decimal.
    ///
    /// # Errors
    /// Where the file cannot be written, or the temporary folder not be used.
    pub(crate) fn add<C: AsRef<[u8]>>(&mut self, cells: impl IntoIterator<Item = C>) -> Result<()> {
        let row = self.values.add_row();
        for (value, cell) in cells.into_iter().enumerate() {
            if self.numbers[value] {
                let number = std::str::from_utf8(cell.as_ref()).ok().and_then(|digits| digits.parse().ok());
                self.values.set_number(row, value, number.expect("a number in decimal"));
                continue;
            }
            let place = self.values.append(cell.as_ref());
            self.values.set(row, value, place);
        }
        let out = OutRow {
            record: None,
            template: 0,
            values: self.values.of_row(row),
            values_are_simple: false,
            record_is_simple: false,
            replaced: &[],
        };
        self.writer.row(&out, &mut self.rows);
        self.values.clear(self.numbers.len());
        if self.rows.bytes.len() > GATHERED {
            self.hand_over()?;
        }
        Ok(())
    }

    fn hand_over(&mut self) -> Result<()> {
        self.output.write(&self.rows)?;
        self.rows.clear();
        Ok(())
    }

    /// The file, whole but not published yet.
    ///
    /// # Errors
    /// Where it cannot be written, or the temporary folder not be used.
    pub(crate) fn finish(mut self) -> Result<Output> {
        self.hand_over()?;
        self.output.finish()
    }
}
