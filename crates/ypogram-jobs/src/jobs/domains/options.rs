//! What is asked for.

use std::path::PathBuf;
use std::sync::Arc;

use ypogram_core::Policy;
use ypogram_io::{OpenOptions, RowSpec, Target};

use crate::jobs::dns::Answers;
use crate::plan::fields::FieldChoice;

/// What is asked for.
#[derive(Debug)]
pub struct DomainsOptions {
    /// The files to read one after the other.
    pub sources: Vec<PathBuf>,
    /// How to open them.
    pub open: OpenOptions,
    /// The fields to look at.
    pub fields: FieldChoice,
    /// How to judge.
    pub policy: Policy,
    /// The field with a date, which tells when a domain was seen first and last.
    pub date: Option<String>,
    /// What the domain name system says of them, where it was asked.
    pub dns: Option<Arc<Answers>>,
    /// Only domains that this list does not have.
    pub new_since: Option<PathBuf>,
    /// Where the table goes.
    pub target: Target,
    /// How its rows are arranged.
    pub rows: RowSpec,
    /// Worker threads.
    pub threads: usize,
    /// A number that differs from run to run.
    pub hash_key: u64,
}
