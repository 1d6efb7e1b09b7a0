//! `check --into-columns`: the judgement written beside the rows that were judged.

use std::path::PathBuf;

use ypogram_io::{ColumnType, Error, IfThere, Result, TableToFill, Target};
use ypogram_jobs::check::CheckOptions;

use crate::arguments::CheckArguments;
use crate::column_choice;
use crate::nearest_hint::nearest_hint;

/// Makes the columns ready that were named, and has the job fill them; changes nothing in a trial, nor without `--force`.
///
/// # Errors
/// Where one is none of Ypogram's, the source is no table on a server that has a primary key, or it was not forced.
pub(crate) fn make_ready(arguments: &CheckArguments, options: &mut CheckOptions) -> Result<()> {
    let source = only_source(&arguments.sources.sources)?;
    let columns = chosen(&column_choice::items(&arguments.into_columns), options)?;
    let table = TableToFill::find(source, columns)?;
    options.fill = table.columns.iter().map(|(name, _)| name.clone()).collect();
    if arguments.sources.first.is_some() {
        return Ok(());
    }
    options.target = Target::File { path: source.clone(), if_there: IfThere::Fill(options.fill.len()) };
    if !arguments.output.force {
        return Err(Error::output(
            format!("{}: {}", table.name, table.described()),
            "nothing was changed; --force does it, and --first 20 shows what would stand there",
        ));
    }
    table.add_columns()
}

fn only_source(sources: &[PathBuf]) -> Result<&PathBuf> {
    match sources {
        [source] => Ok(source),
        _ => Err(Error::unusable(
            "--into-columns fills columns of one table",
            "name one source, and run it once for each",
        )),
    }
}

/// The columns of that name, with the prefix or without.
fn chosen(names: &[String], options: &CheckOptions) -> Result<Vec<(String, ColumnType)>> {
    let all = options.appended_columns();
    let of_name = |name: &String| {
        let is_it = |column: &&(String, ColumnType)| {
            column.0 == *name || column.0.strip_prefix(&options.prefix) == Some(name)
        };
        all.iter().find(is_it).cloned().ok_or_else(|| {
            Error::unusable(
                format!("--into-columns: ‘{name}’ is none of the columns that check writes"),
                nearest_hint(name, all.iter().map(|(column, _)| &**column)),
            )
        })
    };
    let mut columns: Vec<(String, ColumnType)> = Vec::new();
    for name in names {
        let column = of_name(name)?;
        if !columns.contains(&column) {
            columns.push(column);
        }
    }
    Ok(columns)
}
