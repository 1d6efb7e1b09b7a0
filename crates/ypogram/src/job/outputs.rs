//! What a job publishes, held against what is there.

use std::path::Path;

use ypogram_io::{Error, Result};
use ypogram_jobs::clean;

use crate::job::step::Step;

/// Refuses to replace what is there without being told to, and a review file in which somebody has decided even then.
///
/// # Errors
/// Where something is there, or two steps write one output.
pub(crate) fn refuse_what_is_there(steps: &[Step], home: &Path, force: bool) -> Result<()> {
    let mut seen: Vec<&Path> = Vec::new();
    for path in steps.iter().flat_map(Step::published) {
        let shown = path.display();
        if path.to_string_lossy().contains('#') {
            return Err(Error::unusable(
                format!("{shown}: a job does not write into a database that is there"),
                "publish a file, and load it behind the job",
            ));
        }
        if seen.contains(&path) {
            return Err(Error::unusable(
                format!("{shown}: two steps write it"),
                "give one of them another output",
            ));
        }
        seen.push(path);
        let place = home.join(path);
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
