//! What is asked for.

use std::path::PathBuf;

use ypogram_core::Policy;
use ypogram_io::{GraphFormat, OpenOptions, RowSpec, Target};

use crate::plan::fields::FieldChoice;

/// What is asked for.
#[derive(Debug)]
pub struct LinksOptions {
    /// The files to read one after the other.
    pub sources: Vec<PathBuf>,
    /// How to open them.
    pub open: OpenOptions,
    /// The fields to look at.
    pub fields: FieldChoice,
    /// How to judge.
    pub policy: Policy,
    /// Further fields whose values are nodes.
    pub by: Vec<String>,
    /// Only what hangs together with this address, local part, domain or value.
    pub behind: Option<String>,
    /// Where the graph goes.
    pub graph: GraphTarget,
    /// So many nodes are told for a picture at most; none for no picture.
    pub drawn: usize,
    /// Bytes of memory that the graph may take.
    pub memory: usize,
    /// Worker threads.
    pub threads: usize,
    /// A number that differs from run to run.
    pub hash_key: u64,
}

/// Where the graph goes.
#[derive(Clone, Debug)]
pub enum GraphTarget {
    /// Nowhere.
    Nowhere,
    /// Into one file.
    File(Target, GraphFormat),
    /// As two tables, nodes and edges, with how their rows are arranged.
    Tables {
        /// The nodes.
        nodes: Target,
        /// The edges.
        edges: Target,
        /// How their rows are arranged.
        rows: RowSpec,
    },
}
