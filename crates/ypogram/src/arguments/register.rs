//! What `register` takes.

use std::path::PathBuf;

use clap::{Args, Subcommand};

use super::{JudgingArguments, MachineArguments, OutputArguments, SourceArguments};

/// Keep a store of mailboxes that admits each one once
#[derive(Debug, Args)]
#[command(
    subcommand_required = true,
    arg_required_else_help = true,
    after_help = "\
Examples:
  ypogram register new members.register                      an empty store
  ypogram register add members.register members.csv --admissible-only
  ypogram register look members.register zeno.inglewood@quarryfarm.example
  ypogram register withdraw members.register withdrawn.txt --forget
  ypogram register ask members.register < sign-ups.txt           a line in, a line of JSON out
  ypogram register guard app.sqlite#members.email                the SQL for a table of your own"
)]
pub(crate) struct RegisterArguments {
    #[command(subcommand)]
    pub(crate) command: RegisterCommand,
}

#[derive(Debug, Subcommand)]
pub(crate) enum RegisterCommand {
    /// Make an empty store, for its owner alone
    New {
        /// The file
        #[arg(value_name = "STORE")]
        store: PathBuf,

        #[command(flatten)]
        judging: JudgingArguments,
    },
    /// Admit the records of sources, all in one transaction: one that is refused stops all
    Add(Box<RegisterAddArguments>),
    /// Tell whether mailboxes are known; exit with 1 where one is not
    Look(RegisterLookArguments),
    /// Mark mailboxes as those that asked to be left alone: known for ever, and never admitted
    Withdraw(RegisterEditArguments),
    /// Remove mailboxes, as if they had never been there
    Remove(RegisterEditArguments),
    /// Write every mailbox, the address first
    List {
        /// The store
        #[arg(value_name = "STORE")]
        store: PathBuf,

        /// File for the rows; `-` is standard output [default: standard output]
        #[arg(short, long, value_name = "FILE")]
        output: Option<PathBuf>,

        /// Replace the file
        #[arg(long)]
        force: bool,
    },
    /// Tell how many mailboxes there are, since when, and from where
    Stats(RegisterStoreArguments),
    /// Check the file, and work out every key again; exit with 1 where something is wrong
    Verify(RegisterStoreArguments),
    /// Find the rows of a table of your own that stand in the way of a unique rule, and print the SQL that makes it; exit with 1 where
    /// there are such
    Guard(Box<RegisterGuardArguments>),
    /// Answer lines of standard input, an address each: judged as it was typed, looked up and admitted in one act
    Ask {
        /// The store
        #[arg(value_name = "STORE")]
        store: PathBuf,

        #[command(flatten)]
        admission: AdmissionArguments,

        /// Where the addresses come from, which the store keeps beside them
        #[arg(long, value_name = "TEXT", default_value = "ask")]
        source: String,

        #[command(flatten)]
        judging: JudgingArguments,
    },
}

/// What is admitted.
#[derive(Debug, Args)]
pub(crate) struct AdmissionArguments {
    /// Admit addresses that are for review as well
    #[arg(long, value_name = "WHAT", value_parser = ["review"])]
    pub(crate) admit: Option<String>,
}

#[derive(Debug, Args)]
pub(crate) struct RegisterAddArguments {
    /// The store
    #[arg(value_name = "STORE")]
    pub(crate) store: PathBuf,

    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    #[command(flatten)]
    pub(crate) admission: AdmissionArguments,

    /// Admit what is admissible, and leave refused records out
    #[arg(long)]
    pub(crate) admissible_only: bool,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) output: OutputArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

#[derive(Debug, Args)]
pub(crate) struct RegisterLookArguments {
    /// The store
    #[arg(value_name = "STORE")]
    pub(crate) store: PathBuf,

    /// Addresses
    #[arg(value_name = "ADDRESS", required = true)]
    pub(crate) addresses: Vec<String>,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Print JSON
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, Args)]
pub(crate) struct RegisterEditArguments {
    /// The store
    #[arg(value_name = "STORE")]
    pub(crate) store: PathBuf,

    /// Addresses, or files that hold them
    #[arg(value_name = "ADDRESS|SOURCE", required = true)]
    pub(crate) values: Vec<String>,

    /// A field of the files that should hold an address; can be repeated
    #[arg(short, long = "field", value_name = "NAME")]
    pub(crate) fields: Vec<String>,

    /// With withdraw, keep only a hash of each mailbox, so that nobody can read who it was and any spelling stays withdrawn
    #[arg(long)]
    pub(crate) forget: bool,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

#[derive(Debug, Args)]
pub(crate) struct RegisterStoreArguments {
    /// The store
    #[arg(value_name = "STORE")]
    pub(crate) store: PathBuf,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Print JSON
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, Args)]
pub(crate) struct RegisterGuardArguments {
    /// The column with the addresses, as in app.sqlite#members.mail or postgres://ada@db/app#members.mail; the database is only read
    #[arg(value_name = "DATABASE#TABLE.COLUMN")]
    pub(crate) column: PathBuf,

    /// Which row of a mailbox stays: first, last, fullest, best (verdict, then fullest), newest:COLUMN, oldest:COLUMN, or
    /// where:COLUMN=VALUE,VALUE in order of preference; ties fall to the first
    #[arg(long, value_name = "WHICH", default_value = "first")]
    pub(crate) survivor: String,

    /// What becomes of a row that names another person than the one that stays: review (its DELETE is a remark, for you to decide) or drop
    #[arg(long, value_name = "WHAT", default_value = "review", value_parser = ["review", "drop"])]
    pub(crate) shared: String,

    /// A column that names a person, so that rows of another person are marked; can be repeated [default: found by their names]
    #[arg(long = "person", value_name = "COLUMN")]
    pub(crate) persons: Vec<String>,

    /// The name of the new key column [default: the column's with _key behind it]
    #[arg(long, value_name = "NAME")]
    pub(crate) key_column: Option<String>,

    /// Let the SQL bring addresses that the database cannot compare to their standard form too; what stands beside one in its cell is lost
    #[arg(long)]
    pub(crate) standard_form: bool,

    /// File for the SQL; `-` is standard output [default: behind the summary]
    #[arg(short, long, value_name = "FILE.sql")]
    pub(crate) output: Option<PathBuf>,

    /// File for a list of the rows in the way
    #[arg(long, value_name = "FILE")]
    pub(crate) rows: Option<PathBuf>,

    /// Replace the files
    #[arg(long)]
    pub(crate) force: bool,

    /// Print the figures as JSON
    #[arg(long)]
    pub(crate) json: bool,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}
