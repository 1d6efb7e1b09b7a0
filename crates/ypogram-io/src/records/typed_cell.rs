//! What a cell of a packed record holds, in a few bytes.

use crate::records::value::Value;

/// A cell of a packed record, by where its parts stand.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct TypedCell {
    pub(crate) kind: u8,
    pub(crate) bits: i64,
    /// Where its bytes stand, of those that are no text, else its text.
    pub(crate) start: u32,
    pub(crate) end: u32,
}

impl TypedCell {
    /// Whether it is a cell, and not something that stands behind one.
    pub(crate) fn is_cell(&self) -> bool {
        self.kind < 12
    }

    /// What it holds; `bytes` are those it was read from, and `text` is what a person sees.
    pub(crate) fn value<'b>(&self, bytes: &'b [u8], text: &'b [u8]) -> Value<'b> {
        match self.kind {
            0 => Value::Missing,
            1 => Value::Null,
            3 => Value::Bool(self.bits != 0),
            4 => Value::Integer(self.bits),
            5 => Value::Float(f64::from_bits(self.bits as u64)),
            6 => Value::Decimal(text),
            7 => Value::Date(self.bits as i32),
            8 => Value::DateTime(self.bits),
            9 => Value::Time(self.bits),
            10 => Value::Bytes(&bytes[self.start as usize..self.end as usize]),
            11 => Value::Json(text),
            _ => Value::Text(text),
        }
    }
}
