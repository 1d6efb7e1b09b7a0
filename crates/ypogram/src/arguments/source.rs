//! Where records come from: the same in every command that reads them.

use std::path::PathBuf;

use clap::Args;

use super::format;
use super::machine::bytes;
use ypogram_io::csv::Header;
use ypogram_io::{Encoding, Format, encoding_named};

/// The fields that are looked at.
#[derive(Debug, Args)]
#[command(next_help_heading = "Input")]
pub(crate) struct FieldArguments {
    /// A field that should hold an address and nothing else; can be repeated, in order of preference
    #[arg(short, long = "field", value_name = "NAME")]
    pub(crate) fields: Vec<String>,

    /// A field that may hold an address among other words; can be repeated, in order of preference
    #[arg(short, long, value_name = "NAME")]
    pub(crate) also: Vec<String>,

    /// A field that names the person whose record it is; can be repeated [default: recognised by its name]
    #[arg(long, value_name = "NAME")]
    pub(crate) person: Vec<String>,
}

/// Where records come from.
#[derive(Debug, Args)]
#[command(next_help_heading = "Input")]
pub(crate) struct SourceArguments {
    /// Files to read one after the other as one list; `-` is standard input, and behind `#` stands a sheet, a table or a SELECT, as in
    /// book.xlsx#Rota
    #[arg(value_name = "SOURCE")]
    pub(crate) sources: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) fields: FieldArguments,

    /// The field that distinguishes records, shown beside the line wherever a record is named
    #[arg(long, value_name = "NAME")]
    pub(crate) id: Option<String>,

    /// A trial on the first N records: shows the result and writes nothing
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u64).range(1..))]
    pub(crate) first: Option<u64>,

    /// The format of the sources [default: recognised by their content and their names]
    #[arg(long, value_name = "FORMAT", value_parser = format::of_tables())]
    pub(crate) from: Option<Format>,

    #[command(flatten)]
    pub(crate) reading: ReadingArguments,
}

/// How what is read is taken.
#[derive(Debug, Args)]
#[command(next_help_heading = "Input")]
pub(crate) struct ReadingArguments {
    /// What separates the cells of a table: a character, or `tab` [default: recognised]
    #[arg(long, value_name = "CHARACTER", value_parser = delimiter)]
    pub(crate) delimiter: Option<u8>,

    /// The line that names the fields, counted from 1; what stands above it is left out [default: recognised]
    #[arg(long, value_name = "ROW", value_parser = clap::value_parser!(u64).range(1..), conflicts_with = "no_header")]
    pub(crate) header: Option<u64>,

    /// As many records are read, and written as ever; for a job that is tried.
    #[arg(long, value_name = "N", hide = true)]
    pub(crate) only_first: Option<u64>,

    /// A source that is called so, and the file in which it is; for the steps of a job.
    #[arg(long, num_args = 2, value_names = ["SOURCE", "FILE"], hide = true)]
    pub(crate) kept: Vec<PathBuf>,

    /// The table has no header row: its fields are called field1, field2, …
    #[arg(long)]
    pub(crate) no_header: bool,

    /// The encoding of text, such as windows-1252 or shift_jis; SOURCE=NAME is that of one of several; can be repeated
    /// [default: recognised]
    #[arg(long, value_name = "NAME", value_parser = encoding)]
    pub(crate) encoding: Vec<EncodingArgument>,

    /// The sheet of a workbook, by its name or its number from 1, or the table of a database [default: the first sheet that holds
    /// something, the only table; extract searches all of them]
    #[arg(long, value_name = "NAME")]
    pub(crate) sheet: Option<String>,

    /// How many bytes a workbook, or another packed source that is read at any place, may unpack to; past it, it is an error
    #[arg(long, value_name = "SIZE", default_value = "2G", value_parser = bytes)]
    pub(crate) most_unpacked: usize,

    /// How long a record of a table, or a line of text, may be; past it, it is an error
    #[arg(long, value_name = "SIZE", default_value = "16M", value_parser = bytes)]
    pub(crate) longest_record: usize,

    /// Take what can be read of an input that breaks off; exit with 1
    #[arg(long)]
    pub(crate) salvage: bool,
}

impl ReadingArguments {
    /// Where the names of the fields stand.
    pub(crate) fn header(&self) -> Header {
        match self.header {
            _ if self.no_header => Header::Missing,
            Some(line) => Header::Line(line),
            None => Header::Recognised,
        }
    }
}

/// An encoding, and the source that it is of where that is said.
#[derive(Clone, Debug)]
pub(crate) struct EncodingArgument {
    pub(crate) source: Option<PathBuf>,
    pub(crate) encoding: &'static Encoding,
}

fn encoding(text: &str) -> Result<EncodingArgument, String> {
    let (source, name) = match text.rsplit_once('=') {
        Some((source, name)) => (Some(source.into()), name),
        None => (None, text),
    };
    let encoding = encoding_named(name).ok_or_else(|| unknown_encoding(name))?;
    Ok(EncodingArgument { source, encoding })
}

/// What is wrong with the name of an encoding.
pub(super) fn unknown_encoding(name: &str) -> String {
    format!("there is no encoding ‘{name}’; its names are those of web pages, such as utf-8 or windows-1252")
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
