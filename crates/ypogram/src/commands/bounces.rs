//! `ypogram bounces`: what comes back after a mailing.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use ypogram_io::pieces::Limits;
use ypogram_io::{Result, RowSpec, Target};
use ypogram_jobs::bounces::{self, BouncesOptions, BouncesReport};

use crate::arguments::BouncesArguments;
use crate::call::Call;
use crate::commands::common;
use crate::output_target::target_of;
use crate::render::figure_names::{self, Figures};
use crate::{clashes, exit, progress_bar, render};

pub(crate) fn run(arguments: &BouncesArguments, call: &Call) -> Result<ExitCode> {
    common::refuse_addresses(&arguments.sources)?;
    figure_names::check(arguments.figure.as_deref())?;
    let target = match &arguments.output {
        Some(path) => target_of(Some(path), arguments.force),
        None => Target::Nowhere,
    };
    let read: Vec<&Path> = arguments.sources.iter().map(PathBuf::as_path).collect();
    clashes::refuse_read(&read, &[&target])?;
    let options = BouncesOptions {
        sources: arguments.sources.clone(),
        limits: Limits::default(),
        only: arguments.only.iter().map(|what| (*what).into()).collect(),
        rows: RowSpec { guard_formulas: arguments.guard_formulas, ..RowSpec::default() },
        target,
    };
    let report =
        progress_bar::watch(&options.sources, arguments.quiet, |progress| bounces::run(&options, progress))?;
    tell(&report, &options, (arguments, call))?;
    let is_told = !report.unread.is_empty()
        || !report.troubles.is_empty()
        || arguments.fail_on.is_some() && report.recipients == 0;
    Ok(ExitCode::from(if is_told { exit::TOLD } else { exit::DONE }))
}

fn tell(
    report: &BouncesReport,
    options: &BouncesOptions,
    (arguments, call): (&BouncesArguments, &Call),
) -> Result<()> {
    let text = match &arguments.figure {
        Some(name) => format!("{}\n", Figures::of_bounces(report).get(name)?),
        None if arguments.quiet && !arguments.json => return Ok(()),
        None if arguments.json => render::json::bounces(report),
        None => render::bounces::summary(report, options, call).text(arguments.full),
    };
    match options.target {
        Target::Standard => render::print_beside(&text),
        _ => render::print(&text)?,
    }
    Ok(())
}
