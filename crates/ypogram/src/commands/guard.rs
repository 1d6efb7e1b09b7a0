//! `ypogram register guard`: the SQL that lets no mailbox into a table twice.

use std::path::PathBuf;
use std::process::ExitCode;

use ypogram_io::{Error, OpenOptions, Result, SourcePlace, Target};
use ypogram_jobs::guard::{self, GuardOptions};
use ypogram_jobs::{Shared, Survivor};

use crate::arguments::RegisterGuardArguments;
use crate::commands::common;
use crate::output_target::target_of;
use crate::settings::{self, Settings};
use crate::{clashes, exit, progress_bar, render};

pub(crate) fn run(arguments: &RegisterGuardArguments) -> Result<ExitCode> {
    let settings = Settings::without_sources(&arguments.judging)?;
    let options = options(arguments, &settings)?;
    let targets: Vec<&Target> = options.rows.iter().chain([&options.target]).collect();
    clashes::refuse(std::slice::from_ref(&options.database), &settings, &targets)?;
    let watched = [options.database.clone()];
    let report = progress_bar::watch(&watched, false, |progress| guard::run(&options, progress))?;
    let mut text = match arguments.json {
        true => render::json::guarded(&options.database.display().to_string(), &report),
        false => render::guard::summary(&report, &options),
    };
    if options.target == Target::Nowhere && !arguments.json {
        text.push('\n');
        text.push_str(&report.sql);
    }
    match options.target {
        Target::Standard => render::print_beside(&text),
        _ => render::print(&text)?,
    }
    Ok(ExitCode::from(if report.going > 0 { exit::TOLD } else { exit::DONE }))
}

fn options(arguments: &RegisterGuardArguments, settings: &Settings) -> Result<GuardOptions> {
    let place = SourcePlace::of(&arguments.column);
    let named = place.part.as_deref().and_then(|part| part.rsplit_once('.'));
    let Some((table, column)) = named.filter(|(table, column)| !table.is_empty() && !column.is_empty())
    else {
        return Err(Error::unusable(
            format!("‘{}’ does not name a column of a table", arguments.column.display()),
            "name all three, as in app.sqlite#members.mail",
        ));
    };
    let force = arguments.force;
    let target = |path: &PathBuf| target_of(Some(path), force);
    Ok(GuardOptions {
        database: place.file.clone(),
        table: table.to_owned(),
        column: column.to_owned(),
        open: OpenOptions { sort_of: Some(ypogram_jobs::sort_of_cell), ..OpenOptions::default() },
        policy: common::by_mailbox_alone(settings.policy.clone()),
        survivor: Survivor::read(&arguments.survivor)?,
        shared: if arguments.shared == "drop" { Shared::Drop } else { Shared::Review },
        persons: arguments.persons.clone(),
        key_column: arguments.key_column.clone(),
        standard_form: arguments.standard_form,
        target: arguments.output.as_ref().map_or(Target::Nowhere, target),
        rows: arguments.rows.as_ref().map(target),
        threads: settings::threads(&arguments.machine),
        hash_key: settings::hash_key(),
        version: env!("CARGO_PKG_VERSION").into(),
    })
}
