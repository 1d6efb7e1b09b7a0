//! The pages of `docs/reference`, which are what the program says of itself. `YPOGRAM_UPDATE=1` writes them.

use std::fmt::Write as _;
use std::path::Path;

use serde_json::Value;
use ypogram_io::FORMATS;
use ypogram_jobs::Column;

use crate::Place;

/// What stands at the top of each page.
const HEAD: &str = "<!-- Written by the tests from the program itself. -->\n\n";

#[test]
fn the_reference_is_what_the_program_says() {
    let place = Place::with(&[]);
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/reference");
    for (name, title, text) in [
        ("commands.md", "Commands and options", commands(&place)),
        ("columns.md", "Columns", columns()),
        ("findings.md", "Findings", findings(&place)),
        ("formats.md", "Formats", formats()),
    ] {
        // A build without all features has other options.
        if name == "commands.md" && !cfg!(all(feature = "worker", feature = "dns")) {
            continue;
        }
        let (path, text) = (folder.join(name), format!("{HEAD}# {title}\n\n{text}"));
        if std::env::var_os("YPOGRAM_UPDATE").is_some() {
            std::fs::create_dir_all(&folder).unwrap();
            std::fs::write(&path, &text).unwrap();
        }
        let there = std::fs::read_to_string(&path).unwrap_or_default();
        assert!(
            there == text,
            "docs/reference/{name} is not what the program says; YPOGRAM_UPDATE=1 writes it"
        );
    }
}

/// The whole help of every command. A build without all features has fewer.
fn commands(place: &Place) -> String {
    let mut text = String::new();
    let mut open: Vec<String> = vec![String::new()];
    while let Some(command) = open.pop() {
        let help = place.run(&format!("{command} --help")).stdout;
        let below = help.split_once("\nCommands:\n").map_or("", |(_, behind)| behind);
        let below = below.lines().take_while(|line| !line.is_empty());
        let names = below.filter(|line| line.starts_with("  ") && !line.starts_with("   "));
        let names = names.filter_map(|line| line.split_whitespace().next()).filter(|name| *name != "help");
        let mut names: Vec<String> =
            names.map(|name| format!("{command} {name}").trim().to_owned()).collect();
        names.reverse();
        open.extend(names);
        let title = format!("ypogram {command}");
        writeln!(text, "## {}\n\n```text\n{}\n```\n", title.trim(), help.trim_end()).unwrap();
    }
    text.trim_end().to_owned() + "\n"
}

fn findings(place: &Place) -> String {
    let rules: Value = serde_json::from_str(&place.run("rules --json").stdout).unwrap();
    let rules = rules["rules"].as_array().or_else(|| rules.as_array()).unwrap().clone();
    let mut text = "| finding | kind | severity | what it says | what to do | standard |\n| --- | --- | --- | --- | --- | --- |\n".to_owned();
    for rule in rules {
        let cell = |key: &str| rule[key].as_str().unwrap_or_default().replace('|', "\\|");
        writeln!(
            text,
            "| `{}` | {} | {} | {} | {} | {} |",
            cell("code"),
            cell("kind"),
            cell("default_severity"),
            cell("sentence"),
            cell("help"),
            cell("standard")
        )
        .unwrap();
    }
    text
}

/// What stands in the columns of `extract`.
const EXTRACTED: [(&str, &str); 13] = [
    ("address", "The address in standard form, or as it was found where its syntax is at fault."),
    ("as_found", "How it stood, its wrapping included."),
    ("form", "How it stood in its cell or text."),
    ("verdict", "`accept`, `review` or `reject`."),
    ("findings", "The codes of what was noticed."),
    ("class", "What kind of mailbox the domain gives."),
    ("name", "The name that stood with it."),
    ("field", "The field of a table, or the part of a message, a page or a document."),
    ("source", "The source: a file, and behind # its part."),
    ("record", "The record in it, counted from 1."),
    ("line", "The line."),
    ("offset", "The first byte in the source as it is decoded."),
    ("count", "With --unique, how many of its mailbox there are."),
];

fn columns() -> String {
    let mut text = "With the prefix `yp_`, unless `--prefix` says another; in `--columns` and `--sort-by` it can be left out. Which of them an output has \
        is for its command to say; the parts that `split` adds are listed by `ypogram split --list-parts`, and lists of your own bring their own columns.\n\n\
        | column | what stands in it |\n| --- | --- |\n"
        .to_owned();
    for column in Column::ALL {
        writeln!(text, "| `yp_{}` | {} |", column.name(), column.sentence()).unwrap();
    }
    text.push_str("\n## The columns of `extract`\n\nThey have no prefix: a row is an address, and no record of yours. `--id` adds the field that it names.\n\n| column | what stands in it |\n| --- | --- |\n");
    let place = Place::with(&[("one.csv", b"email\nada@quarryfarm.org\n")]);
    let header = place.run("extract one.csv --no-rules --unique -q").stdout;
    let header: Vec<&str> = header.lines().next().unwrap().split(',').collect();
    assert_eq!(header, EXTRACTED.map(|(name, _)| name));
    for (name, what) in EXTRACTED {
        writeln!(text, "| `{name}` | {what} |").unwrap();
    }
    text
}

fn formats() -> String {
    let mut text = "| format | called | endings | records are read | rows are written | addresses are found in it |\n| --- | --- | --- | --- | --- | --- |\n".to_owned();
    let yes = |is: bool| if is { "yes" } else { "" };
    for entry in FORMATS {
        let endings = entry.extensions.iter().map(|ending| format!("`.{ending}`"));
        let schemes = entry.schemes.iter().map(|scheme| format!("`{scheme}`"));
        let names: Vec<String> = endings.chain(schemes).collect();
        writeln!(
            text,
            "| `{}` | {} | {} | {} | {} | yes |",
            entry.name,
            entry.called,
            names.join(" "),
            yes(entry.uses.is_table),
            yes(entry.uses.is_output || !entry.schemes.is_empty())
        )
        .unwrap();
    }
    text
}
