//! `ypogram lists new`: a list of one's own started from nothing, and named in the rulebook.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use toml_edit::{Array, Item, Table, value};
use ypogram_core::Code;
use ypogram_io::csv::write_row;
use ypogram_io::{Error, IfThere, Result, Target};

use crate::arguments::ListNewArguments;
use crate::render::words::for_shell;
use crate::rulebook::FILE_NAME;
use crate::rulebook_edit::{RulebookEdit, implicit};
use crate::{exit, render};

/// Writes the empty file of the list, and its section in the rulebook.
pub(super) fn run(arguments: &ListNewArguments) -> Result<ExitCode> {
    let name = &arguments.name;
    // A list gives its name to a finding where it does nothing else.
    Code::own(name).map_err(|_| {
        Error::unusable(
            format!("‘{name}’ cannot name a list"),
            "take lower-case letters, digits and hyphens, as in source-codes",
        )
    })?;
    let rules = arguments.rules.clone().unwrap_or_else(|| PathBuf::from(FILE_NAME));
    let edit = RulebookEdit::open(&rules)?;
    if edit.known.lists.contains_key(name) {
        return Err(Error::unusable(
            format!("{}: there is a list ‘{name}’ already", edit.shown),
            format!("add entries to it with `ypogram lists add {name}`, or choose another name"),
        ));
    }
    let file = arguments.output.clone().unwrap_or_else(|| PathBuf::from(format!("{name}.csv")));
    let beside = rules.parent().unwrap_or(Path::new("")).join(&file);
    let key = arguments.matching.as_deref().unwrap_or("address");
    if let Some(twice) = arguments.columns.iter().find(|column| *column == key) {
        return Err(Error::unusable(
            format!("--columns: the first column is called ‘{twice}’ already"),
            "name the columns that the list adds, without the one that is looked up",
        ));
    }
    let mut document = edit.document()?;
    let lists = document.entry("lists").or_insert_with(implicit);
    let Some(lists) = lists.as_table_mut() else {
        return Err(Error::unusable(
            format!("{}: [lists] is written in another way", edit.shown),
            "write each list as a section of its own: [lists.NAME]",
        ));
    };
    lists.insert(name, Item::Table(section(arguments, &file, key)));
    // A list that is named has to be there.
    let mut output = Target::File { path: beside.clone(), if_there: IfThere::Refuse }.open()?;
    let cells = std::iter::once(key).chain(arguments.columns.iter().map(String::as_str));
    let mut head = Vec::new();
    write_row(cells, b',', &mut head);
    output.write(&head)?;
    output.finish()?;
    edit.write(&document, &rules)?;
    let made = if edit.is_new { ", which is new" } else { "" };
    let column = arguments
        .columns
        .first()
        .map_or_else(String::new, |column| format!(" --set {}", for_shell(&format!("{column}=…"))));
    render::print(&format!(
        "{} is written, and stands as [lists.{name}] in {}{made}\n\nNext\n  ypogram lists add {name} ENTRY{column}\n",
        beside.display(),
        edit.shown
    ))?;
    Ok(ExitCode::from(exit::DONE))
}

/// The section of the list.
fn section(arguments: &ListNewArguments, file: &Path, key: &str) -> Table {
    let mut table = Table::new();
    table["file"] = value(file.display().to_string());
    if let Some(field) = &arguments.matching {
        table["match"] = value(field);
    }
    if let Some(of) = &arguments.of {
        table["of"] = value(of);
    }
    table["entry"] = value(key);
    if !arguments.columns.is_empty() {
        table["columns"] = value(arguments.columns.iter().collect::<Array>());
    }
    table
}
