//! The call that is running, so that the commands that are printed repeat its options.

use std::ffi::OsString;
use std::fmt;
use std::sync::OnceLock;

use clap::parser::ValueSource;
use clap::{ArgAction, ArgMatches, CommandFactory as _};

use crate::arguments::Arguments;
use crate::render::words::for_shell;

/// The call that is running. It is only taken apart where a command is printed.
#[derive(Debug, Default)]
pub(crate) struct Call {
    matches: ArgMatches,
    /// The words behind the program's name; none where one of them is not UTF-8.
    words: Option<Vec<String>>,
    parts: OnceLock<Parts>,
}

/// What was typed.
#[derive(Debug, Default)]
struct Parts {
    /// The name of the command.
    command: String,
    sources: Vec<String>,
    options: Vec<Given>,
    /// The command line as it can be, to see which options another command has.
    all: clap::Command,
}

/// An option as it was given.
#[derive(Debug)]
struct Given {
    long: String,
    /// The part of the help that it stands in.
    heading: String,
    /// None for one without a value.
    values: Option<Vec<String>>,
}

/// Headings of options that decide what is read and how it is judged.
const REPEATED: [&str; 6] = ["Input", "Finding", "Judging", "DNS", "Selection", "Splitting"];

/// Headings of options that are repeated where the command is the same.
const OF_COMMAND: [&str; 3] = ["Groups", "Duplicates", "Links"];

/// What is repeated besides, and what is not.
const ALSO: [&str; 3] = ["prefix", "where", "guard-formulas"];
const NEVER: [&str; 2] = ["first", "near-field"];

impl Call {
    /// What was matched of the words behind the program's name.
    pub(crate) fn of(matches: ArgMatches, words: impl IntoIterator<Item = OsString>) -> Self {
        let words = words.into_iter().map(|word| word.into_string().ok()).collect();
        Call { matches, words, parts: OnceLock::new() }
    }

    /// The words behind the program's name, where they can be written down.
    pub(crate) fn words(&self) -> Option<Vec<String>> {
        self.words.clone()
    }

    /// Whether cells are guarded that a spreadsheet would take for formulas.
    pub(crate) fn guards_formulas(&self) -> bool {
        let given = self.matches.subcommand().map(|(_, given)| given);
        given
            .and_then(|given| given.try_get_one("guard_formulas").ok().flatten().copied())
            .unwrap_or_default()
    }

    /// The job that the command is to be added to, where there is one. The call is not taken apart for that.
    pub(crate) fn job_to_add_to(&self) -> Option<String> {
        let (_, given) = self.matches.subcommand()?;
        given.try_get_one::<String>("add_to_job").ok().flatten().cloned()
    }

    /// The name of the command.
    pub(crate) fn command(&self) -> String {
        self.parts().command.clone()
    }

    /// The sources as they were given.
    pub(crate) fn sources(&self) -> Vec<String> {
        self.parts().sources.clone()
    }

    /// The options as they were given, with their values; none for one without.
    pub(crate) fn options(&self) -> Vec<(String, Option<Vec<String>>)> {
        self.parts().options.iter().map(|given| (given.long.clone(), given.values.clone())).collect()
    }

    /// Whether an option was given.
    pub(crate) fn has(&self, long: &str) -> bool {
        self.parts().options.iter().any(|given| given.long == long)
    }

    /// The value of an option, where it was given.
    pub(crate) fn value_of(&self, long: &str) -> Option<String> {
        let given = self.parts().options.iter().find(|given| given.long == long)?;
        given.values.as_ref()?.first().cloned()
    }

    fn parts(&self) -> &Parts {
        self.parts.get_or_init(|| Parts::of(&self.matches))
    }

    /// A command over the same sources with the options that it has in common with this call.
    pub(crate) fn again(&self, command: &str) -> CommandLine {
        let parts = self.parts();
        let target = parts.all.find_subcommand(command);
        let knows = |given: &Given| {
            let known = target.is_some_and(|target| {
                target.get_arguments().any(|argument| argument.get_long() == Some(&given.long))
            });
            let same = command == parts.command && OF_COMMAND.contains(&&*given.heading);
            let repeated = REPEATED.contains(&&*given.heading) || ALSO.contains(&&*given.long) || same;
            // In some commands a pattern is held against the address, in others against everything.
            let of_everything = |command: &str| matches!(command, "survey" | "extract");
            let is_other = given.long == "pattern" && of_everything(command) != of_everything(&parts.command);
            known && repeated && !is_other && !NEVER.contains(&&*given.long)
        };
        let mut line = CommandLine { words: vec!["ypogram".into(), command.into()] };
        line.words.extend(parts.sources.iter().map(|source| for_shell(source)));
        for given in parts.options.iter().filter(|given| knows(given)) {
            match &given.values {
                None => line = line.flag(&given.long),
                Some(values) => {
                    line = values.iter().fold(line, |line, value| line.option(&given.long, value));
                }
            }
        }
        line
    }
}

impl Parts {
    fn of(matches: &ArgMatches) -> Self {
        let all = Arguments::command();
        let mut parts = Parts { all: all.clone(), ..Parts::default() };
        let Some((name, matches)) = matches.subcommand() else { return parts };
        let Some(command) = all.find_subcommand(name) else { return parts };
        name.clone_into(&mut parts.command);
        for argument in command.get_arguments() {
            let id = argument.get_id().as_str();
            if matches.value_source(id) != Some(ValueSource::CommandLine) {
                continue;
            }
            let raw = matches.get_raw(id).into_iter().flatten();
            let values: Vec<String> = raw.map(|value| value.to_string_lossy().into_owned()).collect();
            match argument.get_long() {
                None if argument.is_positional() => parts.sources.extend(values),
                None => {}
                Some(long) => parts.options.push(Given {
                    long: long.to_owned(),
                    heading: argument.get_help_heading().unwrap_or_default().to_owned(),
                    values: (!matches!(argument.get_action(), ArgAction::SetTrue)).then_some(values),
                }),
            }
        }
        parts
    }
}

/// A command that can be copied into a shell.
#[derive(Clone, Debug)]
pub(crate) struct CommandLine {
    words: Vec<String>,
}

impl CommandLine {
    /// With an option and its value.
    #[must_use]
    pub(crate) fn option(mut self, long: &str, value: &str) -> Self {
        let dashes = if long.len() == 1 { "-" } else { "--" };
        self.words.push(format!("{dashes}{long}"));
        self.words.push(for_shell(value));
        self
    }

    /// Without an option and its value.
    #[must_use]
    pub(crate) fn without(mut self, long: &str) -> Self {
        if let Some(place) = self.words.iter().position(|word| *word == format!("--{long}")) {
            self.words.drain(place..(place + 2).min(self.words.len()));
        }
        self
    }

    /// With an option that has no value.
    #[must_use]
    pub(crate) fn flag(mut self, long: &str) -> Self {
        self.words.push(format!("--{long}"));
        self
    }
}

impl fmt::Display for CommandLine {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str(&self.words.join(" "))
    }
}
