//! One file a command.

mod clean;
mod demo;

use std::process::ExitCode;

use ypogram_tables::Result;

use crate::arguments::{Arguments, Command};

/// Runs the command that was typed.
///
/// # Errors
/// What the command could not do.
pub(crate) fn run(arguments: Arguments) -> Result<ExitCode> {
    match arguments.command {
        Command::Clean(arguments) => clean::run(&arguments),
        Command::Demo(arguments) => demo::run(&arguments),
    }
}
