//! What `dedupe` is asked to do.

use std::path::PathBuf;

use ypogram_core::Policy;
use ypogram_io::RowSpec;
use ypogram_io::{OpenOptions, Target};

use crate::duplicates::survivor::Survivor;
use crate::plan::fields::FieldChoice;
use crate::plan::shared::Shared;

/// What `dedupe` is asked to do.
#[derive(Clone, Debug)]
pub struct DedupeOptions {
    /// The files to read one after the other, in order of preference; `-` is standard input.
    pub sources: Vec<PathBuf>,
    /// How to open them.
    pub open: OpenOptions,
    /// The fields to look at.
    pub fields: FieldChoice,
    /// How to judge, and when two addresses are one mailbox.
    pub policy: Policy,
    /// Which record of a group stays.
    pub survivor: Survivor,
    /// Fields that must be equal too.
    pub by: Vec<String>,
    /// Fields within whose values duplicates are looked for.
    pub within: Vec<String>,
    /// Fields that name a person; recognised by their names where none is given.
    pub persons: Vec<String>,
    /// What becomes of records whose person is another than the survivor's.
    pub shared: Shared,
    /// Where the surviving records go, or all with marks.
    pub output: Option<Target>,
    /// Mark the records rather than keep one of each group.
    pub mark: bool,
    /// Where the others go.
    pub dropped: Option<Target>,
    /// Where records go that somebody has to look at, as they share a mailbox with another person's.
    pub review: Option<Target>,
    /// Where records without an address go; with the survivors where none is given.
    pub no_address: Option<Target>,
    /// Fill the empty fields of survivors from the others of their group, and join differing values in these fields.
    pub merge: Option<Vec<String>>,
    /// Where every filled cell is written down.
    pub changes: Option<Target>,
    /// Where each mailbox is written once, with how many records have it, the most first.
    pub report: Option<Target>,
    /// Where all groups are written, one row a record.
    pub groups: Option<Target>,
    /// Mailboxes and groups of fewer records are not written there.
    pub at_least: u64,
    /// Where pairs go that one rule joins and another does not.
    pub rule_differences: Option<Target>,
    /// Where probable twins go.
    pub near: Option<Target>,
    /// How the rows of what stays, is dropped or has no address are arranged.
    pub rows: RowSpec,
    /// What the names of added columns start with.
    pub prefix: String,
    /// Bytes of memory for keys; what does not fit goes to a temporary folder.
    pub memory: usize,
    /// Worker threads.
    pub threads: usize,
    /// A number that differs from run to run.
    pub hash_key: u64,
}

impl DedupeOptions {
    /// Whether the groups are to be shown.
    pub(crate) fn shows_groups(&self) -> bool {
        self.output.is_none() || self.report.is_some() || self.groups.is_some()
    }

    /// Whether one pass is enough while the keys fit into memory.
    pub(crate) fn needs_one_pass(&self) -> bool {
        self.survivor == Survivor::First
            && !self.mark
            && self.merge.is_none()
            && self.rule_differences.is_none()
            && self.near.is_none()
            && !self.shows_groups()
    }
}
