//! `ypogram run`: a job of the rulebook.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use ypogram_io::{Error, Format, Result};

use crate::arguments::RunArguments;
use crate::job::{self, Asked, Source, Staging, Step, StepReport};
use crate::nearest_hint::nearest_hint;
use crate::render::page;
use crate::rulebook::{self, FILE_NAME};
use crate::{exit, handover, render};

pub(crate) fn run(arguments: &RunArguments) -> Result<ExitCode> {
    arguments.page.check(false)?;
    let rulebook = arguments.rules.clone().unwrap_or_else(|| PathBuf::from(FILE_NAME));
    let home = home_of(&rulebook)?;
    let mut steps = steps_of(&rulebook, &arguments.job)?;
    if !arguments.sources.is_empty() {
        steps[0].sources = arguments.sources.iter().cloned().map(Source::File).collect();
    }
    job::refuse_tables_before_others(&steps, &home)?;
    if let Some(folder) = &arguments.since {
        job::hold_against(&mut steps, (&arguments.job, &home), folder)?;
    }
    if arguments.plan {
        render::print(&render::run::plan(&arguments.job, &steps))?;
        return Ok(ExitCode::from(exit::DONE));
    }
    job::finish_earlier(&home, &arguments.job)?;
    let besides = besides(arguments)?;
    if arguments.first.is_none() {
        job::refuse_what_is_there(&steps, &besides, &home, arguments.force)?;
    }
    let staging = Staging::begin(&home, &rulebook, &arguments.job)?;
    let from = match arguments.sources.is_empty() {
        true => home,
        false => std::env::current_dir().unwrap_or_default(),
    };
    let asked = Asked {
        from: &from,
        first: arguments.first,
        pages: !besides.is_empty(),
        with_records: arguments.page.with_records,
    };
    let reports: Vec<StepReport> =
        (0..steps.len()).map(|nth| job::run_step(&steps, nth, &staging, asked)).collect::<Result<_>>()?;
    let receipt = job::receipt(&arguments.job, &steps, &reports);
    if arguments.first.is_none() {
        let name = format!("{}.receipt.json", arguments.job);
        let text = serde_json::to_string_pretty(&receipt).expect("plain data") + "\n";
        let path = staging.root.join(&name);
        std::fs::write(&path, text).map_err(|error| Error::writing(&path, &error))?;
        hand_over(arguments, &besides, (&steps, &reports), &staging)?;
        let published = steps.iter().flat_map(Step::published).map(Path::to_path_buf);
        job::publish(staging, &arguments.job, published.chain(besides).chain([PathBuf::from(name)]))?;
    }
    if !arguments.quiet || arguments.json {
        render::print(&match arguments.json {
            true => serde_json::to_string_pretty(&receipt).expect("plain data") + "\n",
            false => render::run::summary(arguments, &steps, &reports),
        })?;
    }
    Ok(ExitCode::from(if reports.iter().any(|report| report.told) { exit::TOLD } else { exit::DONE }))
}

/// The page and the workbook that are asked for, wherever the call is made from.
fn besides(arguments: &RunArguments) -> Result<Vec<PathBuf>> {
    let paths = arguments.page.html.iter().chain(&arguments.workbook);
    let absolute = |path: &PathBuf| {
        std::path::absolute(path).map_err(|error| Error::reading(&path.display().to_string(), &error))
    };
    if let Some(path) =
        arguments.workbook.as_ref().filter(|path| Format::named_by(path) != Some(Format::Xlsx))
    {
        let what = format!("{}: the name of a workbook ends with .xlsx", path.display());
        return Err(Error::unusable(what, "name it so, as in --workbook monthly.xlsx"));
    }
    paths.map(absolute).collect()
}

/// Writes the page and the workbook that are asked for, to be published with the outputs.
fn hand_over(
    arguments: &RunArguments,
    besides: &[PathBuf],
    (steps, reports): (&[Step], &[StepReport]),
    staging: &Staging,
) -> Result<()> {
    if besides.is_empty() {
        return Ok(());
    }
    let pages = handover::pages(steps, staging)?;
    if let Some(path) = besides.last().filter(|_| arguments.workbook.is_some()) {
        handover::write_workbook(path, &arguments.job, (steps, reports), &pages, staging)?;
    }
    if let Some(path) = besides.first().filter(|_| arguments.page.html.is_some()) {
        let place = staging.root.join(staging.staged(path));
        let around = place.parent().unwrap_or(&staging.root);
        let html = page::html(&page::job(&arguments.job, steps, reports, pages));
        let written = std::fs::create_dir_all(around).and_then(|()| std::fs::write(&place, html));
        written.map_err(|error| Error::writing(path, &error))?;
    }
    Ok(())
}

fn home_of(rulebook: &Path) -> Result<PathBuf> {
    let absolute = std::path::absolute(rulebook)
        .map_err(|error| Error::reading(&rulebook.display().to_string(), &error))?;
    Ok(absolute.parent().unwrap_or(Path::new("/")).to_path_buf())
}

/// The steps of the job `job`.
///
/// # Errors
/// Where the rulebook has no such job, or a step says what cannot be.
fn steps_of(path: &Path, job: &str) -> Result<Vec<Step>> {
    let shown = path.display().to_string();
    let (rulebook, found) = rulebook::find(Some(path), false)?;
    let text = std::fs::read_to_string(found.as_deref().unwrap_or(path))
        .map_err(|error| Error::reading(&shown, &error))?;
    match rulebook.job.get(job) {
        Some(entry) => job::steps(job, &entry.step, &text, &shown),
        None if rulebook.job.is_empty() => Err(Error::unusable(
            format!("{shown}: there are no jobs"),
            format!("write [[job.{job}.step]], and below it do = \"clean\"; see docs/jobs.md"),
        )),
        None => {
            let hint = nearest_hint(job, rulebook.job.keys().map(String::as_str));
            Err(Error::unusable(format!("{shown}: there is no job ‘{job}’"), hint))
        }
    }
}
