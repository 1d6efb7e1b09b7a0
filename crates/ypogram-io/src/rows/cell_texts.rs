//! The cells of a row as texts, for formats in which everything is text.

use std::sync::Arc;

use crate::rows::{ColumnSource, OutRow, OwnFields, Projection, Template};

/// What is known of all rows of an output, and gives the texts of one.
pub(crate) struct CellTexts {
    own: Vec<OwnFields>,
    pub(crate) projection: Arc<Projection>,
    templates: Vec<Template>,
}

impl CellTexts {
    /// With `own` for each source.
    pub(crate) fn new(own: Vec<OwnFields>, projection: Arc<Projection>) -> Self {
        CellTexts { own, projection, templates: Vec::new() }
    }

    /// Prepares for rows with such added cells.
    pub(crate) fn add_template(&mut self, template: &Template) {
        self.templates.push(template.clone());
    }

    /// Forgets all templates.
    pub(crate) fn forget_templates(&mut self) {
        self.templates.clear();
    }

    /// The text of a column of a row.
    pub(crate) fn of(&self, column: usize, row: &OutRow<'_>) -> Vec<u8> {
        let column = &self.projection.columns[column];
        let mut text = Vec::new();
        match column.source {
            ColumnSource::Own(field) => text.extend_from_slice(row.own_cell(field, &self.own[row.source()])),
            ColumnSource::Added(added) => {
                self.templates[row.template].write_text(added, row.values, &mut text);
            }
        }
        match column.change {
            Some(change) => change(&text),
            None => text,
        }
    }

    /// What a record is written as in its source, where all its own columns come out as they stand.
    pub(crate) fn original<'a>(&self, row: &OutRow<'a>) -> Option<&'a [u8]> {
        let keeps_it = self.projection.is_everything && self.projection.own_fields > 0;
        row.record.filter(|_| keeps_it).and_then(|record| record.original())
    }

    /// The columns that a record does not have as it is written: those that were added, and own ones with another cell in place of theirs.
    pub(crate) fn beside_original(&self, row: &OutRow<'_>) -> impl Iterator<Item = (&str, usize)> {
        let is_replaced = |field: usize| row.replaced.iter().any(|(replaced, _)| *replaced == field);
        let columns = self.projection.columns.iter().enumerate();
        columns
            .filter(
                move |(_, column)| !matches!(column.source, ColumnSource::Own(field) if !is_replaced(field)),
            )
            .map(|(place, column)| (&*column.name, place))
    }
}
