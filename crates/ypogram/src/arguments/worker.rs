//! What `worker` takes.

use clap::Args;

use super::{FieldArguments, JudgingArguments, PatternArguments, SelectionArguments};
use crate::house::HouseArguments;

/// Judge batches of an Arrow stream for an engine or a data frame: batches in, the same rows with Ypogram's columns out
#[derive(Debug, Args)]
#[command(after_help = "\
Reads an Arrow IPC stream on standard input and answers each batch on standard output, in order and with as many rows.
Spark, DuckDB, polars and pandas call it with the packages in integrations/; docs/scale.md.

Examples:
  ypogram worker --field email --schema              the columns of an answer, with their types
  ypogram worker --field email --columns address,verdict --schema")]
pub(crate) struct WorkerArguments {
    #[command(flatten)]
    pub(crate) fields: FieldArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Judge exactly what was typed: whatever a clean-up would repair is a fault
    #[arg(long, help_heading = "Judging")]
    pub(crate) as_typed: bool,

    #[command(flatten)]
    pub(crate) selection: SelectionArguments,

    #[command(flatten)]
    pub(crate) house: HouseArguments,

    #[command(flatten)]
    pub(crate) patterns: PatternArguments,

    /// The columns of an answer, Ypogram's and the stream's own, in this order, as NAME or NAME=NEW␣NAME; Ypogram's with their prefix or
    /// without [default: all of Ypogram's]
    #[arg(long, value_name = "COLUMN,…", help_heading = "Output", conflicts_with = "duplicates")]
    pub(crate) columns: Vec<String>,

    /// What the names of added columns start with [default: yp_]
    #[arg(long, value_name = "TEXT", help_heading = "Output")]
    pub(crate) prefix: Option<String>,

    /// Tell of each row what duplicates have in common (yp_group) and which of them stays (the greatest yp_rank), in place of how it is
    /// judged; WHICH is that of `dedupe --survivor`
    #[arg(long, value_name = "WHICH", help_heading = "Duplicates")]
    pub(crate) duplicates: Option<String>,

    /// With --duplicates, another column that must be equal; can be repeated
    #[arg(long, value_name = "NAME", help_heading = "Duplicates", requires = "duplicates")]
    pub(crate) by: Vec<String>,

    /// With --duplicates, look for duplicates only among rows with the same value of this column; can be repeated
    #[arg(long, value_name = "NAME", help_heading = "Duplicates", requires = "duplicates")]
    pub(crate) within: Vec<String>,

    /// With --duplicates, a number that is the same for all workers whose rows are brought together, and that nobody else knows
    #[arg(long, value_name = "N", help_heading = "Duplicates", requires = "duplicates", default_value = "0")]
    pub(crate) group_key: u64,

    /// Print the columns of an answer, a name and a type a line, and read nothing
    #[arg(long, help_heading = "Output")]
    pub(crate) schema: bool,

    /// Worker threads: engines start a worker for each core
    #[arg(long, value_name = "N", default_value = "1", value_parser = clap::value_parser!(u16).range(1..=256), help_heading = "Machine")]
    pub(crate) threads: u16,
}
