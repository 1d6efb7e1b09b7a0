//! What is to be guarded, and how.

use std::path::PathBuf;

use ypogram_core::Policy;
use ypogram_io::{OpenOptions, Target};

use crate::duplicates::survivor::Survivor;
use crate::plan::shared::Shared;

/// What is to be guarded, and how.
#[derive(Clone, Debug)]
pub struct GuardOptions {
    /// The database.
    pub database: PathBuf,
    /// The table.
    pub table: String,
    /// Its column with the addresses.
    pub column: String,
    /// How to open it.
    pub open: OpenOptions,
    /// How to judge, and when two addresses are one mailbox.
    pub policy: Policy,
    /// Which row of a mailbox stays.
    pub survivor: Survivor,
    /// What becomes of rows that name another person than the one that stays: with `Drop` they go like any other; else the statements that
    /// delete them are remarks, for somebody to decide.
    pub shared: Shared,
    /// Columns that name a person; recognised by their names where none is given.
    pub persons: Vec<String>,
    /// The name of the key column; the column's with `_key` behind it where none is given.
    pub key_column: Option<String>,
    /// Addresses that the database cannot compare as they stand are brought to their standard form.
    pub standard_form: bool,
    /// Where the SQL goes.
    pub target: Target,
    /// Where the rows in the way are listed.
    pub rows: Option<Target>,
    /// Worker threads.
    pub threads: usize,
    /// A number that differs from run to run.
    pub hash_key: u64,
    /// The program's version, for the remarks in the SQL.
    pub version: String,
}
