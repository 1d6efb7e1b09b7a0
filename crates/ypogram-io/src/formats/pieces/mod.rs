//! Text in whatever format, cut into pieces for `extract`: raw blocks that overlap, records of tables, whole documents.
//!
//! A piece is cut serially and cheaply; what is text in it is worked out by the workers, with the place of every byte in
//! the decompressed, undecoded input.

mod blocks;
mod counted;
mod cutting;
mod json;
mod kind;
mod limits;
mod mail;
mod mail_part;
pub(crate) mod mail_structure;
mod piece;
mod segment;
mod walk;

pub use blocks::{Opened, PieceOptions};
pub use counted::Counted;
pub use kind::Kind;
pub use limits::Limits;
pub use mail_part::EncodedPart;
pub use piece::{Load, Piece};
pub use segment::{Places, Segment};
pub use walk::{Listed, list_files};
