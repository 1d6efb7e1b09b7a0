//! A stretch of text inside a piece, and where its bytes stand in the input.

use std::ops::Range;

use crate::formats::pieces::mail_part::EncodedPart;

/// Where the bytes of a text stand in its piece.
#[derive(Clone, Debug)]
pub enum Places<'a> {
    /// One after the other from here.
    From(usize),
    /// Each at its own place; one more entry for the end.
    Each(&'a [usize]),
    /// All of them in an encoded part.
    Part(EncodedPart),
    /// Nowhere: the cells of a workbook or a database have no place in bytes.
    Nowhere,
}

impl Places<'_> {
    /// The place in the piece of byte `at` of the text.
    pub fn of(&self, at: usize) -> usize {
        match self {
            Places::From(start) => start + at,
            Places::Each(places) => places.get(at).or(places.last()).copied().unwrap_or_default(),
            Places::Part(part) => part.range.start,
            Places::Nowhere => 0,
        }
    }
}

/// A stretch of text inside a piece.
#[derive(Clone, Debug)]
pub struct Segment<'a> {
    /// The text, decoded.
    pub text: &'a [u8],
    /// The part of it in which an @ counts.
    pub body: Range<usize>,
    /// Where its bytes stand in the piece.
    pub places: Places<'a>,
    /// The field, key or part it is of; empty for plain text.
    pub field: &'a str,
    /// Its record in the piece, from 0; none where there are no records.
    pub record: Option<u64>,
    /// Lines of the piece above it, where its bytes do not tell.
    pub line: Option<u32>,
    /// What its record says in the field that distinguishes records.
    pub id: Option<&'a [u8]>,
}

impl<'a> Segment<'a> {
    /// A whole text that stands in the piece as it is, from `start`.
    pub fn plain(text: &'a [u8], start: usize, field: &'a str, record: Option<u64>) -> Self {
        Segment {
            text,
            body: 0..text.len(),
            places: Places::From(start),
            field,
            record,
            line: None,
            id: None,
        }
    }
}
