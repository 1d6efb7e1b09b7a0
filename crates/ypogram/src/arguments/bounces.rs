//! What `bounces` takes.

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use ypogram_jobs::bounces::What;

/// Read what comes back after a mailing: which mailboxes are gone, full or moved, and who wants to be left alone
#[derive(Debug, Args)]
#[command(after_help = "\
Reads reports of delivery, what mail systems say in plain words, automatic replies, and mails of people who want to be left \
alone. One row a recipient: gone, withdrawn, moved (with the new address where it is given), full, deferred or away. What is \
not sure to be the mailbox's fault is deferred.

Examples:
  ypogram bounces returned.mbox                               what came of the mailing
  ypogram bounces mails/ -o bounces.csv                       a row a recipient
  ypogram bounces returned.mbox --only gone,withdrawn -o leave-out.csv
  ypogram clean members.csv --list bounced=leave-out.csv,of=keys,severity=reject")]
pub(crate) struct BouncesArguments {
    /// Mailboxes (mbox), messages (eml) and folders with such
    #[arg(required = true, value_name = "SOURCE", help_heading = "Input")]
    pub(crate) sources: Vec<PathBuf>,

    /// Only these rows
    #[arg(long, value_name = "WHAT,…", value_delimiter = ',', help_heading = "Output")]
    pub(crate) only: Vec<WhatArgument>,

    /// File for the rows; `-` is standard output [default: only the summary]
    #[arg(short, long, value_name = "FILE", help_heading = "Output")]
    pub(crate) output: Option<PathBuf>,

    /// Replace the file
    #[arg(long, help_heading = "Output")]
    pub(crate) force: bool,

    /// Put an apostrophe before each cell that a spreadsheet would take for a formula, in CSV alone: the words are those of strangers
    #[arg(long, help_heading = "Output")]
    pub(crate) guard_formulas: bool,

    /// Add this call as a step to a job of the rulebook, once it is done
    #[arg(long, value_name = "JOB", help_heading = "Output")]
    pub(crate) add_to_job: Option<String>,

    /// Print the summary as JSON
    #[arg(long, help_heading = "Output")]
    pub(crate) json: bool,

    /// Print no summary
    #[arg(short, long, help_heading = "Output")]
    pub(crate) quiet: bool,

    /// Print the whole summary, however long; without it, 40 lines of the width of the terminal
    #[arg(long, help_heading = "Output")]
    pub(crate) full: bool,

    /// Exit with 1 where nothing is reported of anybody (none-found)
    #[arg(long, value_name = "TROUBLE", value_parser = ["none-found"], help_heading = "Output")]
    pub(crate) fail_on: Option<String>,

    /// Print one figure of the summary and nothing else, such as gone
    #[arg(long, value_name = "NAME", conflicts_with_all = ["json", "quiet", "full"], help_heading = "Output")]
    pub(crate) figure: Option<String>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum WhatArgument {
    /// There is no such mailbox, or none any more
    Gone,
    /// Its owner wants to be left alone
    Withdrawn,
    /// The mailbox is another now
    Moved,
    /// The mailbox is full
    Full,
    /// Not delivered, or not yet, for a reason that says nothing of the mailbox
    Deferred,
    /// Its owner is away
    Away,
}

impl From<WhatArgument> for What {
    fn from(argument: WhatArgument) -> Self {
        match argument {
            WhatArgument::Gone => What::Gone,
            WhatArgument::Withdrawn => What::Withdrawn,
            WhatArgument::Moved => What::Moved,
            WhatArgument::Full => What::Full,
            WhatArgument::Deferred => What::Deferred,
            WhatArgument::Away => What::Away,
        }
    }
}
