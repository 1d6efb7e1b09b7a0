//! What a job publishes, held against what is there.

use std::path::{Path, PathBuf};

use ypogram_io::{Error, Place, Result, has_table};
use ypogram_jobs::clean;

use crate::job::staging::table_of;
use crate::job::step::Step;

/// Refuses a job that goes on after it wrote into a database.
///
/// # Errors
/// Where a step that does so does not come last.
pub(crate) fn refuse_tables_before_others(steps: &[Step], home: &Path) -> Result<()> {
    let writes_table = |step: &Step| step.published().any(|path| table_of(path, home).is_some());
    let first = steps.iter().position(writes_table).unwrap_or(steps.len());
    match steps.iter().skip(first).find(|step| !writes_table(step)) {
        Some(behind) => Err(Error::unusable(
            format!(
                "the step ‘{}’ writes into a database, and the step ‘{}’ comes behind it",
                steps[first].name, behind.name
            ),
            "put the steps that write into databases last",
        )),
        None => Ok(()),
    }
}

/// Refuses to replace what is there, of the outputs of the steps and of those `besides`, without being told to, and a review file in which somebody has decided even then.
///
/// # Errors
/// Where something is there, or two steps write one output.
pub(crate) fn refuse_what_is_there(
    steps: &[Step],
    besides: &[PathBuf],
    home: &Path,
    force: bool,
) -> Result<()> {
    let mut seen: Vec<(Place, Option<String>)> = Vec::new();
    for path in steps.iter().flat_map(Step::published).chain(besides.iter().map(PathBuf::as_path)) {
        let (shown, table) = (path.display(), table_of(path, home));
        let file = table.as_ref().map_or(path, |(file, _)| file);
        let own = (Place::of(&home.join(file)), table.as_ref().map(|(_, table)| table.to_lowercase()));
        if seen.contains(&own) {
            return Err(Error::unusable(
                format!("{shown}: two steps write it"),
                "give one of them another output",
            ));
        }
        seen.push(own);
        let place = home.join(file);
        if let Some((_, table)) = table {
            if place.exists() && has_table(&place, &table)? && !force {
                return Err(Error::output(
                    format!("{shown}: there is a table ‘{table}’"),
                    "replace the outputs of the last run with --force",
                ));
            }
            continue;
        }
        let is_empty_folder =
            place.is_dir() && std::fs::read_dir(&place).is_ok_and(|mut files| files.next().is_none());
        if place.exists() && !is_empty_folder && !force {
            return Err(Error::output(
                format!("{shown}: the output exists"),
                "replace the outputs of the last run with --force",
            ));
        }
        clean::refuse_lost_decisions(&place)?;
    }
    Ok(())
}
