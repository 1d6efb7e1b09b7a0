//! What `split` takes.

use clap::{Args, ValueEnum};
use ypogram_core::names::NameOrder;

use super::{JudgingArguments, MachineArguments, OutputArguments, SourceArguments};

/// Split addresses into their parts, read names out of them for a mail merge, and cut other delimited values
#[derive(Debug, Args)]
#[command(after_help = "\
A cut reads like a sentence: FIELD at SEPARATOR: PART as COLUMN, …; parts are 1, 2, last, last but 1, or runs such as \
2 to last; several separators are joined with or; what has spaces or signs in it goes in double quotes. FIELD by PATTERN: \
GROUP as COLUMN takes the groups of a pattern. FIELD can also be a part of the address or the column of an earlier cut, and several \
fields are separated with commas.

Examples:
  ypogram split members.csv -o parts.csv                                local part and domain
  ypogram split members.csv --parts first-name=First,last-name=Last,domain -o merge.csv
  ypogram split members.csv --title-case name --parts first-name,last-name --first 10
  ypogram split loans.csv --cut 'loan at /: 2 as number, last as copy' --sort-by number -o cut.csv
  ypogram split roster.csv --compose 'Whole name = given \" \" family' -o named.csv")]
pub(crate) struct SplitArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Parts of the address, each as PART or PART=COLUMN [default: local-part,domain]
    #[arg(long, value_name = "PART,…", value_delimiter = ',', help_heading = "Splitting")]
    pub(crate) parts: Vec<String>,

    /// Tell the parts that there are
    #[arg(long, help_heading = "Splitting")]
    pub(crate) list_parts: bool,

    /// Put the parts where the address field stands, which does not come out itself
    #[arg(long, help_heading = "Splitting", conflicts_with = "columns")]
    pub(crate) replace: bool,

    /// A row of its own for each usable address of a record
    #[arg(long, help_heading = "Splitting")]
    pub(crate) row_per_address: bool,

    /// Which name stands first in local parts [default: first-name-first]
    #[arg(long, value_name = "ORDER", help_heading = "Splitting")]
    pub(crate) name_order: Option<NameOrderArgument>,

    /// Cut the values of another field, such as 'loan at /: 2 as number, last as copy'; can be repeated
    #[arg(long, value_name = "SENTENCE", help_heading = "Splitting")]
    pub(crate) cut: Vec<String>,

    /// Put a column together from fields, parts, cuts and texts in double quotes, such as 'Whole name = given " " family'; can be repeated
    #[arg(long, value_name = "SENTENCE", help_heading = "Splitting")]
    pub(crate) compose: Vec<String>,

    /// Bring the names in this field or column to proper capitals; can be repeated
    #[arg(long, value_name = "FIELD", help_heading = "Splitting")]
    pub(crate) title_case: Vec<String>,

    /// Write only records that meet a condition, as in `check --show`
    #[arg(long, value_name = "CONDITION", help_heading = "Output")]
    pub(crate) show: Option<String>,

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

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum NameOrderArgument {
    /// As in ada.lovell
    FirstNameFirst,
    /// As in lovell.ada
    FamilyFirst,
}

impl From<NameOrderArgument> for NameOrder {
    fn from(argument: NameOrderArgument) -> Self {
        match argument {
            NameOrderArgument::FirstNameFirst => NameOrder::FirstNameFirst,
            NameOrderArgument::FamilyFirst => NameOrder::FamilyFirst,
        }
    }
}
