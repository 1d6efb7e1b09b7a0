//! What `rules` takes.

use std::path::PathBuf;

use clap::{Args, Subcommand};

use super::JudgingArguments;

/// Show the findings and how much each weighs; start, check and try a rulebook
#[derive(Debug, Args)]
#[command(args_conflicts_with_subcommands = true)]
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
    },
    /// Try values against patterns of the rulebook
    Try {
        /// The pattern; can be repeated [default: all]
        #[arg(long, value_name = "NAME")]
        pattern: Vec<String>,

        /// The rulebook [default: ypogram.toml]
        #[arg(long, value_name = "FILE")]
        rules: Option<PathBuf>,

        /// Values to try
        #[arg(required = true, value_name = "VALUE")]
        values: Vec<String>,
    },
}
