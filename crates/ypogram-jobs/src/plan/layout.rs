//! How outputs are written: like the source, or the first of several.

use std::sync::Arc;

use ypogram_io::{
    ColumnType, Error, Format, LineRows, OutputFormat, OwnFields, Projection, Result, RowSpec, RowWriter,
    Schema, SourceKind, Target,
};

use crate::engine::reading::Reading;
use crate::plan::columns::ColumnSet;
use crate::plan::fields::FieldPlan;

/// How outputs are written.
#[derive(Clone, Debug)]
pub(crate) struct OutputLayout {
    format: OutputFormat,
    /// The format was asked for, whatever the name of an output tells.
    is_given: bool,
    /// The own fields' header as it stands in the source, where records may be copied.
    header: Option<Vec<u8>>,
    fields: Vec<String>,
    /// Their types, where all sources have the same for whole columns.
    types: Vec<ColumnType>,
    /// Records are named by a field of theirs.
    with_id: bool,
    /// One for each source.
    own: Vec<OwnFields>,
}

impl OutputLayout {
    /// For the records of `reading`; like the first source, unless another format is asked for.
    pub(crate) fn of(reading: &Reading, plan: &FieldPlan, format: Option<Format>) -> Self {
        let first = reading.schemas().next().expect("at least one source");
        let row_format = OutputFormat::like(first, format);
        let own = |(schema, places): (&Schema, &Vec<Option<usize>>)| OwnFields {
            places: places.clone(),
            width: schema.fields.len(),
            can_be_copied: schema.fields == plan.fields && row_format.is_that_of(schema),
        };
        let own: Vec<OwnFields> = reading.schemas().zip(&plan.places).map(own).collect();
        let header = match &first.kind {
            SourceKind::Separated { header, .. } if own[0].can_be_copied => header.clone(),
            _ => None,
        };
        OutputLayout {
            format: row_format,
            is_given: format.is_some(),
            header,
            fields: plan.fields.clone(),
            types: types_of(reading, plan),
            with_id: plan.has_id(),
            own,
        }
    }

    /// The same for an output whose name may say another format.
    ///
    /// # Errors
    /// Where it says one that is not written, or another than was asked for.
    pub(crate) fn for_target(&self, target: &Target) -> Result<Self> {
        let format = self.format.for_target(target, self.is_given)?;
        if format == self.format {
            return Ok(self.clone());
        }
        let own = self.own.iter().map(|own| OwnFields { can_be_copied: false, ..own.clone() }).collect();
        Ok(OutputLayout { format, header: None, own, ..self.clone() })
    }

    /// The same for outputs of added columns only.
    fn without_own_fields(self) -> Self {
        let own = vec![OwnFields::default(); self.own.len()];
        OutputLayout { fields: Vec::new(), header: None, own, ..self }
    }

    /// The same for rows without a header, separated by commas.
    pub(crate) fn plain(self) -> Self {
        OutputLayout { format: OutputFormat::default(), ..self.without_own_fields() }
    }

    /// The name of an output file in this format.
    pub(crate) fn file_name(&self, stem: &str) -> String {
        format!("{stem}.{}", self.format.extension())
    }

    /// The columns of an output with the added columns `columns`, as they are wanted.
    ///
    /// # Errors
    /// Where a column is named that the output does not have.
    pub(crate) fn projection(&self, columns: &ColumnSet, spec: &RowSpec) -> Result<Arc<Projection>> {
        let format = self.format.format().entry();
        if !spec.encoding.is_plain() && !format.uses.is_text {
            return Err(Error::unusable(
                format!("--output-encoding and --bom are for text, and the output is {}", format.called),
                "leave them out, or write csv",
            ));
        }
        let added: Vec<String> = columns.names().collect();
        let types: Vec<ColumnType> = columns.iter().map(|column| column.column_type(self.with_id)).collect();
        let projection = Projection::new(spec, &self.fields, &added)?;
        Ok(Arc::new(projection.with_types(&self.types, &types)))
    }

    /// Whether records come out with all that they hold, as cards do, rather than cell by cell.
    pub(crate) fn keeps_records_whole(&self) -> bool {
        matches!(self.format.format(), Format::Vcard | Format::Ldif)
    }

    /// The names of all columns of an output.
    pub(crate) fn names(&self, columns: &ColumnSet) -> Vec<String> {
        self.fields.iter().cloned().chain(columns.names()).collect()
    }

    /// Writes the rows of an output; one for each thread.
    pub(crate) fn writer(&self, projection: &Arc<Projection>) -> RowWriter {
        let encoder = self.format.encoder(&self.own, projection, self.header.clone());
        RowWriter::new(encoder, self.own.clone(), Arc::clone(projection))
    }

    /// Writes records of text as lines; one for each thread.
    pub(crate) fn line_writer(&self) -> RowWriter {
        let everything = Projection::new(&RowSpec::default(), &self.fields, &[]);
        let projection = Arc::new(everything.expect("fields of text have different names"));
        RowWriter::new(Box::new(LineRows), self.own.clone(), projection)
    }
}

/// The types of the fields of `plan`, where each source has a field and the same type for it.
fn types_of(reading: &Reading, plan: &FieldPlan) -> Vec<ColumnType> {
    let type_in = |field: usize, (schema, places): (&Schema, &Vec<Option<usize>>)| {
        places[field].and_then(|place| schema.types.get(place).copied()).unwrap_or_default()
    };
    let type_of = |field: usize| {
        let mut types = reading.schemas().zip(&plan.places).map(|source| type_in(field, source));
        let first = types.next().unwrap_or_default();
        if types.all(|other| other == first) { first } else { ColumnType::Text }
    };
    (0..plan.fields.len()).map(type_of).collect()
}
