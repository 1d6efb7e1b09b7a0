//! What is wrong with a house format.

use std::ops::Range;

/// A fault in the notation of a house format.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FormatError {
    /// Where it stands, in bytes.
    pub span: Range<usize>,
    /// What it is, in a sentence without capital or stop.
    pub message: String,
}
