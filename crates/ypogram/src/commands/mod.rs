//! One file a command.

mod bounces;
pub(crate) mod check;
mod clean;
mod common;
mod compare;
mod completions;
mod dedupe;
mod demo;
mod domains;
mod explain;
mod extract;
#[cfg(feature = "sqlite")]
mod guard;
mod into_columns;
mod links;
pub(crate) mod lists;
mod lists_new;
mod man;
mod redact;
#[cfg(feature = "sqlite")]
mod register;
mod rules;
mod rules_export;
mod rules_house;
mod rules_patterns;
mod run;
mod settle;
mod split;
mod survey;
#[cfg(feature = "worker")]
mod worker;

use std::process::ExitCode;

use ypogram_io::Result;

use crate::arguments::{Arguments, Command};
use crate::call::Call;
use crate::job::AddStep;

/// Runs the command that was typed.
///
/// # Errors
/// What the command could not do.
pub(crate) fn run(arguments: Arguments, call: &Call) -> Result<ExitCode> {
    let step = AddStep::asked_by(call)?;
    let done = dispatch(arguments, call)?;
    if let Some(step) = step {
        step.add()?;
    }
    Ok(done)
}

fn dispatch(arguments: Arguments, call: &Call) -> Result<ExitCode> {
    match arguments.command {
        Command::Survey(arguments) => survey::run(&arguments, call),
        Command::Extract(arguments) => extract::run(&arguments, call),
        Command::Check(arguments) => check::run(&arguments, call),
        Command::Explain(arguments) => explain::run(&arguments),
        Command::Split(arguments) => split::run(&arguments, call),
        Command::Dedupe(arguments) => dedupe::run(&arguments, call),
        Command::Domains(arguments) => domains::run(&arguments, call),
        Command::Links(arguments) => links::run(&arguments, call),
        #[cfg(feature = "worker")]
        Command::Worker(arguments) => worker::run(&arguments),
        Command::Compare(arguments) => compare::run(&arguments, call),
        #[cfg(feature = "sqlite")]
        Command::Register(arguments) => register::run(&arguments),
        #[cfg(not(feature = "sqlite"))]
        Command::Register(_) => Err(ypogram_io::Error::unusable(
            "this build of the program keeps no registers",
            "build it with --features sqlite",
        )),
        Command::Redact(arguments) => redact::run(&arguments),
        Command::Bounces(arguments) => bounces::run(&arguments, call),
        Command::Clean(arguments) => clean::run(&arguments, call),
        Command::Settle(arguments) => settle::run(&arguments),
        Command::Run(arguments) => run::run(&arguments),
        Command::Lists(arguments) => lists::run(&arguments),
        Command::Rules(arguments) => rules::run(&arguments),
        Command::Demo(arguments) => demo::run(&arguments),
        Command::Completions(arguments) => completions::run(&arguments),
        Command::Man(arguments) => man::run(&arguments),
    }
}
