//! Outputs that appear whole or not at all.

mod access;
mod file;
pub(crate) mod file_writer;
mod folder;
mod journal;
mod packer;
mod partial;
mod place;
pub(crate) mod row_output;
pub(crate) mod sorted_rows;
mod stream;
mod target;
mod terminal;

pub use file::{OutputFile, copy_private};
pub use folder::{EarlierOutputs, OutputFolder};
pub use partial::{
    clear_temporary_leftovers, private_file, remove_unfinished, temporary_folder, write_private,
};
pub use place::{Place, lock_current};
pub use target::{Output, Target};
