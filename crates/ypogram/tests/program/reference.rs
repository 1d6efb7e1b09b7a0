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
        ("json.md", "JSON layouts", json_layouts()),
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

/// What every summary begins with, which is described once.
const SHARED: [&str; 4] = ["layout", "command", "sources", "columns"];

/// The names of every layout, from the schemas.
fn json_layouts() -> String {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/schemas");
    let mut schemas: Vec<(String, Value)> = std::fs::read_dir(folder)
        .unwrap()
        .map(|entry| entry.unwrap().path())
        .map(|path| {
            let schema = serde_json::from_str(&std::fs::read_to_string(&path).unwrap()).unwrap();
            (path.file_name().unwrap().to_string_lossy().into_owned(), schema)
        })
        .collect();
    schemas.sort_by(|one, other| one.0.cmp(&other.0));
    let mut text = "A table for each layout; what stands in brackets may be left out, and `[]` is each of several. The files under\n\
        `docs/schemas` say the same for programs (JSON Schema 2020-12).\n\n## What every summary begins with\n"
        .to_owned();
    let check = schemas.iter().find(|(name, _)| name == "check.json").expect("check has a summary");
    table_of(&check.1, |name| SHARED.contains(&name), &mut text);
    for (name, schema) in &schemas {
        let is_summary = schema["properties"]["layout"].is_object();
        write!(
            text,
            "\n## {}\n\n[`docs/schemas/{name}`](../schemas/{name})\n",
            schema["title"].as_str().unwrap()
        )
        .unwrap();
        match schema["items"].is_object() {
            true => table_of(&schema["items"], |_| true, &mut text),
            false => table_of(schema, |name| !is_summary || !SHARED.contains(&name), &mut text),
        }
    }
    text
}

/// The names of `schema` that are wanted, with all that is inside of them.
fn table_of(schema: &Value, is_wanted: impl Fn(&str) -> bool, text: &mut String) {
    fn rows(schema: &Value, path: &str, is_wanted: &dyn Fn(&str) -> bool, text: &mut String) {
        let required: Vec<&str> =
            schema["required"].as_array().into_iter().flatten().filter_map(Value::as_str).collect();
        for (name, property) in schema["properties"].as_object().into_iter().flatten() {
            if !is_wanted(name) {
                continue;
            }
            let shown = match required.contains(&&**name) {
                true => format!("`{path}{name}`"),
                false => format!("[`{path}{name}`]"),
            };
            writeln!(
                text,
                "| {shown} | {} | {} |",
                type_of(property),
                property["description"].as_str().unwrap()
            )
            .unwrap();
            rows(property, &format!("{path}{name}."), &|_| true, text);
            rows(&property["items"], &format!("{path}{name}[]."), &|_| true, text);
        }
    }
    text.push_str("\n| name | type | what |\n| --- | --- | --- |\n");
    rows(schema, "", &is_wanted, text);
}

fn type_of(schema: &Value) -> String {
    let types: Vec<&str> = match &schema["type"] {
        Value::String(one) => vec![one],
        Value::Array(all) => all.iter().filter_map(Value::as_str).collect(),
        _ if schema["const"].is_u64() => vec!["integer"],
        _ => vec!["string"],
    };
    let word = |name: &&str| match (*name, &schema["items"], &schema["additionalProperties"]) {
        ("array", items, _) => format!("array of {}s", type_of(items)),
        ("object", _, each) if each.is_object() => format!("object of {}s", type_of(each)),
        (name, ..) => name.to_owned(),
    };
    types.iter().map(word).collect::<Vec<_>>().join(" or ")
}
