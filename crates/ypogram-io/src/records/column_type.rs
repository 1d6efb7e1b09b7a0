//! The types of columns, as far as formats with types for whole columns need them.

/// What all cells of a column hold.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum ColumnType {
    /// Texts, or cells of different kinds.
    #[default]
    Text,
    /// Yes or no.
    Bool,
    /// Whole numbers.
    Integer {
        /// 8, 16, 32 or 64.
        bits: u8,
        /// There may be numbers below zero.
        signed: bool,
    },
    /// Numbers in floating point, of 32 or 64 bits.
    Float {
        /// 32 or 64.
        bits: u8,
    },
    /// Numbers in decimal digits.
    Decimal {
        /// Digits in all, up to 38.
        precision: u8,
        /// Digits behind the point.
        scale: i8,
    },
    /// Days.
    Date,
    /// Days and times, in microseconds.
    DateTime {
        /// They are in Coordinated Universal Time, rather than of no time zone.
        utc: bool,
    },
    /// Times of the day, in microseconds.
    Time,
    /// Bytes that are no text.
    Bytes,
    /// Numbers of any size, in decimal digits.
    Number,
    /// Universally unique identifiers (RFC 9562), as text.
    Uuid,
    /// JSON documents.
    Json,
    /// Lists of texts, as JSON arrays.
    TextArray,
}
