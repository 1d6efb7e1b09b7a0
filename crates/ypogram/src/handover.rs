//! What a job hands over besides its outputs: a page about it, and a workbook of all its tables.

use std::path::Path;

use ypogram_io::{BookSummary, Error, Result};
use ypogram_jobs::Outcome;
use ypogram_jobs::book::{self, BookTable};
use ypogram_jobs::compare::State;

use crate::job::{Staging, Step, StepReport, page_data};
use crate::render::page::{Page, Part};
use crate::render::run::{answer, ends, records};

/// The pages of the steps that clean, by the name of the step.
///
/// # Errors
/// Where one cannot be read.
pub(crate) fn pages(steps: &[Step], staging: &Staging) -> Result<Vec<(String, Page)>> {
    let cleaning = steps.iter().filter(|step| step.command == "clean");
    let page = |step: &Step| {
        let path = staging.root.join(page_data(step));
        let text = std::fs::read(&path).map_err(|error| Error::writing(&path, &error))?;
        let page = serde_json::from_slice(&text).map_err(|error| Error::writing(&path, &error.into()))?;
        Ok((step.name.clone(), page))
    };
    cleaning.map(page).collect()
}

/// Writes the workbook into the staging folder, under the place of `path` there.
///
/// # Errors
/// Where a table cannot be read, or the workbook cannot be written.
pub(crate) fn write_workbook(
    path: &Path,
    job: &str,
    (steps, reports): (&[Step], &[StepReport]),
    pages: &[(String, Page)],
    staging: &Staging,
) -> Result<()> {
    let place = staging.root.join(staging.staged(path));
    let around = place.parent().unwrap_or(&staging.root);
    std::fs::create_dir_all(around).map_err(|error| Error::writing(around, &error))?;
    let tables = tables(steps, staging)?;
    let counts = counts(pages);
    let sum = counts.iter().map(|(_, count)| count).sum();
    let cleaning = steps.iter().zip(reports).find(|(step, _)| step.command == "clean");
    let of = match cleaning.and_then(|(_, report)| records(&report.summary)) == Some(sum) {
        true => "records read",
        false => "records read and further addresses",
    };
    let summary = BookSummary {
        title: format!("{job}: {}", answer(steps, reports)),
        counts,
        sum: (of.to_owned(), sum),
        facts: steps
            .iter()
            .zip(reports)
            .filter_map(|(step, report)| Some((step.name.clone(), ends(step, report)?)))
            .chain([("ypogram".to_owned(), env!("CARGO_PKG_VERSION").to_owned())])
            .collect(),
    };
    let mut file = book::workbook(&place, false, &tables, &summary)?;
    file.sync()?;
    file.publish()
}

/// Where the records of the first step that cleans ended.
fn counts(pages: &[(String, Page)]) -> Vec<(String, u64)> {
    let parts = pages.iter().take(1).flat_map(|(_, page)| &page.sections).flat_map(|section| &section.parts);
    let figures = parts.filter_map(|part| match part {
        Part::Division(figures) => Some(figures),
        _ => None,
    });
    figures.flatten().map(|figure| (figure.label.clone(), figure.count.count)).collect()
}

/// Every published table, the outcomes of `clean` each for itself.
fn tables(steps: &[Step], staging: &Staging) -> Result<Vec<BookTable>> {
    let several = steps.iter().filter(|step| step.writes_folder() && step.is_published).count() > 1;
    let mut tables: Vec<BookTable> = Vec::new();
    for step in steps.iter().filter(|step| step.is_published && step.command != "survey") {
        let Some(main) = &step.main else { continue };
        let staged = staging.root.join(staging.staged(main));
        if !step.writes_folder() {
            tables.push(BookTable { name: step.name.clone(), source: staged });
        } else if staged.is_dir() {
            let files = std::fs::read_dir(&staged).map_err(|error| Error::writing(&staged, &error))?;
            let names: Vec<String> =
                files.flatten().map(|file| file.file_name().to_string_lossy().into_owned()).collect();
            let states = State::ALL.map(State::file_stem).into_iter().filter(|stem| *stem != "duplicates");
            for stem in Outcome::ALL.map(Outcome::file_stem).into_iter().chain(states) {
                let found = names.iter().find(|name| name.split('.').next() == Some(stem));
                let name = if several { format!("{}-{stem}", step.name) } else { stem.to_owned() };
                tables.extend(found.map(|found| BookTable { name, source: staged.join(found) }));
            }
        }
    }
    let mut seen = Vec::new();
    for table in &mut tables {
        table.name = sheet_name(&table.name, &seen);
        seen.push(table.name.to_lowercase());
    }
    Ok(tables)
}

/// A name that a sheet can have, and none of `seen` has.
fn sheet_name(name: &str, seen: &[String]) -> String {
    let plain: String =
        name.chars().map(|c| if "[]:*?/\\'".contains(c) { '-' } else { c }).take(27).collect();
    let numbered = (2..).map(|number| format!("{plain}-{number}"));
    let mut names = std::iter::once(plain.clone()).chain(numbered);
    names.find(|name| !seen.contains(&name.to_lowercase())).expect("numbers do not end")
}
