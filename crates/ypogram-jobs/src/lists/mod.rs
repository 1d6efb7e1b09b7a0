//! Lists of one's own: read from their files, checked, and edited.

pub mod check;
pub mod edit;
mod load;
mod own;
mod placed;
mod spec;

pub use load::{ListReport, load};
pub(crate) use own::lists_of;
pub use own::{AppendedColumn, OwnLists};
pub(crate) use placed::PlacedList;
pub use spec::{By, ListColumn, ListSpec, Matching};

/// Whether the list at `path` holds hashes of addresses, SHA-256 in hexadecimal, in their place.
///
/// # Errors
/// Where it cannot be read.
pub fn is_list_of_hashes(path: &std::path::Path, open: &ypogram_io::OpenOptions) -> ypogram_io::Result<bool> {
    crate::engine::digests::Digests::read(path, open).map(|digests| digests.is_some())
}
