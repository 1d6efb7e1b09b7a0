//! Ypogram, a command-line tool for messy contact lists. This crate reads arguments and rulebooks, calls the jobs, and
//! shows what they report; it computes nothing itself.
#![forbid(unsafe_code)]

mod arguments;
mod ask;
mod call;
mod clashes;
mod column_choice;
mod commands;
mod default_folder;
mod dns;
mod exit;
mod faults;
mod field_rules;
mod handover;
mod house;
mod job;
mod list_entry;
mod nearest_hint;
mod one_column;
mod output_target;
mod own_words;
mod progress_bar;
mod render;
mod rulebook;
mod rulebook_edit;
mod settings;
mod signals;
mod telling;
mod trial;

use std::process::ExitCode;

use clap::{CommandFactory as _, FromArgMatches as _};

use arguments::Arguments;
use call::Call;

fn main() -> ExitCode {
    let matched = Arguments::command().try_get_matches();
    let words = std::env::args_os().skip(1);
    let read =
        matched.and_then(|matches| Ok((Arguments::from_arg_matches(&matches)?, Call::of(matches, words))));
    let (arguments, call) = match read {
        Ok(read) => read,
        Err(error) => return exit::for_unreadable_call(&error),
    };
    faults::run(|| commands::run(arguments, &call))
}
