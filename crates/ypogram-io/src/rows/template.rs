//! What the added cells of many rows have in common.

use crate::rows::RowValues;

/// The added cells of a row, by column: those that many rows share, and where each row has values of its own.
///
/// Most rows of a list differ only in a few values, such as the address; an encoder prepares the rest of them once.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Template {
    /// One for each added column.
    pub cells: Vec<TemplateCell>,
}

/// An added cell of many rows.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum TemplateCell {
    /// There is nothing in it.
    Nothing,
    /// The same text in all of them.
    Text(Box<[u8]>),
    /// Yes or no.
    Bool(bool),
    /// The row's value of that number, a text.
    Value(usize),
    /// The row's value of that number, which is a number.
    Number(usize),
}

impl Template {
    /// Appends the text of the cell in a column, as a person would see it.
    pub fn write_text(&self, column: usize, values: RowValues<'_>, out: &mut Vec<u8>) {
        match &self.cells[column] {
            TemplateCell::Nothing => {}
            TemplateCell::Text(text) => out.extend_from_slice(text),
            TemplateCell::Bool(true) => out.extend_from_slice(b"true"),
            TemplateCell::Bool(false) => out.extend_from_slice(b"false"),
            TemplateCell::Value(value) => out.extend_from_slice(values.get(*value)),
            TemplateCell::Number(value) => {
                if let Some(number) = values.number(*value) {
                    out.extend_from_slice(itoa::Buffer::new().format(number).as_bytes());
                }
            }
        }
    }
}
