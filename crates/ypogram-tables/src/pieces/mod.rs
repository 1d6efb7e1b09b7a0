//! Text in whatever format, cut into pieces for `extract`: raw blocks that overlap, records of tables, whole documents.
//!
//! A piece is cut serially and cheaply; what is text in it is worked out by the workers, with the place of every byte in
//! the decompressed, undecoded input.

mod blocks;
mod json;
mod limits;
mod mail;
mod mail_structure;
mod segment;
mod walk;

pub use blocks::{Counted, Kind, Load, Opened, PieceOptions, bytes_in_utf16};
pub use limits::Limits;
pub use segment::{Places, Segment};
pub use walk::{Listed, list_files};

use std::ops::Range;
use std::sync::Arc;

/// A piece of an input.
#[derive(Debug, Default)]
pub struct Piece {
    /// Its bytes, with what overlaps its neighbours.
    pub bytes: Vec<u8>,
    /// The part of them that is its own.
    pub body: Range<usize>,
    /// Where its first byte stands in the decompressed input.
    pub offset: u64,
    /// Lines before it, where they are counted.
    pub lines_before: u64,
    /// What it is a piece of.
    pub kind: Option<Arc<Kind>>,
    /// Still to be read from the file by the worker.
    pub load: Option<Load>,
    /// How much of a message is decoded.
    pub limits: Limits,
    /// Its bytes are the UTF-8 of a table in UTF-16, in which every place is counted.
    pub from_utf16: bool,
    /// The field of a table that tells records apart, by place.
    pub id: Option<usize>,
    /// The input ended inside a quoted cell: line breaks of the piece before its quote.
    pub unclosed: Option<u64>,
}
