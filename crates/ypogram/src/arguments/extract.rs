//! What `extract` takes.

use std::path::PathBuf;

use clap::Args;
use ypogram_io::Format;

use super::format::{self, RowFormatArgument};
use super::{JudgingArguments, MachineArguments, OutputArguments, ReadingArguments};

/// Pull every address out of tables, text, mail, web pages and data: one row an address, with where it stood
#[derive(Debug, Args)]
#[command(after_help = "\
Formats by extension: csv tsv html json jsonl eml mbox, each also .gz or .zst; anything else is text. Folders are read \
with all that is in them, by the usual ignore rules.

Examples:
  ypogram extract notes.txt -o found.csv
  ypogram extract mails/ --unique --to plain                  every mailbox once
  ypogram extract page.html --show-skipped                    what looks like an address and is none
  ypogram extract members.csv --row-per-address               three addresses in a row: three rows
  ypogram extract notes.txt --pattern telephone-area-code     other things: every match a row")]
#[command(mut_arg("output", |file| file.help("File for the rows; its extension chooses the format; `-` is standard output [default: standard output]")))]
pub(crate) struct ExtractArguments {
    /// Files and folders to read; `-` is standard input
    #[arg(required = true, value_name = "SOURCE", help_heading = "Input")]
    pub(crate) sources: Vec<PathBuf>,

    /// Only this field of a table, key of JSON (contact.email) or part of a mail (from, body); can be repeated
    #[arg(short, long = "field", value_name = "NAME", help_heading = "Input")]
    pub(crate) fields: Vec<String>,

    /// The field of a table that distinguishes records: a column beside record and line
    #[arg(long, value_name = "NAME", help_heading = "Input")]
    pub(crate) id: Option<String>,

    /// A trial that ends with the first N rows: shows them and writes nothing
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u64).range(1..), help_heading = "Input")]
    pub(crate) first: Option<u64>,

    /// The format of the sources [default: recognised by their content and their names]
    #[arg(long, value_name = "FORMAT", help_heading = "Input", value_parser = format::of_sources())]
    pub(crate) from: Option<Format>,

    #[command(flatten)]
    pub(crate) reading: ReadingArguments,

    /// Levels of parts within parts that are decoded of a mail message, up to 500; what has more is read as it stands, exit code 1
    #[arg(long, value_name = "N", default_value_t = 100, value_parser = clap::value_parser!(u16).range(1..=500), help_heading = "Input")]
    pub(crate) deepest: u16,

    /// Parts that are decoded of a mail message; what has more is read as it stands, exit code 1
    #[arg(long, value_name = "N", default_value_t = 10_000, help_heading = "Input")]
    pub(crate) most_parts: usize,

    /// Take addresses whatever their top-level domain
    #[arg(long, help_heading = "Finding")]
    pub(crate) any_tld: bool,

    /// Also take what is written so that programs do not see it: `name at host dot org`, (at), `[dot]`, -dot- and the like; for
    /// review at most. Without it the summary says how many there may be
    #[arg(long, help_heading = "Finding")]
    pub(crate) obfuscated: bool,

    /// Look for what this pattern fits instead of addresses: one row a match, with which one it is in its cell or line, and a column for each of
    /// its groups; of the rulebook, or a ready-made one (`ypogram rules patterns` has them); can be repeated
    #[arg(long = "pattern", value_name = "NAME", help_heading = "Finding", conflicts_with_all = ["unique", "row_per_address", "show_skipped", "obfuscated", "any_tld"])]
    pub(crate) patterns: Vec<String>,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// How rows are written, where the extension does not tell [default: csv]
    #[arg(long, value_name = "FORMAT", help_heading = "Output", value_parser = format::of_rows())]
    pub(crate) to: Option<RowFormatArgument>,

    /// Bytes of the text around an address to write with it
    #[arg(long, value_name = "N", default_value_t = 0, hide_default_value = true, help_heading = "Output")]
    pub(crate) context: u16,

    /// One row a mailbox, with a count and the first place
    #[arg(long, help_heading = "Output")]
    pub(crate) unique: bool,

    /// Repeat the record of a table once for each address in it
    #[arg(long, help_heading = "Output", conflicts_with_all = ["unique", "context", "show_skipped", "to"])]
    pub(crate) row_per_address: bool,

    /// List what looks like an address and is none, with the reason, instead of the addresses
    #[arg(long, help_heading = "Output", conflicts_with = "unique")]
    pub(crate) show_skipped: bool,

    #[command(flatten)]
    pub(crate) table: super::TableArguments,

    #[command(flatten)]
    pub(crate) output: OutputArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}
