//! Where rows go, which columns come out, and what is reported: the same everywhere.

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use ypogram_io::Format;

/// Where rows go, which columns come out, and what is reported.
#[derive(Debug, Args)]
#[command(next_help_heading = "Output")]
pub(crate) struct OutputArguments {
    /// File for the rows; `-` is standard output [default: standard output]
    #[arg(short = 'o', long = "output", id = "output", value_name = "FILE")]
    pub(crate) place: Option<PathBuf>,

    /// Replace output files that exist
    #[arg(long)]
    pub(crate) force: bool,

    /// The columns that come out, yours and Ypogram's, in this order, as NAME or NAME=NEW␣NAME, quoted as in CSV where a name has
    /// a comma in it; -NAME leaves one out [default: all]
    #[arg(long, value_name = "COLUMN,…", allow_hyphen_values = true)]
    pub(crate) columns: Vec<String>,

    /// Sort the rows by these columns, numbers and dates by value and words by the Unicode collation; -NAME downwards
    #[arg(long, value_name = "COLUMN,…", allow_hyphen_values = true)]
    pub(crate) sort_by: Vec<String>,

    /// Put an apostrophe before each cell that a spreadsheet would take for a formula, in CSV alone; without it they are counted
    #[arg(long)]
    pub(crate) guard_formulas: bool,

    /// What the names of added columns start with [default: yp_]
    #[arg(long, value_name = "TEXT")]
    pub(crate) prefix: Option<String>,

    /// Print the summary as JSON
    #[arg(long, conflicts_with = "quiet")]
    pub(crate) json: bool,

    /// Print no summary
    #[arg(short, long)]
    pub(crate) quiet: bool,

    /// Print the whole summary, however long; without it, 40 lines of 100 columns
    #[arg(long)]
    pub(crate) full: bool,

    /// Print one figure of the summary and nothing else, such as kept, mailboxes or finding.double-dot
    #[arg(long, value_name = "NAME", conflicts_with_all = ["json", "quiet", "full"])]
    pub(crate) figure: Option<String>,

    /// Exit with 1 where an address is rejected, or (review) is not accepted, or (none-found) there is none at all
    #[arg(long, value_name = "TROUBLE")]
    pub(crate) fail_on: Option<FailOn>,
}

/// The formats of tables that are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum TableFormat {
    Csv,
    Tsv,
    /// JSON, one object a line
    Jsonl,
}

/// The formats of rows that are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum RowFormatArgument {
    Csv,
    Tsv,
    /// JSON, one object a line
    Jsonl,
    /// `check`: just the input and whether it is well formed; `extract`: the bare addresses, one a line
    Plain,
}

impl TableFormat {
    /// The format that was asked for.
    pub(crate) fn format(self) -> Format {
        match self {
            TableFormat::Csv => Format::Csv,
            TableFormat::Tsv => Format::Tsv,
            TableFormat::Jsonl => Format::JsonLines,
        }
    }
}

impl RowFormatArgument {
    /// The format of a table; none where no table is asked for.
    pub(crate) fn table(self) -> Option<Format> {
        match self {
            RowFormatArgument::Csv => Some(Format::Csv),
            RowFormatArgument::Tsv => Some(Format::Tsv),
            RowFormatArgument::Jsonl => Some(Format::JsonLines),
            RowFormatArgument::Plain => None,
        }
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum FailOn {
    Reject,
    Review,
    NoneFound,
}
