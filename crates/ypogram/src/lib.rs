//! Ypogram, a command-line tool for messy contact lists. This crate reads arguments and rulebooks, calls the jobs, and
//! shows what they report; it computes nothing itself.
#![forbid(unsafe_code)]

mod arguments;
mod ask;
mod call;
mod call_error;
mod clashes;
mod color;
mod column_choice;
mod commands;
mod completion;
mod default_folder;
mod dns;
mod exit;
mod faults;
mod field_rules;
#[cfg(fuzzing)]
pub mod fuzzing;
mod handover;
mod house;
mod job;
mod list_entry;
mod nearest_hint;
mod old_lists;
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
mod version;

use std::ffi::OsString;
use std::process::ExitCode;

use clap::{CommandFactory as _, FromArgMatches as _};

use arguments::Arguments;
use call::Call;
use color::Color;

/// Does what the arguments of this process ask for; gives its exit code.
pub fn run() -> ExitCode {
    completion::answer();
    job::end_with_it();
    let words: Vec<_> = std::env::args_os().skip(1).collect();
    let color = Color::requested(&words);
    color.choose();
    let read = Arguments::command().try_get_matches().and_then(|matches| {
        Ok((Arguments::from_arg_matches(&matches)?, Call::of(matches, words.iter().cloned())))
    });
    let Ok((arguments, call)) = read else { return for_help_or_error(&words, color) };
    faults::run(|| commands::run(arguments, &call))
}

/// Shows help that was asked for, or what is wrong with the call. To put help in order takes longer than to read a call.
fn for_help_or_error(words: &[OsString], color: Color) -> ExitCode {
    let all = version::added(Arguments::command(), words).color(color.of_help());
    let all = arguments::short_help::in_order(all);
    let Err(error) = all.clone().try_get_matches() else { return ExitCode::from(exit::UNUSABLE) };
    if let Some(error) = call_error::to_error(&error, &all, words) {
        return exit::for_error(&error);
    }
    let _ = error.print();
    ExitCode::from(if error.use_stderr() { exit::UNUSABLE } else { exit::DONE })
}
