//! What `extract` is asked to do.

use std::path::PathBuf;

use ypogram_core::text::Options;
use ypogram_core::{Pattern, Policy};
use ypogram_io::pieces::PieceOptions;
use ypogram_io::{RowSpec, Target};

use crate::jobs::extract::row_format::RowFormat;

/// What `extract` is asked to do.
#[derive(Clone, Debug)]
pub struct ExtractOptions {
    /// Files and folders to read; `-` is standard input.
    pub sources: Vec<PathBuf>,
    /// How to cut them.
    pub pieces: PieceOptions,
    /// Only these fields, keys or parts; all where none is named.
    pub fields: Vec<String>,
    /// How to judge.
    pub policy: Policy,
    /// What to look for beyond plain addresses.
    pub look: Options,
    /// Look for what these fit instead of addresses, where there are some.
    pub patterns: Vec<Pattern>,
    /// How rows are written.
    pub format: RowFormat,
    /// Bytes of text around an address to write with it.
    pub context: usize,
    /// One row a mailbox, with a count and the first place.
    pub unique: bool,
    /// List what was passed over instead of the addresses.
    pub show_skipped: bool,
    /// How rows of a table are arranged.
    pub rows: RowSpec,
    /// As many rows are found in all, where there is a limit.
    pub first: Option<u64>,
    /// Where the rows go.
    pub target: Target,
    /// Bytes of memory for what is held of all addresses.
    pub memory: usize,
    /// Worker threads.
    pub threads: usize,
    /// A number that differs from run to run.
    pub hash_key: u64,
}
