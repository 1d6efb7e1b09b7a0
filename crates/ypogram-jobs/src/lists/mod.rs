//! Lists of one's own: read from their files, checked, and edited.

pub mod check;
pub mod edit;
mod load;
mod own;
mod placed;
mod spec;

pub use load::{ListReport, load};
pub use own::{AppendedColumn, OwnLists};
pub(crate) use placed::PlacedList;
pub use spec::{By, ListColumn, ListSpec, Matching};
