//! Where rows go, which columns come out, and what is told: the same everywhere.

use std::path::PathBuf;

use clap::{Args, ValueEnum};

/// Where rows go, which columns come out, and what is told.
#[derive(Debug, Args)]
#[command(next_help_heading = "Output")]
pub(crate) struct OutputArguments {
    /// File for the rows; `-` is standard output [default: standard output]
    #[arg(short = 'o', long = "output", id = "output", value_name = "FILE")]
    pub(crate) place: Option<PathBuf>,

    /// Replace output files that exist
    #[arg(long)]
    pub(crate) force: bool,

    /// The columns that come out, yours and Ypogram's, in this order, as NAME or NAME=NEW␣NAME [default: all]
    #[arg(long, value_name = "COLUMN,…", value_delimiter = ',')]
    pub(crate) columns: Vec<String>,

    /// What the names of added columns start with [default: yp_]
    #[arg(long, value_name = "TEXT")]
    pub(crate) prefix: Option<String>,

    /// Print the summary as JSON
    #[arg(long, conflicts_with = "quiet")]
    pub(crate) json: bool,

    /// Print no summary
    #[arg(short, long)]
    pub(crate) quiet: bool,

    /// Exit with 1 where an address is rejected, or (review) is not accepted
    #[arg(long, value_name = "TROUBLE")]
    pub(crate) fail_on: Option<FailOn>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum FailOn {
    Reject,
    Review,
}
