//! The command line: what can be typed, and what help says of it.

use std::path::PathBuf;

use clap::{Args, Parser, Subcommand, ValueEnum};
use ypogram_core::SameMailbox;
use ypogram_tables::Format;

/// Cleans contact lists: finds the email addresses, judges them, finds duplicates, and accounts for every record.
#[derive(Debug, Parser)]
#[command(name = "ypogram", version, max_term_width = 110, arg_required_else_help = true)]
#[command(after_help = "\
Start here:
  ypogram demo                                      see it work on made-up data
  ypogram clean members.csv --field email           a messy file in, a clean list out

Exit codes: 0 done; 1 done, and something is to be told; 2 call, rulebook or input unusable; 3 output not written.")]
pub(crate) struct Arguments {
    #[command(subcommand)]
    pub(crate) command: Command,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    Clean(CleanArguments),
    Demo(DemoArguments),
}

/// Sort every record of a contact list into the file of its outcome, with a summary whose figures add up
#[derive(Debug, Args)]
#[command(after_help = "\
Each record ends in exactly one file: kept, review, rejected, duplicates, set-aside or no-address. Its own fields stay as
they are; Ypogram's columns are appended. receipt.json holds every count.

  ypogram clean members.csv --field email -o cleaned/
  ypogram clean members.csv --field email --also notes      take addresses out of the notes where the field has none
  ypogram clean a.csv b.csv                                 several files as one list; a.csv comes first")]
pub(crate) struct CleanArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Folder for the outputs [default: named after the source, as in members-cleaned]
    #[arg(short, long, value_name = "FOLDER", help_heading = "Output")]
    pub(crate) output: Option<PathBuf>,

    /// Replace the outputs of an earlier run in that folder
    #[arg(long, help_heading = "Output")]
    pub(crate) force: bool,

    #[command(flatten)]
    pub(crate) telling: TellingArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

/// Write the demo files into a folder, clean them, and show what was found
#[derive(Debug, Args)]
pub(crate) struct DemoArguments {
    /// Folder to write them into
    #[arg(short, long, value_name = "FOLDER", default_value = "fernhollow-demo")]
    pub(crate) output: PathBuf,
}

/// Where records come from.
#[derive(Debug, Args)]
#[command(next_help_heading = "Input")]
pub(crate) struct SourceArguments {
    /// Files to read one after the other as one list; `-` is standard input
    #[arg(required = true, value_name = "SOURCE")]
    pub(crate) sources: Vec<PathBuf>,

    /// A field that should hold an address and nothing else; may be given again, in order of preference
    #[arg(short, long = "field", value_name = "NAME")]
    pub(crate) fields: Vec<String>,

    /// A field that may hold an address among other words; may be given again, in order of preference
    #[arg(short, long, value_name = "NAME")]
    pub(crate) also: Vec<String>,

    /// The format, where the ending of the file does not tell
    #[arg(long, value_name = "FORMAT")]
    pub(crate) from: Option<FormatArgument>,

    /// What separates the cells of a table: a character, or `tab` [default: recognised]
    #[arg(long, value_name = "CHARACTER", value_parser = delimiter)]
    pub(crate) delimiter: Option<u8>,

    /// The table has no header row: its fields are called field1, field2, …
    #[arg(long)]
    pub(crate) no_header: bool,
}

/// How addresses are judged.
#[derive(Debug, Args)]
#[command(next_help_heading = "Judging")]
pub(crate) struct JudgingArguments {
    /// The rulebook to go by [default: ypogram.toml in the working directory, where there is one]
    #[arg(long, value_name = "FILE", conflicts_with = "no_rules")]
    pub(crate) rules: Option<PathBuf>,

    /// Go by no rulebook, even where there is one
    #[arg(long)]
    pub(crate) no_rules: bool,

    /// When two addresses are one mailbox [default: provider]
    #[arg(long, value_name = "RULE")]
    pub(crate) same: Option<SameArgument>,

    /// The letter case of local parts in the standard form [default: lower]
    #[arg(long, value_name = "CASE")]
    pub(crate) letter_case: Option<LetterCaseArgument>,
}

/// What is told, and how.
#[derive(Debug, Args)]
#[command(next_help_heading = "Output")]
pub(crate) struct TellingArguments {
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

/// How much of the machine is used.
#[derive(Debug, Args)]
#[command(next_help_heading = "Machine")]
pub(crate) struct MachineArguments {
    /// Worker threads [default: one for each core]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=256))]
    pub(crate) threads: Option<u16>,

    /// Octets of a chunk, so that tests meet every border
    #[arg(long, value_name = "N", hide = true)]
    pub(crate) chunk_octets: Option<usize>,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
pub(crate) enum FormatArgument {
    Csv,
    Tsv,
    Text,
}

impl From<FormatArgument> for Format {
    fn from(argument: FormatArgument) -> Self {
        match argument {
            FormatArgument::Csv => Format::Csv,
            FormatArgument::Tsv => Format::Tsv,
            FormatArgument::Text => Format::Text,
        }
    }
}

#[derive(Clone, Copy, Debug, ValueEnum)]
pub(crate) enum SameArgument {
    /// The local part as written
    Exact,
    /// Letter case ignored
    Case,
    /// Letter case ignored, and what the domain's provider documents: dots, tags, joined domains
    Provider,
    /// Letter case, dots and everything from the first plus ignored, at every domain
    Everywhere,
}

impl From<SameArgument> for SameMailbox {
    fn from(argument: SameArgument) -> Self {
        match argument {
            SameArgument::Exact => SameMailbox::Exact,
            SameArgument::Case => SameMailbox::Case,
            SameArgument::Provider => SameMailbox::Provider,
            SameArgument::Everywhere => SameMailbox::Everywhere,
        }
    }
}

#[derive(Clone, Copy, Debug, ValueEnum)]
pub(crate) enum LetterCaseArgument {
    Lower,
    Keep,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum FailOn {
    Reject,
    Review,
}

fn delimiter(text: &str) -> Result<u8, String> {
    match text {
        "tab" | "\\t" | "\t" => Ok(b'\t'),
        _ => match text.as_bytes() {
            [byte] if byte.is_ascii_punctuation() || *byte == b' ' => Ok(*byte),
            _ => Err("give one character such as ‘;’, or the word tab".into()),
        },
    }
}
