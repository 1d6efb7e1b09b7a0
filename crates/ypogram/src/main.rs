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

use std::process::ExitCode;

use clap::{CommandFactory as _, FromArgMatches as _};

use arguments::Arguments;
use call::Call;

fn main() -> ExitCode {
    completion::answer();
    let words: Vec<_> = std::env::args_os().skip(1).collect();
    let color = color::Color::asked(&words);
    color.choose();
    let all = arguments::short_help::in_order(Arguments::command().color(color.of_help()));
    let read = all.clone().try_get_matches().and_then(|matches| {
        Ok((Arguments::from_arg_matches(&matches)?, Call::of(matches, words.iter().cloned())))
    });
    let (arguments, call) = match read {
        Ok(read) => read,
        Err(error) => {
            let Some(told) = call_error::told(&error, &all, &words) else {
                // Help that was asked for.
                let _ = error.print();
                return ExitCode::from(if error.use_stderr() { exit::UNUSABLE } else { exit::DONE });
            };
            return exit::for_error(&told);
        }
    };
    faults::run(|| commands::run(arguments, &call))
}
