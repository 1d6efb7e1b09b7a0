//! What `redact` takes.

use std::path::PathBuf;

use clap::{Args, Subcommand, ValueEnum};
use ypogram_core::redact::MaskDomain;
use ypogram_io::Format;

use super::{JudgingArguments, MachineArguments, ReadingArguments, format};

/// Hand a file on without its addresses: each is replaced where it stands, and all else stays byte for byte
#[derive(Debug, Args)]
#[command(
    args_conflicts_with_subcommands = true,
    subcommand_negates_reqs = true,
    after_help = "\
Before a copy is published it is searched with everything the program knows; where something is left, nothing is written \
and the exit code is 1.

Examples:
  ypogram redact key -o redact.key                                a key, which you keep
  ypogram redact members.csv --key redact.key --hide phone --map members.map -o shared.csv
  ypogram redact members.csv --as mask --keep 1,1 -o masked.csv
  ypogram redact restore shared.csv --map members.map -o restored.csv
  ypogram redact search shared.csv                                which personal values are in it"
)]
pub(crate) struct RedactArguments {
    #[command(subcommand)]
    pub(crate) command: Option<RedactCommand>,

    /// Files: tables of text, text, web pages, JSON, mail; `-` is standard input
    #[arg(required = true, value_name = "SOURCE", help_heading = "Input")]
    pub(crate) sources: Vec<PathBuf>,

    /// The format of the sources [default: recognised by their content and their names]
    #[arg(long, value_name = "FORMAT", help_heading = "Input", value_parser = format::of_sources())]
    pub(crate) from: Option<Format>,

    #[command(flatten)]
    pub(crate) reading: ReadingArguments,

    /// What stands in the place of a value
    #[arg(long = "as", value_name = "WHAT", default_value = "token", help_heading = "Redacting")]
    pub(crate) by: RedactByArgument,

    /// The file of the key for tokens; `ypogram redact key` makes one
    #[arg(long, value_name = "FILE", help_heading = "Redacting")]
    pub(crate) key: Option<PathBuf>,

    /// Hide the values of this field as well, such as member numbers or names; can be repeated
    #[arg(long, value_name = "FIELD", help_heading = "Redacting")]
    pub(crate) hide: Vec<String>,

    /// With --as mask, so many first and last characters stay
    #[arg(long, value_name = "FIRST,LAST", default_value = "2,2", value_parser = keep, help_heading = "Redacting")]
    pub(crate) keep: (usize, usize),

    /// With --as mask, a run of so many signs, however many characters are hidden [default: one sign each]
    #[arg(long, value_name = "N", help_heading = "Redacting")]
    pub(crate) run: Option<u8>,

    /// With --as mask, what becomes of the domain
    #[arg(long, value_name = "WHAT", default_value = "keep", help_heading = "Redacting")]
    pub(crate) domain: DomainArgument,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// File for the copy, or with several sources a folder; `-` is standard output [default: standard output]
    #[arg(short, long, value_name = "FILE", help_heading = "Output")]
    pub(crate) output: Option<PathBuf>,

    /// Replace an output that exists
    #[arg(long, help_heading = "Output")]
    pub(crate) force: bool,

    /// Keep the way back in this new file, which its owner alone can read
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) map: Option<PathBuf>,

    /// Print the summary as JSON
    #[arg(long, help_heading = "Output")]
    pub(crate) json: bool,

    /// Print no summary
    #[arg(short, long, help_heading = "Output")]
    pub(crate) quiet: bool,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

#[derive(Debug, Subcommand)]
pub(crate) enum RedactCommand {
    /// Make a key for tokens, in a file that its owner alone can read
    Key {
        /// The file
        #[arg(short, long, value_name = "FILE")]
        output: PathBuf,
    },
    /// Bring the originals back into a copy, also where others have added rows and columns
    Restore {
        /// The copy
        #[arg(value_name = "FILE")]
        copy: PathBuf,

        /// What --map wrote
        #[arg(long, value_name = "FILE")]
        map: PathBuf,

        /// File for the result; `-` is standard output [default: standard output]
        #[arg(short, long, value_name = "FILE")]
        output: Option<PathBuf>,

        /// Replace an output that exists
        #[arg(long)]
        force: bool,
    },
    /// Tell which personal values are in files that are about to be sent, and where; exit with 1 where there are some
    Search {
        /// Files and folders
        #[arg(required = true, value_name = "SOURCE")]
        sources: Vec<PathBuf>,

        /// Print JSON
        #[arg(long, help_heading = "Output")]
        json: bool,

        #[command(flatten)]
        machine: Box<MachineArguments>,
    },
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum RedactByArgument {
    /// The same for the same mailbox, under a key: joins go on working
    Token,
    /// Some characters stay
    Mask,
    /// SHA-256 of the address in lower case, in hexadecimal; it can be guessed
    Hash,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum DomainArgument {
    /// It stays
    Keep,
    /// Its class stands in its place, as in ad***ll@free
    Class,
    /// It is hidden
    Hide,
}

impl From<DomainArgument> for MaskDomain {
    fn from(argument: DomainArgument) -> Self {
        match argument {
            DomainArgument::Keep => MaskDomain::Keep,
            DomainArgument::Class => MaskDomain::Class,
            DomainArgument::Hide => MaskDomain::Hide,
        }
    }
}

fn keep(text: &str) -> Result<(usize, usize), String> {
    let numbers =
        text.split_once(',').and_then(|(first, last)| Some((first.parse().ok()?, last.parse().ok()?)));
    numbers.ok_or_else(|| format!("‘{text}’ is not two numbers, as in 2,2"))
}
