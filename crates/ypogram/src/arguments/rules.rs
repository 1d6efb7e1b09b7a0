//! What `rules` takes.

use std::path::PathBuf;

use clap::{Args, Subcommand};

use super::rules_export::RulesExportArguments;
use super::{JudgingArguments, MachineArguments, SourceArguments};

/// Show the findings and how much each weighs; start, check and try a rulebook
#[derive(Debug, Args)]
#[command(args_conflicts_with_subcommands = true)]
#[command(after_help = "\
Examples:
  ypogram rules                                    every finding, and how much it weighs
  ypogram rules try --pattern loan OBS/0117/b      whether a value fits a pattern
  ypogram rules patterns                           your own patterns and the ready-made ones
  ypogram rules try --house 'given \".\" family \"@fernhollow.example\"' ada.lovell@fernhollow.example
  ypogram rules describe --house 'family \"_\" given(1) number? \"@staff.fernhollow.example\"'
  ypogram rules learn-house members.csv            how each domain builds its addresses
  ypogram rules export --for html -o sign-up.html   the same rule in the form where people sign up")]
pub(crate) struct RulesArguments {
    #[command(subcommand)]
    pub(crate) command: Option<RulesCommand>,

    /// Only these findings, with what to do and the standard
    #[arg(value_name = "CODE")]
    pub(crate) codes: Vec<String>,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// Print JSON
    #[arg(long, help_heading = "Output")]
    pub(crate) json: bool,
}

#[derive(Debug, Args)]
pub(crate) struct LearnHouseArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    /// The field with the given name [default: found by its name, else taken from whole names]
    #[arg(long, value_name = "FIELD", help_heading = "Input")]
    pub(crate) given: Option<String>,

    /// The field with the family name
    #[arg(long, value_name = "FIELD", help_heading = "Input")]
    pub(crate) family: Option<String>,

    /// Domains with fewer addresses are left out
    #[arg(long, value_name = "COUNT", default_value_t = 3)]
    pub(crate) at_least: u64,

    /// List every address that does not follow its domain's format, not the first five alone
    #[arg(long)]
    pub(crate) full: bool,

    /// Print JSON
    #[arg(long)]
    pub(crate) json: bool,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

#[derive(Debug, Subcommand)]
pub(crate) enum RulesCommand {
    /// Write a commented rulebook to start from
    Start {
        /// Where to write it
        #[arg(default_value = crate::rulebook::FILE_NAME, value_name = "FILE")]
        file: PathBuf,
    },
    /// Tell whether a rulebook is understood
    Check {
        /// The rulebook
        #[arg(default_value = crate::rulebook::FILE_NAME, value_name = "FILE")]
        file: PathBuf,

        /// Print JSON
        #[arg(long, help_heading = "Output")]
        json: bool,
    },
    /// Try values against patterns of the rulebook, or addresses against the house's format; exit with 1 where one does not fit
    Try {
        /// A pattern of the rulebook, or a ready-made one; can be repeated [default: all of the rulebook]
        #[arg(long, value_name = "NAME")]
        pattern: Vec<String>,

        /// A house format, such as 'given "." family "@fernhollow.example"'; with no FORMAT those of the rulebook; can be repeated
        #[arg(long, value_name = "FORMAT", num_args = 0..=1, default_missing_value = "", conflicts_with = "pattern")]
        house: Vec<String>,

        /// With --house, the given name of whoever has the address [default: not known, and any fits]
        #[arg(long, value_name = "NAME", requires = "house")]
        given: Option<String>,

        /// With --house, the family name
        #[arg(long, value_name = "NAME", requires = "house")]
        family: Option<String>,

        /// The rulebook [default: ypogram.toml]
        #[arg(long, value_name = "FILE")]
        rules: Option<PathBuf>,

        /// Print JSON
        #[arg(long, help_heading = "Output")]
        json: bool,

        /// Values to try
        #[arg(required = true, value_name = "VALUE")]
        values: Vec<String>,
    },
    /// Show your own patterns and the ready-made ones, each with its source: telephone numbers, IP and web addresses, dates, postal codes
    Patterns {
        /// Only these, with the pattern itself and a value that fits
        #[arg(value_name = "NAME")]
        names: Vec<String>,

        /// The rulebook [default: ypogram.toml]
        #[arg(long, value_name = "FILE")]
        rules: Option<PathBuf>,

        /// Print JSON
        #[arg(long, help_heading = "Output")]
        json: bool,
    },
    /// Say in plain words what a house format or a pattern accepts, with values that fit and values that nearly do
    Describe {
        /// A house format; with no FORMAT those of the rulebook; can be repeated
        #[arg(long, value_name = "FORMAT", num_args = 0..=1, default_missing_value = "", required_unless_present = "pattern")]
        house: Vec<String>,

        /// A pattern of the rulebook, or a ready-made one; can be repeated
        #[arg(long, value_name = "NAME")]
        pattern: Vec<String>,

        /// The rulebook [default: ypogram.toml]
        #[arg(long, value_name = "FILE")]
        rules: Option<PathBuf>,
    },
    /// Write the rule in the words of a place where entries are made: a form, a database, an API, a workbook, an expression
    Export(Box<RulesExportArguments>),
    /// Find the house format that most addresses of each domain follow, from the names beside them, and list the others
    LearnHouse(Box<LearnHouseArguments>),
}
