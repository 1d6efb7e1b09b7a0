//! What `clean` takes.

use clap::Args;

use super::{
    DuplicateArguments, JudgingArguments, MachineArguments, OutputArguments, PageArguments,
    SelectionArguments, SharedArgument, SourceArguments,
};

/// Sort every record of a contact list into the file of its outcome, with a summary whose figures add up
#[derive(Debug, Args)]
#[command(after_help = "\
Each record ends in exactly one file: kept, review, rejected, duplicates, set-aside or no-address. Its own fields stay \
as they are; Ypogram's columns are appended. receipt.json holds every count.

Examples:
  ypogram clean members.csv --field email -o cleaned/
  ypogram clean members.csv --field email --also notes    addresses in the notes where it has none
  ypogram clean equipment.xlsx -o cleaned.xlsx            one workbook, a sheet for each outcome
  ypogram clean a.csv b.csv                               one list of two files; a.csv comes first")]
#[command(mut_arg("output", |folder| folder
    .value_name("FOLDER")
    .help("Folder for the outputs, or a workbook (.xlsx) with a sheet for each [default: a folder named after the source, as in members-cleaned]")))]
#[command(mut_arg("merge", |merge| merge.help("Fill empty fields of the record that stays from its duplicates, the preferred first, and write every cell that was filled to filled.csv")))]
#[command(mut_arg("force", |force| force.help("Replace the outputs of an earlier run in that folder")))]
pub(crate) struct CleanArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) dns: super::DnsArguments,

    #[command(flatten)]
    pub(crate) house: crate::house::HouseArguments,

    #[command(flatten)]
    pub(crate) patterns: super::PatternArguments,

    #[command(flatten)]
    pub(crate) selection: SelectionArguments,

    #[command(flatten)]
    pub(crate) duplicates: DuplicateArguments,

    /// What becomes of a record that shares its mailbox with another person's record that stays [default: review]
    #[arg(long, value_name = "WHAT", help_heading = "Duplicates")]
    pub(crate) shared: Option<SharedArgument>,

    /// Read the list twice, and learn typing slips from it first: a domain seen a few times, one letter from one seen
    /// very often
    #[arg(long, help_heading = "Judging")]
    pub(crate) learn: bool,

    /// A row of its own for each further usable address of a record, with an outcome of its own; the sum says how many were added
    #[arg(long, help_heading = "Output")]
    pub(crate) row_per_address: bool,

    /// Replace the outputs of an earlier run even where somebody has made decisions in its review file
    #[arg(long, help_heading = "Output")]
    pub(crate) discard_decisions: bool,

    /// Keep no copy of the sources in the folder; decisions cannot be taken then
    #[arg(long, help_heading = "Output")]
    pub(crate) no_copy: bool,

    #[command(flatten)]
    pub(crate) page: PageArguments,

    /// The page as data; for a job that writes one.
    #[arg(long, value_name = "FILE", hide = true)]
    pub(crate) page_data: Option<std::path::PathBuf>,

    /// Write changes.csv as well: what is new, gone, changed or ended elsewhere since the run that wrote this folder, by --id, else
    /// by mailbox; it may be the folder that is being replaced
    #[arg(long, value_name = "FOLDER", help_heading = "Input")]
    pub(crate) since: Option<std::path::PathBuf>,

    /// Write the address of each accepted record into this field, which is yours; what stood there goes into the column yp_original
    #[arg(long, value_name = "FIELD", help_heading = "Output")]
    pub(crate) into: Option<String>,

    /// The format of the rows [default: as the source]
    #[arg(long, value_name = "FORMAT", help_heading = "Output", value_parser = super::format::of_outputs())]
    pub(crate) to: Option<ypogram_io::Format>,

    #[command(flatten)]
    pub(crate) output: OutputArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}
