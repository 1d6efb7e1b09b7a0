//! `ypogram extract`: every address out of any text.

use std::process::ExitCode;

use ypogram_core::text::{Options, REACH};
use ypogram_io::RowSpec;
use ypogram_io::csv::TextLayout;
use ypogram_io::pieces::{Limits, PieceOptions};
use ypogram_io::{Error, Format, OpenOptions, OutputFormat, Result, Target};
use ypogram_jobs::extract::{self, ByRecordOptions, ExtractOptions, RowFormat};

use crate::arguments::{ExtractArguments, FailOn, RowFormatArgument};
use crate::call::Call;
use crate::commands::common;
use crate::render::figure_names::{self, Figures};
use crate::settings::{self, Settings};
use crate::telling::Telling;
use crate::trial::{self, Trial};
use crate::{clashes, exit, progress_bar, render};

/// Bytes of a piece: they stay in the cache of a core while they are looked through more than once.
const PIECE: usize = 512 << 10;

pub(crate) fn run(arguments: &ExtractArguments, call: &Call) -> Result<ExitCode> {
    common::refuse_addresses(&arguments.sources)?;
    let settings = Settings::without_sources(&arguments.judging)?;
    figure_names::check(arguments.output.figure.as_deref())?;
    common::check_fail_on(arguments.output.fail_on.as_ref(), false)?;
    let trial = Trial::of(arguments.first)?;
    let target =
        trial::target_of(trial.as_ref(), &arguments.output, arguments.table.if_there(&arguments.output));
    clashes::refuse(&arguments.sources, &settings, &[&target])?;
    let look = Options { any_tld: arguments.any_tld, obfuscated: arguments.obfuscated, tell_hidden: true };
    if arguments.row_per_address {
        let rows =
            RowsByRecord { settings, pieces: piece_options(arguments), look, target, trial: trial.as_ref() };
        return rows.write(arguments, call);
    }
    let format = match trial.is_some() {
        true => RowFormat::Table(OutputFormat::default()),
        false => row_format(arguments, &target)?,
    };
    let patterns = arguments.patterns.iter().map(|name| Ok(settings.rulebook.pattern(name)?.pattern));
    let patterns = patterns.collect::<Result<Vec<_>>>()?;
    let is_table = matches!(format, RowFormat::Table(_));
    let arranges = !arguments.output.columns.is_empty() || !arguments.output.sort_by.is_empty();
    if arranges && !is_table {
        return Err(Error::unusable(
            "--columns and --sort-by are for columns, and the output has none",
            "write a table: --to csv",
        ));
    }
    let options = ExtractOptions {
        sources: arguments.sources.clone(),
        pieces: piece_options(arguments),
        fields: arguments.fields.clone(),
        policy: settings.policy.clone(),
        look,
        patterns,
        format,
        rows: match is_table {
            true => settings.row_spec_of(&arguments.output, &arguments.machine)?,
            false => RowSpec::default(),
        },
        first: arguments.first,
        context: usize::from(arguments.context),
        unique: arguments.unique,
        show_skipped: arguments.show_skipped,
        target: target.clone(),
        memory: arguments.machine.memory,
        threads: settings::threads(&arguments.machine),
        hash_key: settings::hash_key(),
    };
    let report = progress_bar::watch(&options.sources, arguments.output.quiet, |progress| {
        extract::run(&options, progress)
    })?;
    show_trial(trial.as_ref(), arguments)?;
    telling(arguments, &target).tell(
        || Figures::of_extract(&report),
        || render::json::extract(&report),
        || {
            let told = trial.is_none().then_some(&target);
            if !report.matches.is_empty() {
                return render::extract::matches(&report, call, settings.judged_by(), told);
            }
            render::extract::summary(&report, call, settings.judged_by(), told, arguments.show_skipped)
        },
    )?;
    let [accept, review, reject] = report.verdicts;
    let what = if arguments.patterns.is_empty() { "address" } else { "match" };
    let is_nothing = accept + review + reject + report.matched() == 0;
    let nothing = common::warn_of_nothing(what, is_nothing, &arguments.output);
    let found = match &arguments.output.fail_on {
        None | Some(FailOn::Finding(_)) => false,
        Some(FailOn::NoneFound) => nothing,
        Some(FailOn::Reject) => reject > 0,
        Some(FailOn::Review) => reject + review > 0,
    };
    let told = found
        || report.undecoded_messages > 0
        || !report.troubles.is_empty()
        || !report.broken_off.is_empty();
    Ok(ExitCode::from(if told { exit::TOLD } else { exit::DONE }))
}

fn piece_options(arguments: &ExtractArguments) -> PieceOptions {
    let only = match &arguments.fields[..] {
        [] => vec![],
        fields => fields.iter().chain(&arguments.id).cloned().collect(),
    };
    PieceOptions {
        open: OpenOptions {
            chunk_bytes: arguments.machine.chunk_bytes.unwrap_or(PIECE),
            only,
            ..settings::reading_options(arguments.from, &arguments.reading, &arguments.machine)
        },
        overlap: REACH + usize::from(arguments.context),
        id: arguments.id.clone(),
        limits: Limits { deepest: arguments.deepest.into(), most_parts: arguments.most_parts },
    }
}

/// The records of a table once for each address in them.
struct RowsByRecord<'t> {
    settings: Settings,
    pieces: PieceOptions,
    look: Options,
    target: Target,
    trial: Option<&'t Trial>,
}

impl RowsByRecord<'_> {
    fn write(self, arguments: &ExtractArguments, call: &Call) -> Result<ExitCode> {
        let RowsByRecord { settings, pieces, look, target, trial } = self;
        if arguments.from.is_some_and(|format| !format.entry().uses.is_table) {
            return Err(Error::unusable(
                "only tables have records to repeat",
                "leave --row-per-address out: one row an address it is anyway",
            ));
        }
        let options = ByRecordOptions {
            sources: arguments.sources.clone(),
            pieces,
            fields: arguments.fields.clone(),
            policy: settings.policy.clone(),
            look,
            target: target.clone(),
            first: arguments.first,
            rows: RowSpec {
                format: trial::format_of(trial, arguments.to.and_then(RowFormatArgument::table)),
                ..settings.row_spec_of(&arguments.output, &arguments.machine)?
            },
            prefix: settings.prefix(&arguments.output),
            threads: settings::threads(&arguments.machine),
            hash_key: settings::hash_key(),
        };
        let report = progress_bar::watch(&options.sources, arguments.output.quiet, |progress| {
            extract::run_by_record(&options, progress)
        })?;
        show_trial(trial, arguments)?;
        telling(arguments, &target).tell(
            || Figures::of_records(&report),
            || render::json::by_record(&report),
            || {
                render::extract::by_record(
                    &report,
                    call,
                    settings.judged_by(),
                    trial.is_none().then_some(&target),
                )
            },
        )?;
        let nothing = common::warn_of_nothing("address", report.rows == 0, &arguments.output)
            && arguments.output.fail_on == Some(FailOn::NoneFound);
        Ok(ExitCode::from(if nothing { exit::TOLD } else { exit::DONE }))
    }
}

fn telling<'t>(arguments: &'t ExtractArguments, target: &Target) -> Telling<'t> {
    let beside = *target == Target::Standard;
    Telling { output: &arguments.output, beside, first: arguments.first }
}

fn show_trial(trial: Option<&Trial>, arguments: &ExtractArguments) -> Result<()> {
    let Some(trial) = trial else { return Ok(()) };
    let mut rows = trial.rows(trial::ROWS)?;
    if arguments.output.columns.is_empty() {
        rows.leave(|_| false, |_| false);
    }
    render::print(&render::trial::rows(&rows))
}

/// The format of the rows: as asked for, or as the name of the output says.
fn row_format(arguments: &ExtractArguments, target: &Target) -> Result<RowFormat> {
    let named = match target {
        Target::File { path, .. } => Format::named_by(path),
        Target::Standard | Target::Nowhere => None,
    };
    let table = match arguments.to {
        Some(RowFormatArgument::Plain) => return Ok(RowFormat::Plain),
        None if named == Some(Format::Text) => return Ok(RowFormat::Plain),
        Some(RowFormatArgument::Table(format)) => OutputFormat::of(format, TextLayout::default()),
        None => OutputFormat::default(),
    };
    Ok(match table.for_target(target, arguments.to.is_some())? {
        // What patterns fit has no more to it than the columns.
        table if !arguments.patterns.is_empty() => RowFormat::Table(table),
        OutputFormat::Other(Format::JsonLines) => RowFormat::Objects { in_array: false },
        OutputFormat::Other(Format::Json) => RowFormat::Objects { in_array: true },
        table => RowFormat::Table(table),
    })
}
