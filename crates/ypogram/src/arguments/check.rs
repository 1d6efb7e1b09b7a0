//! What `check` takes.

use clap::Args;

use super::{
    JudgingArguments, MachineArguments, OutputArguments, RowFormatArgument, SelectionArguments,
    SourceArguments,
};

/// Annotate every record with standard address, verdict and findings, and sum up
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  ypogram check members.csv --field email -o checked.csv
  ypogram check members.csv --show finding=double-dot          the records behind a figure
  ypogram check list.txt --to plain                            input,true|false and nothing else
  tail -f sign-ups.txt | ypogram check --each                  one value in, one JSON line out
  ypogram check sign-ups.csv --as-typed -o checked.csv         whatever was typed wrong is a fault")]
pub(crate) struct CheckArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    /// Answer each line of standard input with one JSON line, at once; with --from jsonl, the address is in --field
    #[arg(long, help_heading = "Input", conflicts_with_all = ["output", "show", "to", "json", "fail_on", "columns", "sort_by", "figure", "full"])]
    pub(crate) each: bool,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) dns: super::DnsArguments,

    /// Judge exactly what was typed: whatever a clean-up would repair is a fault
    #[arg(long, help_heading = "Judging")]
    pub(crate) as_typed: bool,

    #[command(flatten)]
    pub(crate) selection: SelectionArguments,

    #[command(flatten)]
    pub(crate) house: crate::house::HouseArguments,

    #[command(flatten)]
    pub(crate) patterns: super::PatternArguments,

    /// Write only the records that meet the condition, with their lines: finding=CODE, verdict=WORD, form=WORD,
    /// class=WORD, repair=CODE, list=NAME, address=yes|no and the others of `survey --show`; != is the contrary, several separated by
    /// commas hold together
    #[arg(long, value_name = "CONDITION", help_heading = "Output")]
    pub(crate) show: Option<String>,

    /// The format of the rows [default: as the extension of the output says, else as the source]
    #[arg(long, value_name = "FORMAT", help_heading = "Output", value_parser = super::format::of_rows())]
    pub(crate) to: Option<RowFormatArgument>,

    /// Write these of Ypogram's columns beside the rows of the source, a table on a server, found again by its primary key; nothing else
    /// of it changes. Names table and columns first, and asks for --force
    #[arg(long, value_name = "COLUMN,…", help_heading = "Output", conflicts_with_all = ["output", "append", "columns", "sort_by", "guard_formulas", "output_encoding", "bom", "show", "to", "each", "id"])]
    pub(crate) into_columns: Vec<String>,

    #[command(flatten)]
    pub(crate) table: super::TableArguments,

    #[command(flatten)]
    pub(crate) output: OutputArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}
