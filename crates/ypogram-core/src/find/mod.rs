//! Addresses found: in a cell that should hold one, and in any text.

pub mod cell;
pub mod text;
