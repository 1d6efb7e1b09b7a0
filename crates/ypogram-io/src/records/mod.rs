//! Records, whatever they are written in: cells, chunks, what a source gives. Here belongs what input and outputs have in common; how a format
//! looks belongs in `formats`.

pub(crate) mod batch;
pub(crate) mod chunk;
pub(crate) mod column_type;
pub(crate) mod dialect;
pub(crate) mod error;
pub(crate) mod fingerprint;
pub(crate) mod format;
pub(crate) mod formula;
pub(crate) mod nearest;
pub(crate) mod packed;
pub(crate) mod place;
pub(crate) mod source;
pub(crate) mod stopping;
pub(crate) mod typed_cell;
pub(crate) mod value;
