//! What `dedupe` takes.

use std::path::PathBuf;

use clap::Args;

use super::{
    DuplicateArguments, JudgingArguments, MachineArguments, OutputArguments, SharedArgument, SourceArguments,
};

/// Find the records that reach the same mailbox: show the groups, mark them, or keep one whole record of each
#[derive(Debug, Args)]
#[command(after_help = "\
Without -o it shows the groups and what each rule would join, and writes nothing.

Examples:
  ypogram dedupe members.csv
  ypogram dedupe sign-ups.txt --report - --at-least 3              who is there three times or more
  ypogram dedupe members.csv --mark -o marked.csv                   every record, with its twin
  ypogram dedupe members.csv -o unique.csv --dropped dropped.csv    one of each, and the others
  ypogram dedupe members.csv --survivor newest:joined --merge -o unique.csv
  ypogram dedupe members.csv sign-ups.csv -o unique.csv             what comes first is preferred")]
#[command(mut_arg("merge", |merge| merge.requires("output")))]
#[command(mut_arg("output", |file| file.help("File for one record of each mailbox, or with --mark for all; `-` is standard output")))]
pub(crate) struct DedupeArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) duplicates: DuplicateArguments,

    /// What becomes of a record that shares its mailbox with another person's record [default: keep]
    #[arg(long, value_name = "WHAT", help_heading = "Duplicates")]
    pub(crate) shared: Option<SharedArgument>,

    /// Write every record with its key, the record that it is the same as, and how many are the same
    #[arg(long, help_heading = "Output", requires = "output", conflicts_with_all = ["dropped", "review", "no_address", "merge"])]
    pub(crate) mark: bool,

    /// File for the records that do not stay, each with the record that it lost to
    #[arg(long, value_name = "FILE", help_heading = "Output", requires = "output")]
    pub(crate) dropped: Option<PathBuf>,

    /// With --shared review, file for the records to look at [default: named after the output, as in unique-review.csv]
    #[arg(long, value_name = "FILE", help_heading = "Output", requires = "output")]
    pub(crate) review: Option<PathBuf>,

    /// File for records without an address [default: they stay with the others]
    #[arg(long, value_name = "FILE", help_heading = "Output", requires = "output")]
    pub(crate) no_address: Option<PathBuf>,

    /// With --merge, file for every cell that was filled [default: named after the output, as in unique-changes.csv]
    #[arg(long, value_name = "FILE", help_heading = "Output", requires = "merge")]
    pub(crate) changes: Option<PathBuf>,

    /// File for each mailbox once, with how many records have it, the most first
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) report: Option<PathBuf>,

    /// File for all groups, one row a record
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) groups: Option<PathBuf>,

    /// With --report or --groups, leave out mailboxes that fewer records have
    #[arg(long, value_name = "N", default_value_t = 1, hide_default_value = true, help_heading = "Output")]
    pub(crate) at_least: u64,

    /// File for the pairs that one rule joins and another does not
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) rule_differences: Option<PathBuf>,

    /// File for probable twins, which no rule joins: one a typing slip of the other, the same local part at a sibling
    /// domain, or the same person with local parts one slip apart. They are shown, and never dropped
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) near: Option<PathBuf>,

    /// The format of the rows [default: as the extension of the output says, else as the source]
    #[arg(long, value_name = "FORMAT", help_heading = "Output", value_parser = super::format::of_outputs())]
    pub(crate) to: Option<ypogram_io::Format>,

    #[command(flatten)]
    pub(crate) table: super::TableArguments,

    #[command(flatten)]
    pub(crate) output: OutputArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}
