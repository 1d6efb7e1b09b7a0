//! What `domains` takes.

use std::path::PathBuf;

use clap::Args;

use super::{JudgingArguments, MachineArguments, OutputArguments, SourceArguments};

/// Show the domains of a list: how often each is there, what it is, which is a slip of which
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  ypogram domains members.csv
  ypogram domains members.csv --date joined -o domains.csv   with the first and last date of each
  ypogram domains members.csv --new-since partners.csv       those that the other list does not have")]
#[command(mut_arg("output", |file| file.help("File for the table; `-` is standard output [default: the most frequent are shown]")))]
pub(crate) struct DomainsArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) dns: super::DnsArguments,

    /// The field with a date: columns for when each domain was seen first and last
    #[arg(long, value_name = "FIELD", help_heading = "What to look at")]
    pub(crate) date: Option<String>,

    /// Only domains that this list does not have, such as that of last month
    #[arg(long, value_name = "FILE", help_heading = "What to look at")]
    pub(crate) new_since: Option<PathBuf>,

    #[command(flatten)]
    pub(crate) table: super::TableArguments,

    #[command(flatten)]
    pub(crate) output: OutputArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}
