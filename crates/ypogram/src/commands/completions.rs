//! `ypogram completions`: the script that makes a shell ask this program what can follow.

use std::process::ExitCode;

use clap_complete::env::Shells;
use ypogram_io::{Error, Result};

use crate::arguments::CompletionsArguments;
use crate::{exit, render};

pub(crate) fn run(arguments: &CompletionsArguments) -> Result<ExitCode> {
    let shells = Shells::builtins();
    let shell = shells.completer(&arguments.shell).expect("every shell of the list has a script");
    let mut script = Vec::new();
    let written = shell.write_registration("COMPLETE", "ypogram", "ypogram", "ypogram", &mut script);
    written.map_err(|error| Error::output(format!("the script cannot be written: {error}"), ""))?;
    render::print(&String::from_utf8_lossy(&script))?;
    Ok(ExitCode::from(exit::DONE))
}
