//! What the added cells of many rows have in common.

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
    /// The row's value of that number, which is a number in decimal.
    Number(usize),
}

impl Template {
    /// The text of the cell in a column, as a person would see it.
    #[inline]
    pub(crate) fn text<'a>(&'a self, column: usize, values: crate::rows::RowValues<'a>) -> &'a [u8] {
        match &self.cells[column] {
            TemplateCell::Nothing => b"",
            TemplateCell::Text(text) => text,
            TemplateCell::Bool(true) => b"true",
            TemplateCell::Bool(false) => b"false",
            TemplateCell::Value(value) | TemplateCell::Number(value) => values.get(*value),
        }
    }
}
