//! `ypogram dedupe`: records that reach the same mailbox.

use std::io::IsTerminal as _;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use ypogram_io::{Error, OpenOptions, Result, RowSpec, Target};
use ypogram_jobs::dedupe::{self, DedupeOptions, DedupeReport};
use ypogram_jobs::{Shared, Survivor};

use crate::arguments::{DedupeArguments, FailOn, OutputArguments};
use crate::call::Call;
use crate::commands::common;
use crate::output_target::target_if;
use crate::render::figure_names::{self, Figures};
use crate::settings::{self, Settings};
use crate::telling::Telling;
use crate::trial::{self, Trial};
use crate::{clashes, exit, progress_bar, render};

pub(crate) fn run(arguments: &DedupeArguments, call: &Call) -> Result<ExitCode> {
    common::refuse_addresses(&arguments.sources.sources)?;
    let mut settings = Settings::resolve(&arguments.sources, &arguments.judging)?;
    let shared = settings.take_shared(arguments.shared, Shared::Keep);
    figure_names::check(arguments.output.figure.as_deref())?;
    common::check_fail_on(arguments.output.fail_on.as_ref(), false)?;
    let trial = Trial::of(arguments.sources.first)?;
    let options = options(arguments, &settings, shared, trial.as_ref())?;
    if arguments.review.is_some() && options.review.is_none() {
        return Err(Error::unusable(
            "--review names a file for records that share a mailbox, and nothing goes there",
            "add --shared review",
        ));
    }
    clashes::refuse(&options.sources, &settings, &targets(&options))?;
    let (sources, quiet) = (&arguments.sources.sources, arguments.output.quiet);
    let report = progress_bar::watch(sources, quiet, |progress| dedupe::run(&options, progress))?;
    if let (Some(trial), Some(output)) = (&trial, &arguments.output.place) {
        render::print(&render::trial::rows(&trial.rows(&name_of(output))?))?;
    }
    let (output, carries_data) = (&arguments.output, targets(&options).contains(&&Target::Standard));
    let telling = Telling { output, beside: carries_data, first: arguments.sources.first };
    telling.tell(
        || Figures::of_dedupe(&report),
        || render::json::dedupe(&report),
        || render::dedupe::summary(&report, &options, call, settings.judged_by()),
    )?;
    let is_view = options.output.is_none() && !carries_data && output.figure.is_none();
    if is_view && !output.json && !output.quiet && !std::io::stdout().is_terminal() {
        render::print_beside(
            "ypogram: this is the view of the groups; to write the records, give a file with -o\n",
        );
    }
    let told = has_trouble(&report, output);
    Ok(ExitCode::from(if told { exit::TOLD } else { exit::DONE }))
}

fn options(
    arguments: &DedupeArguments,
    settings: &Settings,
    shared: Shared,
    trial: Option<&Trial>,
) -> Result<DedupeOptions> {
    let target = |path: &Option<PathBuf>| {
        path.as_ref().map(|path| match trial {
            Some(trial) => trial.target(&name_of(path)),
            None => target_if(Some(path), arguments.table.if_there(&arguments.output)),
        })
    };
    Ok(DedupeOptions {
        sources: arguments.sources.sources.clone(),
        open: OpenOptions {
            fingerprint: arguments.output.json,
            ..settings::open_options(&arguments.sources, &arguments.machine)
        },
        fields: settings.fields.clone(),
        policy: settings.policy.clone(),
        survivor: Survivor::read(&arguments.duplicates.survivor)?,
        by: arguments.duplicates.by.clone(),
        within: arguments.duplicates.within.clone(),
        persons: settings.rulebook.fields.person.clone(),
        shared,
        output: target(&arguments.output.place),
        mark: arguments.mark,
        dropped: target(&arguments.dropped),
        review: match shared {
            Shared::Review if !arguments.mark => target(
                &arguments.review.clone().or_else(|| beside(arguments.output.place.as_deref(), "review")),
            ),
            _ => None,
        },
        no_address: target(&arguments.no_address),
        merge: arguments.duplicates.merged(),
        changes: match arguments.duplicates.merge {
            true => target(
                &arguments.changes.clone().or_else(|| beside(arguments.output.place.as_deref(), "changes")),
            ),
            false => None,
        },
        report: target(&arguments.report),
        groups: target(&arguments.groups),
        at_least: arguments.at_least,
        rule_differences: target(&arguments.rule_differences),
        near: target(&arguments.near),
        rows: RowSpec {
            format: trial::format_of(trial, arguments.to),
            ..settings.row_spec_of(&arguments.output, &arguments.machine)?
        },
        prefix: settings.prefix(&arguments.output),
        memory: arguments.machine.memory,
        threads: settings::threads(&arguments.machine),
        hash_key: settings::hash_key(),
    })
}

/// Whether a source broke off, or there is what the exit code is to tell.
fn has_trouble(report: &DedupeReport, output: &OutputArguments) -> bool {
    let nothing = common::warn_of_nothing("address", report.no_address == report.records, output);
    let broke_off = report.sources.iter().any(|source| source.broken_off.is_some());
    broke_off
        || match &output.fail_on {
            None | Some(FailOn::Finding(_)) => false,
            Some(FailOn::NoneFound) => nothing,
            Some(FailOn::Reject) => report.rejected > 0,
            Some(FailOn::Review) => report.rejected + report.review > 0,
        }
}

fn name_of(path: &Path) -> String {
    path.file_name().unwrap_or_default().to_string_lossy().into_owned()
}

/// A file named after the output: `unique.csv` has its changes in `unique-changes.csv`.
fn beside(output: Option<&Path>, what: &str) -> Option<PathBuf> {
    let output = output.filter(|path| *path != Path::new("-"))?;
    let stem = output.file_stem()?.to_string_lossy();
    Some(output.with_file_name(format!("{stem}-{what}.csv")))
}

/// Every place that something is written to.
fn targets(options: &DedupeOptions) -> Vec<&Target> {
    let targets = [
        &options.output,
        &options.dropped,
        &options.review,
        &options.no_address,
        &options.changes,
        &options.report,
        &options.groups,
        &options.rule_differences,
        &options.near,
    ];
    targets.into_iter().flatten().collect()
}
