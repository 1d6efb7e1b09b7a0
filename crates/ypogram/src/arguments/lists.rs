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
