//! What `compare` is asked to do.

use std::path::PathBuf;

use ypogram_core::Policy;
use ypogram_io::{OpenOptions, RowSpec, Target};

use crate::plan::contact_trait::ContactTrait;
use crate::plan::fields::FieldChoice;

/// What `compare` is asked to do.
#[derive(Clone, Debug)]
pub struct CompareOptions {
    /// The new records: files to read one after the other.
    pub sources: Vec<PathBuf>,
    /// What is known already.
    pub known: Vec<PathBuf>,
    /// How to open them.
    pub open: OpenOptions,
    /// The fields to look at in the new records.
    pub fields: FieldChoice,
    /// The fields to look at in what is known.
    pub known_fields: FieldChoice,
    /// How to judge, with the lists of those who asked to be left alone.
    pub policy: Policy,
    /// Which of its lists these are, by place.
    pub withdrawn: Vec<usize>,
    /// Lists of hashes of such addresses.
    pub withdrawn_hashed: Vec<PathBuf>,
    /// Where the records go.
    pub to: CompareTo,
    /// Known records that are not among the new ones.
    pub missing: Option<Target>,
    /// Fields that differ where a record is in both.
    pub changed: Option<Target>,
    /// Probable twins: known records that are probably of the person of a new one.
    pub near: Option<Target>,
    /// The fields by which these are found; those whose names say so where none is named.
    pub near_fields: Vec<(ContactTrait, String)>,
    /// How the rows of every output are arranged.
    pub rows: RowSpec,
    /// What the names of added columns start with.
    pub prefix: String,
    /// Bytes of memory for what is known of all records; what does not fit goes to a temporary folder.
    pub memory: usize,
    /// Replace the outputs of an earlier run.
    pub force: bool,
    /// Worker threads.
    pub threads: usize,
    /// A number that differs from run to run.
    pub hash_key: u64,
    /// The rulebook as resolved, for the receipt.
    pub rulebook: serde_json::Value,
    /// The program's version, for the receipt.
    pub version: String,
}

/// Where the records go.
#[derive(Clone, Debug)]
pub enum CompareTo {
    /// Nowhere: only the figures are asked for.
    Nowhere,
    /// Each state has a file in this folder.
    Folder(PathBuf),
    /// All go to one output, marked.
    Marked(Target),
}
