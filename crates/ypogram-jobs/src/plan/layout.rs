//! How outputs are written: in the format and dialect of the source, or of the first of several.

use ypogram_tables::csv::{Arranged, Arrangement, CsvEncoder};
use ypogram_tables::{Result, Schema};

use crate::engine::reading::Reading;
use crate::plan::columns::ColumnSet;
use crate::plan::fields::FieldPlan;

/// How outputs are written.
#[derive(Clone, Debug)]
pub(crate) struct OutputLayout {
    delimiter: u8,
    line_end: &'static [u8],
    byte_order_mark: bool,
    /// The own fields' header as it stands in the source, where records are copied.
    raw_header: Option<Vec<u8>>,
    fields: Vec<String>,
    /// One for each source.
    pub(crate) encoders: Vec<CsvEncoder>,
}

impl OutputLayout {
    pub(crate) fn of(reading: &Reading, plan: &FieldPlan) -> Self {
        let first = reading.schemas().next().expect("at least one source");
        let copied = |schema: &Schema| {
            !schema.is_text && schema.delimiter == first.delimiter && schema.fields == plan.fields
        };
        let encoders = reading
            .schemas()
            .zip(&plan.places)
            .map(|(schema, places)| match copied(schema) {
                true => CsvEncoder::copying(plan.fields.len(), first.delimiter, first.line_end),
                false => CsvEncoder::rewriting(places.clone(), first.delimiter, first.line_end),
            })
            .collect();
        OutputLayout {
            delimiter: first.delimiter,
            line_end: first.line_end,
            byte_order_mark: first.byte_order_mark,
            raw_header: if copied(first) { first.header.clone() } else { None },
            fields: plan.fields.clone(),
            encoders,
        }
    }

    /// The same for outputs of added columns only.
    pub(crate) fn without_own_fields(self) -> Self {
        let (delimiter, line_end) = (self.delimiter, self.line_end);
        let encoder = |_| CsvEncoder::rewriting(Vec::new(), delimiter, line_end);
        let encoders = self.encoders.iter().map(encoder).collect();
        OutputLayout { fields: Vec::new(), raw_header: None, encoders, ..self }
    }

    /// The name of an output file in this format.
    pub(crate) fn file_name(&self, stem: &str) -> String {
        format!("{stem}.{}", if self.delimiter == b'\t' { "tsv" } else { "csv" })
    }

    /// The rows of an output with the added columns `columns`, as they are wanted; none where they stay as they are.
    ///
    /// # Errors
    /// Where a column is named that the output does not have.
    pub(crate) fn arranged(
        &self,
        columns: &ColumnSet,
        arrangement: &Arrangement,
    ) -> Result<Option<Arranged>> {
        if arrangement.is_none() {
            return Ok(None);
        }
        Arranged::new(arrangement, &self.names(columns), self.delimiter, self.line_end).map(Some)
    }

    /// The names of all columns of an output.
    pub(crate) fn names(&self, columns: &ColumnSet) -> Vec<String> {
        self.fields.iter().cloned().chain(columns.names()).collect()
    }

    /// What the file starts with: the own fields and the added columns, as they are wanted.
    pub(crate) fn header(&self, columns: &ColumnSet, arranged: Option<&Arranged>) -> Vec<u8> {
        let mut out = if self.byte_order_mark { b"\xEF\xBB\xBF".to_vec() } else { Vec::new() };
        if let Some(arranged) = arranged {
            out.extend_from_slice(arranged.header());
            return out;
        }
        let names: Vec<String> = columns.names().collect();
        let mut encoder = CsvEncoder::copying(0, self.delimiter, self.line_end);
        match &self.raw_header {
            Some(header) => {
                out.extend_from_slice(header);
                if !names.is_empty() {
                    out.push(self.delimiter);
                }
                encoder.row(names.iter().map(String::as_str), &mut out);
            }
            None => encoder.row(self.fields.iter().chain(&names).map(String::as_str), &mut out),
        }
        out
    }
}
