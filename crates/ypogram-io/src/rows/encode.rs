//! What a format has to do to be an output of records.

use crate::records::batch::Record;
use crate::records::value::Value;
use crate::rows::enclose::MakeEnclosure;
use crate::rows::{RowValues, Template};

/// Where the fields of an output stand in the records of one source.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct OwnFields {
    /// For each field of the output its place in the record; none where the source lacks it.
    pub places: Vec<Option<usize>>,
    /// How many fields the source has; what a record has beyond them is surplus.
    pub width: usize,
    /// The output has the fields of the source, in the same order, and its rows look alike, so that a record may be copied as it
    /// stands there.
    pub can_be_copied: bool,
}

/// A row to be written.
#[derive(Clone, Copy, Debug)]
pub struct OutRow<'a> {
    /// The record whose fields it has; none where there are only added cells.
    pub record: Option<Record<'a>>,
    /// The number of its [`Template`].
    pub template: usize,
    /// Its values in that.
    pub values: RowValues<'a>,
    /// Letters, digits and `!#$%&'*+-./=?^_{}~@` are all there is in the values, so that no format needs quotes around them.
    pub values_are_simple: bool,
    /// The same of the first cell of the record.
    pub record_is_simple: bool,
    /// Cells in place of the record's, by field of the output.
    pub replaced: &'a [(usize, Vec<u8>)],
}

impl<'a> OutRow<'a> {
    /// The number of the record's source.
    #[inline]
    pub(crate) fn source(&self) -> usize {
        self.record.map_or(0, Record::source)
    }

    /// The text of the own field at `field` of the output.
    #[inline]
    pub(crate) fn own_cell(&self, field: usize, own: &OwnFields) -> &'a [u8] {
        if let Some((_, cell)) = self.replaced.iter().find(|(replaced, _)| *replaced == field) {
            return cell;
        }
        let cell = |record: Record<'a>| record.cell(own.places[field]?);
        self.record.and_then(cell).unwrap_or_default()
    }

    /// What the own field at `field` of the output holds.
    pub(crate) fn own_value(&self, field: usize, own: &OwnFields) -> Value<'a> {
        if let Some((_, cell)) = self.replaced.iter().find(|(replaced, _)| *replaced == field) {
            return Value::Text(cell);
        }
        let value = |record: Record<'a>| own.places[field].map(|place| record.value(place));
        self.record.and_then(value).unwrap_or(Value::Missing)
    }
}

/// Writes rows in one format. One for each thread.
pub trait EncodeRows: Send {
    /// Appends what stands before the first row.
    fn start(&self, out: &mut Vec<u8>);

    /// Makes what surrounds the rows, where something does.
    fn enclosure(&self) -> Option<MakeEnclosure> {
        None
    }

    /// Prepares for rows with such added cells; templates are numbered from 0, in the order in which they come.
    fn add_template(&mut self, template: &Template);

    /// Forgets all templates.
    fn forget_templates(&mut self);

    /// Appends a row, whole.
    fn row(&mut self, row: &OutRow<'_>, out: &mut Vec<u8>);
}
