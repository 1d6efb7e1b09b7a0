//! What a shell completes: commands and options, and the fields, lists, findings, patterns and jobs that are at hand.

use std::ffi::{OsStr, OsString};
use std::path::{Path, PathBuf};

use clap::builder::ValueParser;
use clap::{Arg, Command, CommandFactory as _};
use clap_complete::engine::{ArgValueCompleter, CompletionCandidate};
use ypogram_core::{Class, Code, ready_patterns};
use ypogram_io::{OpenOptions, SourcePlace};

use crate::arguments::Arguments;
use crate::rulebook::{self, Rulebook};

/// Answers a shell that asks what can follow; returns where none does.
pub(crate) fn answer() {
    clap_complete::CompleteEnv::with_factory(|| completed(Arguments::command())).complete();
}

/// Options with the name of a field as their value.
const OF_FIELDS: &[&str] = &[
    "field",
    "also",
    "person",
    "id",
    "by",
    "within",
    "collect",
    "into",
    "columns",
    "sort-by",
    "known-field",
    "date",
    "given",
    "family",
];

/// Options with findings and classes as their value.
const OF_FINDINGS: &[&str] = &["only", "without", "let-pass", "fail-on"];

/// The command line with what completes its values.
fn completed(command: Command) -> Command {
    let below: Vec<String> = command.get_subcommands().map(|below| below.get_name().to_owned()).collect();
    let name = command.get_name().to_owned();
    let command = below.into_iter().fold(command, |command, name| command.mut_subcommand(name, completed));
    let ids: Vec<String> = command.get_arguments().map(|argument| argument.get_id().to_string()).collect();
    ids.into_iter().fold(command, |command, id| {
        let name = name.clone();
        command.mut_arg(id, move |argument| with_values(argument, &name))
    })
}

fn with_values(argument: Arg, command: &str) -> Arg {
    let completes = |values: fn() -> Vec<String>| {
        ArgValueCompleter::new(move |typed: &OsStr| starting_with(typed, values()))
    };
    let long = argument.get_long().unwrap_or_default().to_owned();
    let value = argument.get_value_names().and_then(|names| names.first()).map(ToString::to_string);
    let values: Option<fn() -> Vec<String>> = match (&*long, value.as_deref(), command) {
        (long, _, _) if OF_FIELDS.contains(&long) => Some(fields),
        (long, _, _) if OF_FINDINGS.contains(&long) => Some(findings_and_classes),
        ("pattern", _, _) => Some(patterns),
        ("", Some("JOB"), _) => Some(jobs),
        ("", Some("CODE"), _) => Some(findings_and_classes),
        ("", Some("NAME"), "show") => Some(lists),
        _ => None,
    };
    // A completer has to fit what is parsed; texts are parsed as themselves.
    match values {
        Some(values) if is_of_text(argument.get_value_parser()) => argument.add(completes(values)),
        _ => argument,
    }
}

fn is_of_text(parser: &ValueParser) -> bool {
    parser.possible_values().is_none()
}

/// The values that go on from what is typed. Behind a comma, or a hyphen that leaves a column out, another begins.
fn starting_with(typed: &OsStr, values: Vec<String>) -> Vec<CompletionCandidate> {
    let typed = typed.to_string_lossy();
    let start = typed.rfind(',').map_or(0, |comma| comma + 1);
    let (before, typed) = typed.split_at(start);
    let fitting = values.into_iter().filter(|value| value.starts_with(typed));
    fitting.map(|value| CompletionCandidate::new(format!("{before}{value}"))).collect()
}

/// The words of the call that is completed.
fn words() -> Vec<OsString> {
    std::env::args_os().skip_while(|word| word != "--").skip(1).collect()
}

/// The fields of the first source among the words.
fn fields() -> Vec<String> {
    let is_source = |path: &PathBuf| SourcePlace::of(path).file.is_file() && !is_rulebook(path);
    let mut sources = words().into_iter().skip(1).map(PathBuf::from).filter(is_source);
    let options = OpenOptions { sort_of: Some(ypogram_jobs::sort_of_cell), ..OpenOptions::default() };
    let source = sources.next().and_then(|path| ypogram_io::open(&path, &options).ok());
    source.map(|source| source.schema().fields.clone()).unwrap_or_default()
}

fn is_rulebook(path: &Path) -> bool {
    path.extension().is_some_and(|ending| ending == "toml")
}

/// The rulebook that the call goes by.
fn rulebook() -> Rulebook {
    let words = words();
    let named = words.iter().position(|word| word == "--rules").and_then(|at| words.get(at + 1));
    rulebook::find(named.map(Path::new), false).map(|(rulebook, _)| rulebook).unwrap_or_default()
}

fn findings_and_classes() -> Vec<String> {
    Code::all().map(Code::name).chain(Class::all().map(Class::word)).map(str::to_owned).collect()
}

fn patterns() -> Vec<String> {
    let own: Vec<String> = rulebook().patterns.into_keys().collect();
    own.into_iter().chain(ready_patterns::all().map(|ready| ready.name.to_owned())).collect()
}

fn jobs() -> Vec<String> {
    rulebook().job.keys().cloned().collect()
}

fn lists() -> Vec<String> {
    let built_in = ypogram_core::lists::built_in().into_iter().map(|list| list.name.to_owned());
    rulebook().lists.into_keys().chain(built_in).collect()
}
