//! What help shows first: for each command with many options the three that are used most, and those that `-h` shows besides.

use clap::{Arg, Command};

/// The command, the three options that stand first, and the others that `-h` shows. `--help` shows all.
const SHOWN: &[(&str, [&str; 3], &[&str])] = &[
    (
        "survey",
        ["field", "show", "html"],
        &["also", "where", "first", "sheet", "against", "rules", "output", "json", "quiet", "full"],
    ),
    (
        "extract",
        ["output", "unique", "obfuscated"],
        &["field", "id", "sheet", "pattern", "rules", "context", "to", "force", "columns", "json", "quiet"],
    ),
    (
        "check",
        ["field", "output", "as-typed"],
        &[
            "also", "id", "first", "each", "rules", "house", "ask-dns", "show", "to", "force", "columns",
            "json", "fail-on",
        ],
    ),
    (
        "split",
        ["field", "parts", "output"],
        &["also", "first", "cut", "compose", "title-case", "rules", "to", "force", "columns", "json"],
    ),
    (
        "dedupe",
        ["field", "same", "output"],
        &[
            "also", "first", "survivor", "by", "merge", "dropped", "groups", "rules", "force", "columns",
            "json", "fail-on",
        ],
    ),
    (
        "compare",
        ["with", "withdrawn", "output"],
        &["field", "id", "same", "mark", "missing", "changed", "rules", "force", "columns", "json"],
    ),
    (
        "clean",
        ["field", "also", "output"],
        &[
            "id", "first", "sheet", "rules", "survivor", "only", "without", "html", "into", "since", "force",
            "columns", "json",
        ],
    ),
    (
        "domains",
        ["field", "new-since", "output"],
        &["date", "ask-dns", "first", "rules", "force", "columns", "json", "fail-on"],
    ),
    ("links", ["by", "behind", "html"], &["field", "with-records", "rules", "output", "to", "force", "json"]),
    ("redact", ["output", "as", "key"], &["hide", "keep", "map", "force", "json"]),
    (
        "rules export",
        ["for", "output", "test-values"],
        &[
            "flavour", "dialect", "column", "table", "cell", "force", "let-pass", "house", "pattern",
            "rules", "without",
        ],
    ),
    ("rules learn-house", ["given", "family", "field"], &["at-least", "full", "json", "rules"]),
    (
        "register add",
        ["field", "admissible-only", "output"],
        &["id", "first", "admit", "same", "rules", "force", "columns", "json"],
    ),
    (
        "register guard",
        ["survivor", "output", "rows"],
        &["key-column", "standard-form", "same", "force", "json"],
    ),
    ("worker", ["field", "columns", "schema"], &["rules", "as-typed", "duplicates", "prefix"]),
];

/// The command line with its help in that order.
pub(crate) fn in_order(all: Command) -> Command {
    SHOWN.iter().fold(all, |all, (path, first, others)| {
        let path: Vec<&str> = path.split(' ').collect();
        below(all, &path, &|command| of_command(command, path.join(" "), *first, others))
    })
}

/// The command line with the command at `path`, where there is one, changed.
fn below(command: Command, path: &[&str], change: &dyn Fn(Command) -> Command) -> Command {
    match path.split_first() {
        None => change(command),
        Some((name, rest)) if command.find_subcommand(name).is_some() => {
            command.mut_subcommand(*name, |command| below(command, rest, change))
        }
        Some(_) => command,
    }
}

fn of_command(command: Command, path: String, first: [&str; 3], others: &[&str]) -> Command {
    let usage = format!("All options: ypogram {path} --help");
    let options = command.get_arguments().filter_map(|argument| {
        argument.get_long().map(|long| (argument.get_id().to_string(), long.to_owned()))
    });
    let options: Vec<(String, String)> = options.collect();
    let command = options.into_iter().fold(command, |command, (id, long)| {
        match first.iter().position(|name| *name == long) {
            // What has no heading stands first.
            Some(place) => command
                .mut_arg(id, |argument| brief(argument).help_heading(None::<&str>).display_order(place)),
            None if others.contains(&&*long) => command.mut_arg(id, brief),
            None => command.mut_arg(id, |argument| argument.hide_short_help(true)),
        }
    });
    let examples = command.get_after_help().map(ToString::to_string).unwrap_or_default();
    command.after_long_help(examples.clone()).after_help(format!("{examples}\n\n{usage}"))
}

/// An option of which `-h` says the first clause.
fn brief(option: Arg) -> Arg {
    let whole = option.get_help().map(ToString::to_string).unwrap_or_default();
    match whole.split_once("; ") {
        Some((first, _)) if first.matches('[').count() == first.matches(']').count() => {
            option.help(first.to_owned()).long_help(whole)
        }
        _ => option,
    }
}

#[cfg(test)]
mod tests {
    use clap::CommandFactory as _;

    use super::*;
    use crate::arguments::Arguments;

    /// The commands, those below others by both names.
    fn commands() -> Vec<(String, Command)> {
        let mut found = Vec::new();
        let mut open = vec![(String::new(), in_order(Arguments::command()))];
        while let Some((above, command)) = open.pop() {
            let name = format!("{above} {}", command.get_name());
            open.extend(command.get_subcommands().map(|below| (name.clone(), below.clone())));
            found.push((name, command));
        }
        found
    }

    #[test]
    fn short_help_fits_a_screen() {
        for (name, command) in commands() {
            let mut command = command.term_width(100);
            let help = command.render_help().to_string();
            assert!(help.lines().count() <= 60, "{name}: {} lines\n{help}", help.lines().count());
        }
    }

    #[test]
    fn every_option_that_is_named_is_there() {
        let all = Arguments::command();
        for (name, first, others) in SHOWN {
            let command = name.split(' ').try_fold(&all, |command, name| command.find_subcommand(name));
            let Some(command) = command else { continue };
            let options: Vec<&str> =
                command.get_arguments().filter_map(|argument| argument.get_long()).collect();
            for option in first.iter().chain(*others) {
                assert!(options.contains(option), "{name}: {option} is none of {options:?}");
            }
        }
    }
}
