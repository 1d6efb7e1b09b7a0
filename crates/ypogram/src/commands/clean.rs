//! `ypogram clean`: the whole day in one pass.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use ypogram_io::{
    EntryRefusal, Error, Format, IfThere, Output, OutputFormat, Result, RowSpec, SourcePlace, Target,
};
use ypogram_jobs::clean::{self, CleanOptions, CleanReport, Keep};
use ypogram_jobs::decisions::Answers;
use ypogram_jobs::{Outcome, Shared, Survivor};

use crate::arguments::{CleanArguments, FailOn, OutputArguments};
use crate::call::Call;
use crate::commands::common;
use crate::default_folder::default_folder;
use crate::dns;
use crate::output_target::{refuse_standard, target_of};
use crate::render::figure_names::{self, Figures};
use crate::render::page::{self, Examples, MOST_RECORDS};
use crate::settings::{self, Settings};
use crate::telling::Telling;
use crate::trial::{self, Rows, Trial};
use crate::{clashes, exit, progress_bar, render};

pub(crate) fn run(arguments: &CleanArguments, call: &Call) -> Result<ExitCode> {
    common::refuse_addresses(&arguments.sources.sources)?;
    let mut settings = Settings::resolve(&arguments.sources, &arguments.judging)?;
    arguments.page.check(arguments.page_data.is_some())?;
    figure_names::check(arguments.output.figure.as_deref())?;
    common::check_fail_on(arguments.output.fail_on.as_ref(), true)?;
    // One figure alone asks for no files, unless a folder is named.
    let only_counted = arguments.output.figure.is_some() && arguments.output.place.is_none();
    let trial = Trial::of(arguments.sources.first.or(only_counted.then_some(0)))?;
    if arguments.sources.first.is_some() && arguments.page.html.is_some() {
        return Err(Error::unusable(
            "--html writes a page, and a trial writes nothing",
            "leave --first or --html out",
        ));
    }
    let folder =
        arguments.output.place.clone().unwrap_or_else(|| default_folder(&arguments.sources.sources[0]));
    refuse_standard(
        &folder,
        "the files of clean, which are several",
        "name a folder, or a workbook such as cleaned.xlsx",
    )?;
    let book = Target::File { path: folder.clone(), if_there: IfThere::of_force(arguments.output.force) };
    let named = SourcePlace::of(&folder);
    match Format::named_by(&named.file) {
        Some(format) if named.part.is_some() => return Err(no_folder(&folder, format)),
        Some(Format::Xlsx) if arguments.since.is_some() => {
            return Err(Error::unusable(
                format!(
                    "{}: a workbook has no place for changes.csv, which --since writes",
                    folder.display()
                ),
                "give a folder with -o",
            ));
        }
        Some(Format::Xlsx) => {
            OutputFormat::Other(Format::Xlsx)
                .for_path(&folder, arguments.to.is_some_and(|to| to != Format::Xlsx))?;
            clashes::refuse(&arguments.sources.sources, &settings, &[&book])?;
        }
        Some(format) if !folder.is_dir() => return Err(no_folder(&folder, format)),
        _ => {
            let names = clean::output_names(&folder)?;
            clashes::refuse_folder(&arguments.sources.sources, &settings, &folder, names)?;
        }
    }
    let html = arguments.page.html.as_ref().map(|path| target_of(Some(path), arguments.output.force));
    clashes::refuse(&arguments.sources.sources, &settings, &html.iter().collect::<Vec<_>>())?;
    let mut page = html.as_ref().map(Target::open).transpose()?;
    let place = trial.as_ref().map_or_else(|| folder.clone(), |trial| trial.path("cleaned"));
    let CleanArguments { sources, machine, .. } = arguments;
    dns::settle(
        &mut settings,
        &arguments.dns,
        &dns::Read { sources, machine, quiet: arguments.output.quiet },
    )?;
    let mut options = options(arguments, &mut settings, place)?;
    options.rows.format = trial::format_of(trial.as_ref(), arguments.to);
    if trial.is_none() && !arguments.no_copy {
        options.keep = kept_of(call);
    }
    let mut report = progress_bar::watch(&options.sources, arguments.output.quiet, |progress| {
        clean::run(&options, progress)
    })?;
    write_page(arguments, &report, page.take())?;
    if let Some(trial) = trial.as_ref().filter(|_| arguments.output.figure.is_none()) {
        render::print(&render::trial::rows(&trial_rows(trial, &report, arguments)?))?;
        report.folder = folder;
    }
    let telling = Telling { output: &arguments.output, beside: false, first: arguments.sources.first };
    telling.tell(
        || Figures::of_clean(&report),
        || render::json::clean("clean", &report),
        || render::clean::summary(&report, call, settings.judged_by(), options.shared),
    )?;
    Ok(ExitCode::from(if fails(&report, &arguments.output) { exit::TOLD } else { exit::DONE }))
}

/// What is to be done, with outputs in `folder`.
///
/// # Errors
/// Where the rulebook or an option asks for what cannot be.
pub(crate) fn options(
    arguments: &CleanArguments,
    settings: &mut Settings,
    folder: PathBuf,
) -> Result<CleanOptions> {
    Ok(CleanOptions {
        selection: settings.take_selection(&arguments.selection)?,
        patterns: arguments.patterns.of(&settings.rulebook)?,
        field_rules: settings.rulebook.field_rules()?,
        house: settings.take_house(&arguments.house)?,
        rows: RowSpec {
            format: arguments.to,
            // Each output sorts its own rows.
            memory: arguments.machine.memory / 8,
            ..settings.row_spec(&arguments.output, &arguments.machine)?
        },
        from_lists: settings.lists.columns.clone(),
        lists: settings.lists.reports.clone(),
        sources: arguments.sources.sources.clone(),
        open: settings.open_options(&arguments.sources, &arguments.machine),
        dns: settings.dns.as_ref().map(|dns| dns.answers.clone()),
        fields: settings.fields.clone(),
        policy: settings.policy.clone(),
        learn: arguments.learn,
        by: arguments.duplicates.by.clone(),
        within: arguments.duplicates.within.clone(),
        survivor: Survivor::read(&arguments.duplicates.survivor)?,
        merge: arguments.duplicates.merged(),
        into: arguments.into.clone(),
        since: arguments.since.clone(),
        row_per_address: arguments.row_per_address,
        shared: settings.take_shared(arguments.shared, Shared::Review),
        persons: settings.rulebook.fields.person.clone(),
        entry_rule: EntryRefusal {
            title: settings.rulebook.output.xlsx.title.clone(),
            message: settings.rulebook.output.xlsx.message.clone(),
            ..EntryRefusal::default()
        },
        folder,
        memory: arguments.machine.memory,
        force: arguments.output.force,
        discard_decisions: arguments.discard_decisions,
        answers: Answers::default(),
        remembered: settings.remembered()?,
        keep: None,
        read_before: None,
        records_behind: if arguments.page.with_records { MOST_RECORDS } else { 0 },
        prefix: settings.prefix(&arguments.output),
        threads: settings::threads(&arguments.machine),
        hash_key: settings::hash_key(),
        rulebook: settings.resolved(),
        version: env!("CARGO_PKG_VERSION").into(),
    })
}

/// Writes the page, where one is asked for.
fn write_page(arguments: &CleanArguments, report: &CleanReport, html: Option<Output>) -> Result<()> {
    let page = || page::clean(report, &examples_of(report));
    if let Some(path) = &arguments.page_data {
        let data = serde_json::to_vec(&page()).expect("plain data");
        std::fs::write(path, data).map_err(|error| Error::writing(path, &error))?;
    }
    if let Some(mut html) = html {
        html.write(page::html(&page()).as_bytes())?;
        html.finish()?;
    }
    Ok(())
}

/// What of the records is in its page.
fn examples_of(report: &CleanReport) -> Examples {
    match report.behind.is_empty() {
        true => Examples::default(),
        false => {
            let sources = report.sources.iter().map(|source| source.name.clone()).collect();
            Examples::of(report.behind.clone(), &report.plan.fields, sources)
        }
    }
}

/// What is kept of the call; nothing where it cannot be written down.
fn kept_of(call: &Call) -> Option<Keep> {
    Some(Keep { arguments: call.words()?, called_in: std::env::current_dir().ok()?, copies: Vec::new() })
}

/// The error of a file for outputs that are several.
fn no_folder(path: &Path, format: Format) -> Error {
    Error::output(
        format!("{}: the outputs of clean are several, and {} is one", path.display(), format.entry().called),
        "give a folder, or a workbook such as cleaned.xlsx, whose sheets they are",
    )
}

/// The rows of all outputs of a trial with the outcome of each, in the order of the records.
fn trial_rows(trial: &Trial, report: &CleanReport, arguments: &CleanArguments) -> Result<Rows> {
    let mut all = Rows::default();
    for output in &report.outputs {
        let rows = trial.rows(&format!("cleaned/{}", output.name))?;
        let outcome = output.name.split('.').next().unwrap_or_default();
        if all.names.is_empty() {
            all.names = std::iter::once("ends in".to_owned()).chain(rows.names.clone()).collect();
        }
        // Those that somebody decides about have more columns.
        let places: Vec<Option<usize>> =
            all.names[1..].iter().map(|name| rows.names.iter().position(|other| other == name)).collect();
        let cell = |row: &Vec<String>, place: &Option<usize>| place.and_then(|at| row.get(at).cloned());
        all.rows.extend(rows.rows.iter().map(|row| {
            let cells = places.iter().map(|place| cell(row, place).unwrap_or_default());
            std::iter::once(outcome.to_owned()).chain(cells).collect::<Vec<String>>()
        }));
    }
    let record = all.names.iter().position(|name| name.ends_with("record"));
    let number = |row: &Vec<String>| record.and_then(|at| row.get(at)?.parse::<u64>().ok());
    all.rows.sort_by_key(number);
    common::leave_what_was_asked_for(&mut all, &report.plan, &arguments.output.columns);
    Ok(all)
}

fn fails(report: &CleanReport, output: &OutputArguments) -> bool {
    let nothing =
        common::warn_of_nothing("address", report.counts.tally.verdicts.iter().sum::<u64>() == 0, output);
    if report.sources.iter().any(|source| source.broken_off.is_some()) {
        return true;
    }
    let of = |outcome| report.counts.of(outcome) > 0;
    match &output.fail_on {
        None => false,
        Some(FailOn::NoneFound) => nothing,
        Some(FailOn::Reject) => of(Outcome::Rejected),
        Some(FailOn::Review) => of(Outcome::Rejected) || of(Outcome::Review),
        Some(FailOn::Finding(name)) => common::has_finding(&report.counts.tally, name),
    }
}
