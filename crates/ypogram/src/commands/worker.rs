//! `ypogram worker`: the judgement inside an engine.

use std::io::{IsTerminal as _, stdin, stdout};
use std::process::ExitCode;

use ypogram_io::{Error, OpenOptions, Result, RowSpec, Target, arrow_type};
use ypogram_jobs::check::{Added, CheckOptions};
use ypogram_jobs::worker::{self, Answered, RankOptions, WorkerOptions};
use ypogram_jobs::{Progress, Survivor};

use crate::arguments::WorkerArguments;
use crate::settings::{self, Settings};
use crate::{column_choice, exit, render};

/// Memory for what is sorted; nothing is.
const MEMORY: usize = 1 << 20;

pub(crate) fn run(arguments: &WorkerArguments) -> Result<ExitCode> {
    let options = options(arguments)?;
    if arguments.schema {
        let mut text = String::new();
        for Answered { shown, of, .. } in options.answered()? {
            let of = of.map_or_else(|| "as it comes".to_owned(), arrow_type);
            text.push_str(&format!("{shown}\t{of}\n"));
        }
        render::print(&text)?;
        return Ok(ExitCode::from(exit::DONE));
    }
    if stdin().is_terminal() || stdout().is_terminal() {
        return Err(Error::unusable(
            "worker talks to a program through its standard input and output, and one of them is a terminal",
            "to judge a file, use check; the packages in integrations/ call worker",
        ));
    }
    worker::run(options, stdin(), stdout(), &Progress::default())?;
    Ok(ExitCode::from(exit::DONE))
}

fn options(arguments: &WorkerArguments) -> Result<WorkerOptions> {
    let mut settings = Settings::for_stream(&arguments.fields, &arguments.judging)?;
    settings.policy.as_typed = arguments.as_typed;
    let selection = settings.take_selection(&arguments.selection)?;
    let prefix = arguments.prefix.clone().unwrap_or_else(|| settings.rulebook.output.prefix.clone());
    let house = settings.take_house(&arguments.house)?;
    let ranks = arguments.duplicates.as_deref().map(|which| ranks(arguments, which)).transpose()?;
    let check = CheckOptions {
        sources: Vec::new(),
        open: OpenOptions::default(),
        fields: settings.fields.clone(),
        policy: settings.policy.clone(),
        target: Target::Nowhere,
        plain: false,
        patterns: arguments.patterns.of(&settings.rulebook)?,
        field_rules: settings.rulebook.field_rules()?,
        house,
        selection,
        from_lists: settings.lists.columns.clone(),
        show: None,
        added: Added::Everything,
        fill: Vec::new(),
        rows: RowSpec::default(),
        prefix,
        remembered: settings.remembered()?,
        threads: arguments.threads.into(),
        hash_key: settings::hash_key(),
    };
    let mut options = WorkerOptions { check, columns: Vec::new(), ranks };
    options.columns = columns(arguments, &options)?;
    Ok(options)
}

fn ranks(arguments: &WorkerArguments, which: &str) -> Result<RankOptions> {
    Ok(RankOptions {
        survivor: Survivor::read(which)?,
        by: arguments.by.clone(),
        within: arguments.within.clone(),
        hash_key: arguments.group_key,
    })
}

/// The columns that were chosen; none where all of Ypogram's are wanted.
fn columns(arguments: &WorkerArguments, options: &WorkerOptions) -> Result<Vec<(String, String)>> {
    let chosen = column_choice::items(&arguments.columns);
    let spec = column_choice::row_spec(&chosen, &[], MEMORY, false)?;
    if spec.left_out.is_empty() {
        return Ok(spec.columns);
    }
    let is_left_out = |name: &String| {
        let bare = name.strip_prefix(&options.check.prefix).unwrap_or(name);
        spec.left_out.iter().any(|left_out| left_out == name || left_out == bare)
    };
    let added = options.check.appended_columns().into_iter().map(|(name, _)| name);
    Ok(added.filter(|name| !is_left_out(name)).map(|name| (name.clone(), name)).collect())
}
