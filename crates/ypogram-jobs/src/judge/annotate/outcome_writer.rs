//! Writes the rows of outputs that have the same columns.

use std::sync::Arc;

use hashbrown::HashMap;
use ypogram_io::{EncodedRows, OutRow, Projection, RowWriter};

use crate::judge::added_cells::{AddedColumns, TemplateKey};
use crate::plan::columns::ColumnSet;
use crate::plan::layout::OutputLayout;

/// As many templates are remembered; a list of one's own may bring more.
const MOST_TEMPLATES: usize = 4096;

/// Writes the rows of outputs that have the same columns.
pub(super) struct OutcomeWriter {
    added: AddedColumns,
    writer: RowWriter,
    /// The numbers of templates in the writer.
    templates: HashMap<TemplateKey, usize>,
}

impl OutcomeWriter {
    /// Of rows with the columns `columns`, whose values are among those of `all`.
    pub(super) fn new(
        all: &AddedColumns,
        columns: &ColumnSet,
        layout: &OutputLayout,
        projection: &Arc<Projection>,
    ) -> Self {
        let added = all.only(columns.iter().collect());
        OutcomeWriter { added, writer: layout.writer(projection), templates: HashMap::new() }
    }

    /// Appends a row.
    #[inline]
    pub(super) fn row(&mut self, row: &OutRow<'_>, out: &mut EncodedRows) {
        self.writer.row(row, out);
    }

    /// The numbers of the templates of `keys`; those that are new are added.
    pub(super) fn templates(&mut self, keys: &[TemplateKey]) -> Vec<usize> {
        if self.templates.len() > MOST_TEMPLATES {
            self.templates.clear();
            self.writer.forget_templates();
        }
        let (added, writer) = (&self.added, &mut self.writer);
        let mut template_of =
            |key| *self.templates.entry(key).or_insert_with(|| writer.add_template(added.template(&key)));
        keys.iter().map(|key| template_of(*key)).collect()
    }
}
