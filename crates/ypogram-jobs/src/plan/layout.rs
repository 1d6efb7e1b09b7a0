//! How outputs are written: like the source, or the first of several.

use std::sync::Arc;

use ypogram_tables::csv::{CsvRows, TextLayout};
use ypogram_tables::{
    EncodeRows, LineRows, OwnFields, Projection, ProjectionSpec, Result, RowWriter, Schema, SourceKind,
};

use crate::engine::reading::Reading;
use crate::plan::columns::ColumnSet;
use crate::plan::fields::FieldPlan;

/// How outputs are written.
#[derive(Clone, Debug)]
pub(crate) struct OutputLayout {
    layout: TextLayout,
    /// The own fields' header as it stands in the source, where records may be copied.
    header: Option<Vec<u8>>,
    fields: Vec<String>,
    /// One for each source.
    own: Vec<OwnFields>,
}

impl OutputLayout {
    pub(crate) fn of(reading: &Reading, plan: &FieldPlan) -> Self {
        let first = reading.schemas().next().expect("at least one source");
        let layout = first.layout().unwrap_or_default();
        let own = |(schema, places): (&Schema, &Vec<Option<usize>>)| {
            let are_the_same = schema.fields == plan.fields;
            let looks_alike = schema.layout().is_some_and(|own| own.delimiter == layout.delimiter);
            OwnFields {
                places: places.clone(),
                width: schema.fields.len(),
                are_the_same,
                can_be_copied: are_the_same && looks_alike,
            }
        };
        let own: Vec<OwnFields> = reading.schemas().zip(&plan.places).map(own).collect();
        let header = match &first.kind {
            SourceKind::Separated { header, .. } if own[0].can_be_copied => header.clone(),
            _ => None,
        };
        OutputLayout { layout, header, fields: plan.fields.clone(), own }
    }

    /// The same for outputs of added columns only.
    pub(crate) fn without_own_fields(self) -> Self {
        let own = vec![OwnFields::default(); self.own.len()];
        OutputLayout { fields: Vec::new(), header: None, own, ..self }
    }

    /// The same for rows without a header, separated by commas.
    pub(crate) fn plain(self) -> Self {
        OutputLayout { layout: TextLayout::default(), ..self.without_own_fields() }
    }

    /// The name of an output file in this format.
    pub(crate) fn file_name(&self, stem: &str) -> String {
        format!("{stem}.{}", if self.layout.delimiter == b'\t' { "tsv" } else { "csv" })
    }

    /// The columns of an output with the added columns `columns`, as they are wanted.
    ///
    /// # Errors
    /// Where a column is named that the output does not have.
    pub(crate) fn projection(&self, columns: &ColumnSet, spec: &ProjectionSpec) -> Result<Arc<Projection>> {
        let added: Vec<String> = columns.names().collect();
        Projection::new(spec, &self.fields, &added).map(Arc::new)
    }

    /// The names of all columns of an output.
    pub(crate) fn names(&self, columns: &ColumnSet) -> Vec<String> {
        self.fields.iter().cloned().chain(columns.names()).collect()
    }

    /// Writes the rows of an output; one for each thread.
    pub(crate) fn writer(&self, projection: &Arc<Projection>) -> RowWriter {
        let rows = CsvRows::new(self.layout, self.own.clone(), Arc::clone(projection), self.header.clone());
        let encoder: Box<dyn EncodeRows> = Box::new(rows);
        RowWriter::new(encoder, self.own.clone(), Arc::clone(projection))
    }

    /// Writes records of text as lines; one for each thread.
    pub(crate) fn line_writer(&self) -> RowWriter {
        let everything = Projection::new(&ProjectionSpec::default(), &self.fields, &[]);
        let projection = Arc::new(everything.expect("fields of text have different names"));
        RowWriter::new(Box::new(LineRows), self.own.clone(), projection)
    }
}
