//! Ypogram, a command-line tool for messy contact lists. This crate reads arguments and rulebooks, calls the jobs, and
//! shows what they report; it computes nothing itself.
#![forbid(unsafe_code)]

mod arguments;
mod commands;
mod exit;
mod list_entry;
mod progress_bar;
mod render;
mod rulebook;
mod settings;
mod trial;

use std::process::ExitCode;

use clap::Parser;

use arguments::Arguments;

fn main() -> ExitCode {
    let arguments = match Arguments::try_parse() {
        Ok(arguments) => arguments,
        Err(error) => return exit::for_unreadable_call(&error),
    };
    match commands::run(arguments) {
        Ok(code) => code,
        Err(error) => exit::for_error(&error),
    }
}
