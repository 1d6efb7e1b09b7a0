//! `ypogram check`: every record annotated, or one address at a time over a pipe.

use std::path::Path;
use std::process::ExitCode;

use ypogram_io::RowSpec;
use ypogram_io::{Error, Format, OpenOptions, Result, Target};
use ypogram_jobs::check::{self, CheckOptions, CheckReport};
use ypogram_jobs::each::{self, EachOptions, Line};
use ypogram_jobs::{FieldPlan, Naming};

use crate::arguments::{
    CheckArguments, FailOn, MachineArguments, OutputArguments, RowFormatArgument, SourceArguments,
};
use crate::call::Call;
use crate::commands::{common, into_columns};
use crate::dns::{self, Dns};
use crate::render::figure_names::{self, Figures};
use crate::settings::{self, Settings};
use crate::telling::Telling;
use crate::trial::{self, Rows, Trial};
use crate::{clashes, exit, progress_bar, render};
use ypogram_jobs::HouseFormats;

pub(crate) fn run(arguments: &CheckArguments, call: &Call) -> Result<ExitCode> {
    if arguments.each {
        return answer_each(arguments);
    }
    common::refuse_addresses(&arguments.sources.sources)?;
    let mut settings = Settings::resolve(&arguments.sources, &arguments.judging)?;
    settings.policy.as_typed = arguments.as_typed;
    let selection = settings.take_selection(&arguments.selection)?;
    let fills = !arguments.into_columns.is_empty();
    if fills {
        let prefix = settings.prefix(&arguments.output);
        settings.not_read = Naming { prefix: &prefix, from_lists: &settings.lists.columns }.all_names();
    }
    let CheckArguments { sources, machine, .. } = arguments;
    dns::settle(
        &mut settings,
        &arguments.dns,
        &dns::Read { sources, machine, quiet: arguments.output.quiet },
    )?;
    let OutputArguments { columns, sort_by, guard_formulas, .. } = &arguments.output;
    let is_plain = arguments.to == Some(RowFormatArgument::Plain);
    if is_plain && (!columns.is_empty() || !sort_by.is_empty() || *guard_formulas) {
        return Err(Error::unusable(
            "--columns, --sort-by and --guard-formulas are for tables, and --to plain has only the value and its answer",
            "leave one of them out",
        ));
    }
    figure_names::check(arguments.output.figure.as_deref())?;
    common::check_fail_on(arguments.output.fail_on.as_ref(), true)?;
    let trial = Trial::of(arguments.sources.first)?;
    let target =
        trial::target_of(trial.as_ref(), &arguments.output, arguments.table.if_there(&arguments.output));
    let output = &arguments.output;
    let records = RecordArguments { sources, output, machine };
    let mut options = CheckOptions {
        rows: RowSpec {
            format: trial::format_of(trial.as_ref(), arguments.to.and_then(RowFormatArgument::table)),
            ..settings.row_spec(&arguments.output, &arguments.machine)?
        },
        selection,
        plain: is_plain,
        patterns: arguments.patterns.of(&settings.rulebook)?,
        field_rules: settings.rulebook.field_rules()?,
        house: settings.take_house(&arguments.house)?,
        ..options(&settings, records, arguments.show.as_deref(), &target)?
    };
    match fills {
        true => into_columns::make_ready(arguments, &mut options)?,
        false => clashes::refuse(&options.sources, &settings, &[&target])?,
    }
    let (quiet, sources) = (arguments.output.quiet, options.sources.clone());
    let report = progress_bar::watch(&sources, quiet, |progress| check::run(options, progress))?;
    if let Some(trial) = &trial {
        let mut rows = trial.rows(trial::ROWS)?;
        if !fills {
            common::leave_what_was_asked_for(&mut rows, &report.plan, &arguments.output.columns);
        }
        render::print(&render::trial::rows(&rows))?;
    }
    let telling = Telling {
        output: &arguments.output,
        beside: target == Target::Standard && !fills,
        first: arguments.sources.first,
    };
    telling.tell(
        || Figures::of_check(&report),
        || render::json::check(&report),
        || {
            let target = (arguments.sources.first.is_none() && !fills).then_some(&target);
            render::check::summary(&report, call, settings.judged_by(), arguments.show.as_deref(), target)
        },
    )?;
    Ok(ExitCode::from(if fails(&report, &arguments.output) { exit::TOLD } else { exit::DONE }))
}

/// The arguments that every command has which writes annotated records.
#[derive(Clone, Copy)]
pub(crate) struct RecordArguments<'a> {
    pub(crate) sources: &'a SourceArguments,
    pub(crate) output: &'a OutputArguments,
    pub(crate) machine: &'a MachineArguments,
}

/// What every command asks of the job that writes annotated records.
///
/// # Errors
/// Where the condition is not understood.
pub(crate) fn options(
    settings: &Settings,
    arguments: RecordArguments<'_>,
    show: Option<&str>,
    target: &Target,
) -> Result<CheckOptions> {
    let RecordArguments { sources, output, machine } = arguments;
    Ok(CheckOptions {
        remembered: settings.remembered()?,
        sources: sources.sources.clone(),
        open: OpenOptions { fingerprint: output.json, ..settings.open_options(sources, machine) },
        fields: settings.fields.clone(),
        policy: settings.policy.clone(),
        target: target.clone(),
        plain: false,
        patterns: Vec::new(),
        field_rules: Vec::new(),
        house: HouseFormats::default(),
        show: settings.conditions(show)?,
        selection: ypogram_jobs::Selection::default(),
        from_lists: settings.lists.columns.clone(),
        rows: RowSpec::default(),
        added: check::Added::Everything,
        fill: Vec::new(),
        prefix: settings.prefix(output),
        threads: settings::threads(machine),
        hash_key: settings::hash_key(),
    })
}

/// The rows of a trial, without the columns that were neither asked for nor looked at.
///
/// # Errors
/// Where they cannot be read.
pub(crate) fn shown_rows(trial: &Trial, name: &str, plan: &FieldPlan, columns: &[String]) -> Result<Rows> {
    let mut rows = trial.rows(name)?;
    common::leave_what_was_asked_for(&mut rows, plan, columns);
    Ok(rows)
}

pub(crate) fn fails(report: &CheckReport, output: &OutputArguments) -> bool {
    if report.sources.iter().any(|source| source.broken_off.is_some()) {
        return true;
    }
    let [accept, review, reject] = report.tally.verdicts[..] else {
        unreachable!("there are three verdicts")
    };
    let nothing = common::warn_of_nothing("address", accept + review + reject == 0, output);
    match &output.fail_on {
        None => false,
        Some(FailOn::NoneFound) => nothing,
        Some(FailOn::Reject) => reject > 0,
        Some(FailOn::Review) => reject + review > 0,
        Some(FailOn::Finding(name)) => common::has_finding(&report.tally, name),
    }
}

fn answer_each(arguments: &CheckArguments) -> Result<ExitCode> {
    if let Some(source) = arguments.sources.sources.iter().find(|source| *source != Path::new("-")) {
        return Err(Error::unusable(
            format!("--each reads standard input, not {}", source.display()),
            "send the addresses through a pipe, or leave --each out",
        ));
    }
    let line = match (arguments.sources.from, &arguments.sources.fields.fields[..]) {
        (Some(Format::JsonLines), [field]) => Line::Json(field.clone()),
        (Some(Format::JsonLines), _) => {
            return Err(Error::unusable("the field with the address is not named", "name one with --field"));
        }
        _ => Line::Value,
    };
    let mut settings = Settings::without_sources(&arguments.judging)?;
    settings.policy.as_typed = arguments.as_typed;
    dns::settle_one_by_one(&mut settings, &arguments.dns, &[])?;
    if !settings.lists.matching.is_empty() {
        return Err(Error::unusable(
            "a list of the rulebook is held against a field, and --each has values only",
            "leave match out of the list, or go without the rulebook: --no-rules",
        ));
    }
    let patterns = arguments.patterns.of(&settings.rulebook)?;
    let house = settings.take_house(&arguments.house)?;
    let from_lists = settings.lists.columns.clone();
    let remembered = settings.remembered()?;
    let options = EachOptions { line, policy: &settings.policy, patterns, house, from_lists, remembered };
    let progress = ypogram_jobs::Progress::default();
    let (input, output) = (std::io::stdin().lock(), std::io::stdout().lock());
    let report = each::run(input, output, &options, &progress)?;
    settings.dns.as_ref().map_or(Ok(()), Dns::keep)?;
    Ok(ExitCode::from(if report.unusable > 0 { exit::TOLD } else { exit::DONE }))
}
