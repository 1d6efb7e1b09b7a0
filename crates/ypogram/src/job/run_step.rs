//! Runs one step, as a call of this program in the staging folder.

use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use serde_json::Value;
use ypogram_io::{Error, Result};

use crate::job::parent;
use crate::job::staging::{Found, Staging, table_of};
use crate::job::step::{Source, Step, takes};

/// What came of a step.
#[derive(Debug)]
pub(crate) struct StepReport {
    pub(crate) name: String,
    /// The summary of the command.
    pub(crate) summary: Value,
    /// Something is to be told.
    pub(crate) told: bool,
}

/// Where a step that cleans leaves its part of the page, in the staging folder.
pub(crate) fn page_data(step: &Step) -> PathBuf {
    PathBuf::from(".pages").join(format!("{}.json", step.name))
}

/// What is asked of all steps.
#[derive(Clone, Copy)]
pub(crate) struct Asked<'a> {
    /// From where the sources of the first step are meant.
    pub(crate) from: &'a Path,
    /// Only so many records of the first step.
    pub(crate) first: Option<u64>,
    /// The steps that clean leave their part of a page.
    pub(crate) pages: bool,
    /// Its figures open their records.
    pub(crate) with_records: bool,
}

/// Runs the step at `nth` of `steps`.
///
/// # Errors
/// Where it fails.
pub(crate) fn run_step(
    steps: &[Step],
    nth: usize,
    staging: &Staging,
    asked: Asked<'_>,
) -> Result<StepReport> {
    let step = &steps[nth];
    let words = words(steps, nth, staging, asked)?;
    if asked.pages {
        let folder = staging.root.join(page_data(step));
        let folder = folder.parent().unwrap_or(&staging.root);
        std::fs::create_dir_all(folder).map_err(|error| Error::writing(folder, &error))?;
    }
    let outputs = || step.main.iter().chain(step.further.iter().map(|(_, path)| path));
    for path in outputs() {
        let around = staging.root.join(staging.staged(path));
        let around = around.parent().unwrap_or(&staging.root);
        std::fs::create_dir_all(around).map_err(|error| Error::writing(around, &error))?;
    }
    let program = std::env::current_exe().map_err(|error| Error::reading("this program", &error))?;
    let output = parent::mark(&mut Command::new(program))
        .args(&words)
        .current_dir(&staging.root)
        .stdin(Stdio::null())
        .output()
        .map_err(|error| Error::reading("this program", &error))?;
    let code = output.status.code().unwrap_or(2);
    if code > 1 {
        let told = String::from_utf8_lossy(&output.stderr).into_owned();
        let named = |told: String, path: &PathBuf| {
            let (staged, own) = (staging.staged(path), path.display().to_string());
            told.replace(&staged.display().to_string(), &own)
        };
        let told = outputs().fold(told, named);
        let told = told.trim().trim_start_matches("ypogram: ");
        let (message, hint) = told.split_once("\n  → ").unwrap_or((told, ""));
        let message = format!("step ‘{}’: {message}", step.name);
        return Err(match code {
            3 => Error::output(message, hint),
            _ => Error::unusable(message, hint),
        });
    }
    let mut summary: Value = serde_json::from_slice(&output.stdout).unwrap_or(Value::Null);
    if let (Some(folder), Some(main)) = (summary.get_mut("folder"), &step.main) {
        *folder = main.display().to_string().into();
    }
    Ok(StepReport { name: step.name.clone(), summary, told: code == 1 })
}

/// The call that does the step at `nth`.
fn words(steps: &[Step], nth: usize, staging: &Staging, asked: Asked<'_>) -> Result<Vec<String>> {
    let step = &steps[nth];
    let mut words: Vec<String> = vec![step.command.clone()];
    for source in &step.sources {
        let Found { name, kept } = match source {
            Source::File(path) => staging.find(path, if nth == 0 { asked.from } else { &staging.home })?,
            Source::Step(at, output) => {
                let path = output_of(&steps[*at], output, staging)?;
                let staged = staging.staged(&path);
                match staged == path || table_of(&path, &staging.home).is_some() {
                    true => Found::by_name(&staged),
                    false => Found { name: path.clone(), kept: Some((path, staged)) },
                }
            }
        };
        words.push(name.display().to_string());
        if let Some((file, place)) = kept {
            // Its name may come out in a column.
            words.push("--kept".to_owned());
            words.extend([file, place].map(|path| path.display().to_string()));
        }
    }
    for option in &step.options {
        match option.split_once('=') {
            // The folder of the last run, and not the one that is being written; the first run has none.
            Some(("--since", folder)) => {
                let folder = staging.home.join(folder);
                words.extend(folder.exists().then(|| format!("--since={}", folder.display())));
            }
            Some((option @ ("--against" | "--with" | "--withdrawn"), path)) => {
                let of_step = path.split_once('.').and_then(|(name, output)| {
                    Some((steps[..nth].iter().find(|step| step.name == name)?, output))
                });
                let place = match of_step {
                    Some((step, output)) => {
                        staging.staged(&output_of(step, output, staging)?).display().to_string()
                    }
                    None => staging.find(path.as_ref(), &staging.home)?.place(),
                };
                words.push(format!("{option}={place}"));
            }
            _ => words.push(option.clone()),
        }
    }
    words.extend(step.since.iter().map(|folder| format!("--since={}", folder.display())));
    for (option, path) in &step.further {
        words.push(format!("--{option}={}", staging.staged(path).display()));
    }
    if let Some(main) = &step.main {
        words.extend(["-o".to_owned(), staging.staged(main).display().to_string()]);
    }
    if let Some(dropped) = dropped_of(steps, nth) {
        words.push(format!("--dropped={}", dropped.display()));
    }
    words.push("--json".to_owned());
    if takes(&step.command, "rules") {
        words.extend(["--rules".to_owned(), staging.rulebook.display().to_string()]);
    }
    if asked.pages && step.command == "clean" {
        words.push(format!("--page-data={}", page_data(step).display()));
        words.extend(asked.with_records.then(|| "--with-records".to_owned()));
    }
    // Mail is read whole; the first step that reads records is the one that is cut short.
    let reads_records = |step: &Step| takes(&step.command, "only-first");
    if let Some(first) = asked.first.filter(|_| steps.iter().position(reads_records) == Some(nth)) {
        words.push(format!("--only-first={first}"));
    }
    Ok(words)
}

/// Where the records go that `dedupe` drops, where a later step reads them and no option says so.
fn dropped_of(steps: &[Step], nth: usize) -> Option<PathBuf> {
    let step = &steps[nth];
    let is_read = steps.iter().any(|later| later.sources.contains(&Source::Step(nth, "dropped".to_owned())));
    let is_named = step.further.iter().any(|(option, _)| option == "dropped");
    (step.command == "dedupe" && is_read && !is_named).then(|| dropped_place(step))
}

fn dropped_place(step: &Step) -> PathBuf {
    PathBuf::from(format!("{}-dropped.csv", step.name))
}

/// Where an output of an earlier step is.
fn output_of(step: &Step, output: &str, staging: &Staging) -> Result<PathBuf> {
    let main = step.main.clone().unwrap_or_default();
    if !step.writes_folder() {
        let named = step.further.iter().find(|(option, _)| option == output).map(|(_, path)| path.clone());
        return Ok(match output {
            "dropped" => named.unwrap_or_else(|| dropped_place(step)),
            _ => main,
        });
    }
    if main.extension().is_some_and(|extension| extension.eq_ignore_ascii_case("xlsx")) {
        return Ok(PathBuf::from(format!("{}#{output}", main.display())));
    }
    let files = std::fs::read_dir(staging.root.join(staging.staged(&main)))
        .map_err(|error| Error::writing(&main, &error))?;
    let names = files.flatten().map(|entry| entry.file_name().to_string_lossy().into_owned());
    let found = names.into_iter().find(|name| name.split('.').next() == Some(output));
    found.map(|name| main.join(name)).ok_or_else(|| {
        Error::unusable(
            format!("step ‘{}’: no record ended in {output}, which a later step reads", step.name),
            "see its summary with ypogram run JOB --first 1000",
        )
    })
}
