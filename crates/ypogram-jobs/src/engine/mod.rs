//! What every job runs on: sources read as one, workers, sketches, temporary files. Nothing here knows what a job is for.

pub(crate) mod blank;
pub(crate) mod digests;
pub(crate) mod distinct;
pub(crate) mod faults;
pub(crate) mod hash_sample;
pub(crate) mod header_cells;
pub(crate) mod id_store;
pub(crate) mod json_line;
pub(crate) mod line_count;
pub(crate) mod mailboxes;
pub(crate) mod packed_cells;
pub(crate) mod pipeline;
pub(crate) mod progress;
pub mod quoted_list;
pub(crate) mod reading;
pub(crate) mod same_as_before;
pub(crate) mod shortened;
pub(crate) mod side_table;
pub(crate) mod spool;
pub(crate) mod texts;
