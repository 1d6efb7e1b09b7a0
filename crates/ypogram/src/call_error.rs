//! What is wrong with a call that cannot be read: what, and what to do.

use std::ffi::OsString;
use std::path::Path;

use clap::Command;
use clap::error::{ContextKind, ContextValue, ErrorKind};
use ypogram_io::{Error, nearest};

use crate::render::words::for_shell;

/// The error in the words of all others; none for what is no error, such as help that was asked for. `words` are those behind the program's name.
pub(crate) fn to_error(error: &clap::Error, all: &Command, words: &[OsString]) -> Option<Error> {
    let called = Called::of(all, words);
    let (message, hint) = match error.kind() {
        ErrorKind::DisplayHelp
        | ErrorKind::DisplayVersion
        | ErrorKind::DisplayHelpOnMissingArgumentOrSubcommand => return None,
        ErrorKind::InvalidSubcommand => {
            let word = one(error, ContextKind::InvalidSubcommand);
            (format!("‘{word}’ is not a command"), called.what_was_meant(&word))
        }
        ErrorKind::UnknownArgument => called.unknown(&one(error, ContextKind::InvalidArg)),
        ErrorKind::InvalidValue | ErrorKind::ValueValidation => called.value(error),
        ErrorKind::MissingRequiredArgument => {
            let missing = several(error, ContextKind::InvalidArg);
            let missing: Vec<String> = missing.iter().map(|name| name.replace("...", "")).collect();
            (
                format!("{} {} missing", missing.join(" and "), if missing.len() > 1 { "are" } else { "is" }),
                called.help(),
            )
        }
        ErrorKind::MissingSubcommand => ("a command is missing".to_owned(), called.help()),
        ErrorKind::ArgumentConflict => {
            let (one, other) =
                (bare(&one(error, ContextKind::InvalidArg)), several(error, ContextKind::PriorArg));
            let other = other.iter().map(|name| bare(name)).collect::<Vec<_>>().join(", ");
            match other.is_empty() || one == other {
                true => (format!("{one} is given twice"), "give it once".to_owned()),
                false => (format!("{one} and {other} exclude each other"), "leave one out".to_owned()),
            }
        }
        ErrorKind::NoEquals | ErrorKind::TooFewValues | ErrorKind::WrongNumberOfValues => {
            (format!("{} needs a value", one(error, ContextKind::InvalidArg)), called.help())
        }
        ErrorKind::TooManyValues => {
            let word = one(error, ContextKind::InvalidValue);
            (format!("‘{word}’ is one too many"), called.help())
        }
        ErrorKind::InvalidUtf8 => {
            ("an option has a value that is not UTF-8".to_owned(), "write it in UTF-8".to_owned())
        }
        _ => {
            let text = error.to_string();
            let first = text.lines().next().unwrap_or_default().trim_start_matches("error: ").to_owned();
            (first, called.help())
        }
    };
    Some(Error::unusable(message, hint))
}

fn one(error: &clap::Error, kind: ContextKind) -> String {
    several(error, kind).into_iter().next().unwrap_or_default()
}

fn several(error: &clap::Error, kind: ContextKind) -> Vec<String> {
    match error.get(kind) {
        Some(ContextValue::String(text)) => vec![text.clone()],
        Some(ContextValue::Strings(texts)) => texts.clone(),
        _ => Vec::new(),
    }
}

/// An option without what stands for its value.
fn bare(option: &str) -> String {
    option.split(" <").next().unwrap_or(option).to_owned()
}

/// The command that was called.
struct Called<'a> {
    all: &'a Command,
    command: &'a Command,
    /// Its name with those above it, as it is typed.
    path: String,
}

impl<'a> Called<'a> {
    fn of(all: &'a Command, words: &[OsString]) -> Self {
        let mut called = Called { all, command: all, path: "ypogram".to_owned() };
        for word in words {
            let Some(below) = called.command.find_subcommand(word) else { continue };
            called.command = below;
            called.path = format!("{} {}", called.path, below.get_name());
        }
        called
    }

    fn help(&self) -> String {
        format!("{} --help shows what it takes", self.path)
    }

    /// Commands that have an option of that name.
    fn others_with(&self, option: &str) -> Vec<&str> {
        let long = option.trim_start_matches('-');
        let has =
            |command: &&Command| command.get_arguments().any(|argument| argument.get_long() == Some(long));
        self.all.get_subcommands().filter(has).map(Command::get_name).collect()
    }

    fn unknown(&self, word: &str) -> (String, String) {
        if !word.starts_with('-') {
            return (format!("‘{word}’ is one word too many"), self.help());
        }
        let options = self.command.get_arguments().filter(|argument| !argument.is_hide_set());
        let options: Vec<String> =
            options.filter_map(|argument| argument.get_long()).map(|long| format!("--{long}")).collect();
        let bare = word.split('=').next().unwrap_or(word);
        let others = self.others_with(bare);
        let hint = match nearest(bare, options.iter().map(String::as_str)) {
            _ if !others.is_empty() => format!("it is one of {}; {}", others.join(", "), self.help()),
            Some(nearest) => format!("did you mean ‘{nearest}’?"),
            None => self.help(),
        };
        (format!("{} has no option ‘{bare}’", self.path.trim_start_matches("ypogram ")), hint)
    }

    /// A value that its option cannot have.
    fn value(&self, error: &clap::Error) -> (String, String) {
        let (value, option) = (one(error, ContextKind::InvalidValue), one(error, ContextKind::InvalidArg));
        let option = bare(&option);
        if value.is_empty() {
            return (format!("{option} needs a value"), self.help());
        }
        let valid = several(error, ContextKind::ValidValue);
        let why = std::error::Error::source(error).map(ToString::to_string).unwrap_or_default();
        let hint = match nearest(&value, valid.iter().map(String::as_str)) {
            Some(nearest) => format!("did you mean ‘{nearest}’?"),
            None if !valid.is_empty() => format!("it can be {}", valid.join(", ")),
            None if why.contains("digit") => "it is a whole number".to_owned(),
            None if !why.is_empty() => why,
            None => self.help(),
        };
        (format!("{option} cannot be ‘{value}’"), hint)
    }

    /// People who type a file or an address first are led on.
    fn what_was_meant(&self, word: &str) -> String {
        let quoted = for_shell(word);
        let path = Path::new(word);
        let commands = self.command.get_subcommands().map(Command::get_name);
        if path.exists() || path.extension().is_some_and(|ending| ending.len() <= 5) && !word.contains('@') {
            format!(
                "to see what is in this file: ypogram survey {quoted}; to clean it: ypogram clean {quoted}"
            )
        } else if word.contains('@') {
            format!("to judge this address: ypogram explain {quoted}")
        } else if let Some(nearest) = nearest(word, commands) {
            format!("did you mean ‘{} {nearest}’?", self.path)
        } else {
            format!("{} --help shows the commands", self.path)
        }
    }
}
