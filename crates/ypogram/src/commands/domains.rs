//! `ypogram domains`: the domains of a list.

use std::process::ExitCode;

use ypogram_io::{Error, Result, Target};
use ypogram_jobs::domains::{self, DomainsOptions, DomainsReport};

use crate::arguments::{DomainsArguments, FailOn, OutputArguments};
use crate::call::Call;
use crate::commands::common;
use crate::dns;
use crate::output_target::target_if;
use crate::render::figure_names::{self, Figures};
use crate::settings::{self, Settings};
use crate::telling::Telling;
use crate::{clashes, exit, progress_bar, render};

pub(crate) fn run(arguments: &DomainsArguments, call: &Call) -> Result<ExitCode> {
    common::refuse_addresses(&arguments.sources.sources)?;
    let mut settings = Settings::resolve(&arguments.sources, &arguments.judging)?;
    let output = &arguments.output;
    figure_names::check(output.figure.as_deref())?;
    common::check_fail_on(output.fail_on.as_ref(), false)?;
    let is_trial = arguments.sources.first.is_some();
    if is_trial && output.place.is_some() {
        return Err(Error::unusable(
            "--first is a trial, and a trial writes nothing",
            "leave --first or -o out",
        ));
    }
    let target = match &output.place {
        Some(place) => target_if(Some(place), arguments.table.if_there(output)),
        None => Target::Nowhere,
    };
    let mut read = arguments.sources.sources.clone();
    read.extend(arguments.new_since.clone());
    clashes::refuse(&read, &settings, &[&target])?;
    let DomainsArguments { sources, machine, .. } = arguments;
    dns::settle(&mut settings, &arguments.dns, &dns::Read { sources, machine, quiet: output.quiet })?;
    let options = DomainsOptions {
        sources: arguments.sources.sources.clone(),
        open: settings.open_options(&arguments.sources, &arguments.machine),
        dns: settings.dns.as_ref().map(|dns| dns.answers.clone()),
        fields: settings.fields.clone(),
        policy: settings.policy.clone(),
        date: arguments.date.clone(),
        new_since: arguments.new_since.clone(),
        target: target.clone(),
        rows: settings.row_spec_of(output, &arguments.machine)?,
        threads: settings::threads(&arguments.machine),
        hash_key: settings::hash_key(),
    };
    let report = progress_bar::watch(&read, output.quiet, |progress| domains::run(&options, progress))?;
    Telling { output, beside: target == Target::Standard, first: arguments.sources.first }.tell(
        || Figures::of_domains(&report),
        || render::json::domains(&report),
        || render::domains::summary(&report, &options, call, settings.judged_by()),
    )?;
    Ok(ExitCode::from(if fails(&report, output) { exit::TOLD } else { exit::DONE }))
}

fn fails(report: &DomainsReport, output: &OutputArguments) -> bool {
    let nothing = common::warn_of_nothing("address", report.written == 0, output);
    let broke_off = report.sources.iter().any(|source| source.broken_off.is_some());
    broke_off || output.fail_on == Some(FailOn::NoneFound) && nothing
}
