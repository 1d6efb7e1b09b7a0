//! What `lists` takes.

use std::path::PathBuf;

use clap::{Args, Subcommand};

use super::JudgingArguments;

/// Show, try, check and extend the reference lists: free providers, throw-away services, role accounts, and your own
#[derive(Debug, Args)]
#[command(
    args_conflicts_with_subcommands = true,
    after_help = "\
Examples:
  ypogram lists                                    every list in force, with where it comes from
  ypogram lists show disposable --like mail        what is on one
  ypogram lists test ada@mail.marshmill.example    which entry of which list decides, and why
  ypogram lists new fees --match membership --columns 'yearly fee'
  ypogram lists add partners marshmill.example     edits the file of a list that the rulebook names
  ypogram lists check partners.csv                 entries that stand twice or cannot be used"
)]
pub(crate) struct ListsArguments {
    #[command(subcommand)]
    pub(crate) command: Option<ListsCommand>,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Print JSON
    #[arg(long, global = true, help_heading = "Output")]
    pub(crate) json: bool,
}

#[derive(Debug, Subcommand)]
pub(crate) enum ListsCommand {
    /// Show the entries of a list
    Show {
        /// The list
        #[arg(value_name = "NAME")]
        name: String,

        /// Only entries with this text in them
        #[arg(long, value_name = "TEXT")]
        like: Option<String>,

        #[command(flatten)]
        judging: JudgingArguments,
    },
    /// Tell which entries of which lists speak of an address or domain, and which one decides
    Test {
        /// Addresses and domains
        #[arg(required = true, value_name = "ADDRESS|DOMAIN")]
        values: Vec<String>,

        #[command(flatten)]
        judging: JudgingArguments,
    },
    /// Start a list of your own: an empty file with its columns, named in the rulebook
    New(ListNewArguments),
    /// Add entries to a list of your own
    Add(ListEditArguments),
    /// Change the cells beside entries, or the entries themselves
    Change(ListEditArguments),
    /// Remove entries from a list of your own
    Remove(ListEditArguments),
    /// Tell what is wrong with a list: what stands twice, cannot be used, never matches, or is known already
    Check {
        /// The list, or its file
        #[arg(value_name = "NAME|FILE")]
        list: String,

        /// What the entries of the file are [default: each an address or a domain, as it is written]
        #[arg(long, value_name = "WHAT")]
        of: Option<String>,

        /// The class that the entries of the file give, so that it can be held against the built-in lists
        #[arg(long, value_name = "CLASS")]
        class: Option<String>,

        /// File for the list with every entry as it is looked up, each once; comments and order stay
        #[arg(short, long, value_name = "FILE", help_heading = "Output")]
        output: Option<PathBuf>,

        /// Replace an output file that exists
        #[arg(long, help_heading = "Output")]
        force: bool,

        #[command(flatten)]
        judging: JudgingArguments,
    },
}

#[derive(Debug, Args)]
pub(crate) struct ListNewArguments {
    /// The list's name
    #[arg(value_name = "NAME")]
    pub(crate) name: String,

    /// The columns that it adds to records which match
    #[arg(long, value_name = "COLUMN,…", value_delimiter = ',')]
    pub(crate) columns: Vec<String>,

    /// The field whose values are looked up in it [default: the record's address]
    #[arg(long = "match", value_name = "FIELD", conflicts_with = "of")]
    pub(crate) matching: Option<String>,

    /// What its entries are [default: each an address or a domain, as it is written]
    #[arg(long, value_name = "WHAT")]
    pub(crate) of: Option<String>,

    /// Its file, beside the rulebook [default: NAME.csv]
    #[arg(short, long, value_name = "FILE", help_heading = "Output")]
    pub(crate) output: Option<PathBuf>,

    /// The rulebook that names it [default: ypogram.toml]
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) rules: Option<PathBuf>,
}

#[derive(Debug, Args)]
pub(crate) struct ListEditArguments {
    /// The list, as the rulebook names it, or its file
    #[arg(value_name = "NAME|FILE")]
    pub(crate) list: String,

    /// Entries
    #[arg(value_name = "ENTRY", required_unless_present = "from_file")]
    pub(crate) entries: Vec<String>,

    /// Take entries, and the columns beside them, from this file as well
    #[arg(long, value_name = "FILE")]
    pub(crate) from_file: Option<PathBuf>,

    /// A cell beside each entry; can be repeated
    #[arg(long, value_name = "COLUMN=CELL")]
    pub(crate) set: Vec<String>,

    /// What the entry becomes (only for change)
    #[arg(long, value_name = "ENTRY")]
    pub(crate) becomes: Option<String>,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,
}
