//! Where rows go, which columns come out, and what is reported: the same everywhere.

use std::path::PathBuf;

use clap::Args;
use ypogram_io::{Encoding, TextEncoding, encoding_named};

use super::source::unknown_encoding;

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

    /// The encoding of rows that are text, such as windows-1252 or utf-16le [default: utf-8]
    #[arg(long, value_name = "NAME", value_parser = output_encoding)]
    pub(crate) output_encoding: Option<&'static Encoding>,

    /// Begin rows in UTF-8 with a byte-order mark, by which spreadsheet programs know it
    #[arg(long)]
    pub(crate) bom: bool,

    /// What the names of added columns start with [default: yp_]
    #[arg(long, value_name = "TEXT")]
    pub(crate) prefix: Option<String>,

    /// Append this command to a job of the rulebook, once it is done; ypogram run JOB does it again
    #[arg(long, value_name = "JOB")]
    pub(crate) add_to_job: Option<String>,

    /// Print the summary as JSON
    #[arg(long)]
    pub(crate) json: bool,

    /// Print no summary
    #[arg(short, long)]
    pub(crate) quiet: bool,

    /// Print the whole summary, however long; without it, 40 lines of the width of the terminal
    #[arg(long)]
    pub(crate) full: bool,

    /// Print one figure of the summary and nothing else, such as kept, mailboxes or finding.double-dot
    #[arg(long, value_name = "NAME", conflicts_with_all = ["json", "quiet", "full"])]
    pub(crate) figure: Option<String>,

    /// Exit with 1 where an address is rejected (reject), is not accepted (review), where there is none at all (none-found), or where some
    /// record has that finding (its code, such as field-unique)
    #[arg(long, value_name = "TROUBLE", value_parser = FailOn::read)]
    pub(crate) fail_on: Option<FailOn>,
}

impl OutputArguments {
    /// The encoding of an output of text.
    pub(crate) fn encoding(&self) -> TextEncoding {
        TextEncoding { encoding: self.output_encoding, marked: self.bom }
    }
}

fn output_encoding(name: &str) -> Result<&'static Encoding, String> {
    encoding_named(name).ok_or_else(|| unknown_encoding(name))
}

/// What the exit code tells.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum FailOn {
    Reject,
    Review,
    NoneFound,
    /// The finding with that code.
    Finding(String),
}

impl FailOn {
    fn read(text: &str) -> Result<Self, String> {
        Ok(match text {
            "reject" => FailOn::Reject,
            "review" => FailOn::Review,
            "none-found" => FailOn::NoneFound,
            // Which findings there are is known once lists are read.
            code => FailOn::Finding(code.to_owned()),
        })
    }
}
