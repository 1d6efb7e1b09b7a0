//! What cells hold, whether that is an address or not.

pub(crate) mod cell_kind;
pub(crate) mod mask;
pub mod shape;
pub mod value;
