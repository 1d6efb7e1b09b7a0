//! `ypogram compare`: new records held against what is known.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use ypogram_core::lists::Of;
use ypogram_io::{Error, OpenOptions, Result, temporary_folder};
use ypogram_io::{Format, RowSpec, Target};
use ypogram_jobs::FieldChoice;
use ypogram_jobs::compare::{self, CompareOptions, CompareReport, CompareTo, State};
use ypogram_jobs::lists::{ListSpec, is_list_of_hashes};

use crate::arguments::{CompareArguments, FailOn};
use crate::call::Call;
use crate::commands::common;
use crate::one_column::table_and_column;
use crate::output_target::{refuse_standard, target_of};
use crate::render::figure_names::{self, Figures};
use crate::settings::{self, Settings};
use crate::telling::Telling;
use crate::trial::{self, Trial};
use crate::{clashes, exit, progress_bar, render};

pub(crate) fn run(arguments: &CompareArguments, call: &Call) -> Result<ExitCode> {
    figure_names::check(arguments.output.figure.as_deref())?;
    common::check_fail_on(arguments.output.fail_on.as_ref(), false)?;
    let folder = temporary_folder()?;
    let mut open = settings::open_options(&arguments.sources, &arguments.machine);
    keep_addresses(&arguments.sources.sources, folder.path(), &mut open)?;
    let (hashed, lists) = withdrawn(arguments, &open)?;
    let settings = Settings::resolve_with(&arguments.sources, &arguments.judging, &lists)?;
    let trial = Trial::of(arguments.sources.first)?;
    let options = options(arguments, &settings, (open, hashed, lists.len()), trial.as_ref())?;
    refuse_clashes(arguments, &settings, &options)?;
    let quiet = arguments.output.quiet;
    let watched: Vec<PathBuf> = options.sources.iter().chain(&options.known).cloned().collect();
    let report = progress_bar::watch(&watched, quiet, |progress| compare::run(&options, progress))?;
    if let Some(trial) = trial.as_ref().filter(|_| arguments.output.figure.is_none()) {
        render::print(&render::trial::rows(&trial.rows(trial::ROWS)?))?;
    }
    let beside = matches!(&options.to, CompareTo::Marked(Target::Standard)) || is_standard(&options);
    let telling = Telling { output: &arguments.output, beside, first: arguments.sources.first };
    telling.tell(
        || Figures::of_compare(&report),
        || render::json::compare(&report),
        || render::compare::summary(&report, &options, call, settings.judged_by()),
    )?;
    Ok(ExitCode::from(if fails(&report, arguments.output.fail_on.as_ref()) {
        exit::TOLD
    } else {
        exit::DONE
    }))
}

/// An address that stands where a file could is a source of one record.
fn keep_addresses(sources: &[PathBuf], folder: &Path, open: &mut OpenOptions) -> Result<()> {
    let addresses = sources.iter().filter(|source| common::is_address(source));
    for (nth, address) in addresses.enumerate() {
        let file = folder.join(format!("address-{nth}.txt"));
        let line = format!("{}\n", address.display());
        std::fs::write(&file, line).map_err(|error| Error::writing(&file, &error))?;
        open.kept.push((address.clone(), file));
    }
    Ok(())
}

fn is_standard(options: &CompareOptions) -> bool {
    [&options.missing, &options.changed, &options.near]
        .into_iter()
        .flatten()
        .any(|target| *target == Target::Standard)
}

/// The lists of those who asked to be left alone: those that hold hashes, and the others, as what the policy asks.
fn withdrawn(arguments: &CompareArguments, open: &OpenOptions) -> Result<(Vec<PathBuf>, Vec<ListSpec>)> {
    let (mut hashed, mut lists) = (Vec::new(), Vec::new());
    for path in &arguments.withdrawn {
        if is_list_of_hashes(path, open)? {
            hashed.push(path.clone());
            continue;
        }
        lists.push(ListSpec {
            name: path.file_name().unwrap_or(path.as_os_str()).to_string_lossy().into_owned(),
            file: Some(path.clone()),
            from: path.display().to_string(),
            of: Of::Keys,
            ..ListSpec::default()
        });
    }
    Ok((hashed, lists))
}

fn options(
    arguments: &CompareArguments,
    settings: &Settings,
    (open, withdrawn_hashed, lists): (OpenOptions, Vec<PathBuf>, usize),
    trial: Option<&Trial>,
) -> Result<CompareOptions> {
    let force = arguments.output.force;
    let target = |path: &Option<PathBuf>| path.as_ref().map(|path| target_of(Some(path), force));
    let target = |path: &Option<PathBuf>| target(path).filter(|_| trial.is_none());
    let to = match (trial, &arguments.output.place, arguments.mark) {
        (Some(trial), ..) => CompareTo::Marked(trial.target(trial::ROWS)),
        (None, Some(path), true) => CompareTo::Marked(target_of(Some(path), force)),
        (None, Some(folder), false) => CompareTo::Folder(folder.clone()),
        (None, None, _) => CompareTo::Nowhere,
    };
    let all = settings.policy.lists.iter().count();
    let mut known_fields = FieldChoice { address: arguments.known_fields.clone(), ..FieldChoice::default() };
    let mut known = arguments.known.clone();
    for place in &mut known {
        if let Some((table, column)) = table_and_column(place) {
            *place = table;
            known_fields.address.push(column);
        }
    }
    Ok(CompareOptions {
        sources: arguments.sources.sources.clone(),
        known,
        open,
        fields: settings.fields.clone(),
        known_fields,
        policy: settings.policy.clone(),
        withdrawn: (all - lists..all).collect(),
        withdrawn_hashed,
        to,
        missing: target(&arguments.missing),
        changed: target(&arguments.changed),
        near: target(&arguments.near),
        near_fields: arguments.near_fields.clone(),
        rows: RowSpec {
            format: trial::format_of(trial, arguments.to),
            ..settings.row_spec(&arguments.output, &arguments.machine)?
        },
        prefix: settings.prefix(&arguments.output),
        memory: arguments.machine.memory,
        force,
        threads: settings::threads(&arguments.machine),
        hash_key: settings::hash_key(),
        rulebook: settings.resolved(),
        version: env!("CARGO_PKG_VERSION").into(),
    })
}

/// Refuses outputs that are read, or are one.
fn refuse_clashes(arguments: &CompareArguments, settings: &Settings, options: &CompareOptions) -> Result<()> {
    let read: Vec<PathBuf> =
        options.sources.iter().chain(&options.known).chain(&arguments.withdrawn).cloned().collect();
    let mut targets: Vec<&Target> =
        options.missing.iter().chain(&options.changed).chain(&options.near).collect();
    if let CompareTo::Marked(target) = &options.to {
        targets.push(target);
    }
    clashes::refuse(&read, settings, &targets)?;
    match &options.to {
        CompareTo::Folder(folder) => {
            let hint = "name a folder, or add --mark for all records in one list";
            refuse_standard(folder, "the files of compare, which are several", hint)?;
            refuse_file_name(folder)?;
            let names = compare::output_names(folder)?;
            clashes::refuse_folder(&read, settings, folder, names.into_iter())
        }
        _ => Ok(()),
    }
}

/// The files of the states are several.
fn refuse_file_name(folder: &Path) -> Result<()> {
    match Format::named_by(folder).filter(|_| !folder.is_dir()) {
        Some(format) => Err(Error::output(
            format!(
                "{}: the outputs of compare are several, and {} is one",
                folder.display(),
                format.entry().called
            ),
            "give a folder, or add --mark for one file of all records",
        )),
        None => Ok(()),
    }
}

fn fails(report: &CompareReport, fail_on: Option<&FailOn>) -> bool {
    let broke_off =
        report.sources.iter().chain(&report.known_sources).any(|source| source.broken_off.is_some());
    broke_off
        || match fail_on {
            None | Some(FailOn::Review | FailOn::Finding(_)) => false,
            Some(FailOn::NoneFound) => report.counts.of(State::New) == 0,
            Some(FailOn::Reject) => report.counts.of(State::Unusable) > 0,
        }
}
