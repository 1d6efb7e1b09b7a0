//! `ypogram extract`: every address out of any text.

use std::path::Path;
use std::process::ExitCode;

use ypogram_core::text::{Options, Passed, REACH};
use ypogram_jobs::extract::{self, ByRecordOptions, ExtractOptions, RowFormat};
use ypogram_tables::csv::{Arrangement, Dialect};
use ypogram_tables::pieces::{Kind, PieceOptions};
use ypogram_tables::{Error, Format, Result, Target};

use crate::arguments::{ExtractArguments, FailOn, RowFormatArgument, TextFormat};
use crate::settings::{self, Settings};
use crate::trial::{self, Trial};
use crate::{exit, progress_bar, render};

/// Octets of a piece: they stay in the cache of a core while they are looked through more than once.
const PIECE: usize = 512 << 10;

pub(crate) fn run(arguments: &ExtractArguments) -> Result<ExitCode> {
    super::clean::refuse_addresses(&arguments.sources)?;
    let settings = Settings::without_sources(&arguments.judging)?;
    let trial = Trial::of(arguments.first)?;
    let target = trial::target_of(trial.as_ref(), &arguments.output);
    let pieces = PieceOptions {
        kind: arguments.from.map(kind_of),
        delimiter: arguments.reading.delimiter,
        header: arguments.reading.header(),
        sort_of: Some(ypogram_jobs::sort_of_cell),
        octets: arguments.machine.chunk_octets.unwrap_or(PIECE),
        overlap: REACH + usize::from(arguments.context),
        id: arguments.id.clone(),
        salvage: arguments.reading.salvage,
    };
    let look =
        Options { any_ending: arguments.any_ending, obfuscated: arguments.obfuscated, tell_hidden: true };
    if arguments.row_per_address {
        return by_record(arguments, settings, pieces, look, target, trial.as_ref());
    }
    let format = if trial.is_some() { RowFormat::Separated(b',') } else { row_format(arguments) };
    let is_table = matches!(format, RowFormat::Separated(_));
    if !arguments.output.columns.is_empty() && !is_table {
        return Err(Error::unusable(
            "--columns chooses columns, and the output has none",
            "write a table: --to csv",
        ));
    }
    let options = ExtractOptions {
        sources: arguments.sources.clone(),
        pieces,
        fields: arguments.fields.clone(),
        policy: settings.policy.clone(),
        look,
        format,
        arrangement: match is_table {
            true => settings::arrangement_of(&arguments.output.columns, &[])?,
            false => Arrangement::default(),
        },
        first: arguments.first,
        context: usize::from(arguments.context),
        unique: arguments.unique,
        show_skipped: arguments.show_skipped,
        target: target.clone(),
        threads: settings::threads(&arguments.machine),
        hash_key: settings::hash_key(),
    };
    let report = progress_bar::watch(&options.sources, arguments.output.quiet, |progress| {
        extract::run(&options, progress)
    })?;
    show_trial(trial.as_ref(), arguments)?;
    tell(arguments, &target, || match arguments.output.json {
        true => render::json::extract(&report),
        false => {
            let told = trial.is_none().then_some(&target);
            let mut text =
                render::extract::summary(&report, settings.judged_by(), told, arguments.show_skipped);
            let hidden = report.passed[Passed::Hidden as usize];
            text.push_str(&render::extract::hidden_step(hidden, "", &arguments.sources));
            text.extend(arguments.first.map(render::trial::note));
            text
        }
    })?;
    let [_, review, reject] = report.verdicts;
    let found = match arguments.output.fail_on {
        None => false,
        Some(FailOn::Reject) => reject > 0,
        Some(FailOn::Review) => reject + review > 0,
    };
    let told = found || !report.troubles.is_empty() || !report.broken_off.is_empty();
    Ok(ExitCode::from(if told { exit::TOLD } else { exit::DONE }))
}

fn by_record(
    arguments: &ExtractArguments,
    settings: Settings,
    pieces: PieceOptions,
    look: Options,
    target: Target,
    trial: Option<&Trial>,
) -> Result<ExitCode> {
    let format = match arguments.from {
        None => None,
        Some(TextFormat::Csv) => Some(Format::Csv),
        Some(TextFormat::Tsv) => Some(Format::Tsv),
        Some(TextFormat::Text) => Some(Format::Text),
        Some(_) => {
            return Err(Error::unusable(
                "only tables have records to repeat",
                "leave --row-per-address out: one row an address it is anyway",
            ));
        }
    };
    let options = ByRecordOptions {
        sources: arguments.sources.clone(),
        pieces,
        format,
        fields: arguments.fields.clone(),
        policy: settings.policy.clone(),
        look,
        target: target.clone(),
        first: arguments.first,
        arrangement: settings::arrangement_of(&arguments.output.columns, &[])?,
        prefix: settings.prefix(&arguments.output),
        threads: settings::threads(&arguments.machine),
        hash_key: settings::hash_key(),
    };
    let report = progress_bar::watch(&options.sources, arguments.output.quiet, |progress| {
        extract::run_by_record(&options, progress)
    })?;
    show_trial(trial, arguments)?;
    tell(arguments, &target, || match (arguments.output.json, arguments.first) {
        (true, _) => render::json::by_record(&report),
        (false, None) => {
            let step = render::extract::hidden_step(report.hidden, " --row-per-address", &arguments.sources);
            render::extract::by_record(&report, &target) + &step
        }
        (false, Some(first)) => render::trial::note(first),
    })?;
    Ok(ExitCode::from(exit::DONE))
}

fn show_trial(trial: Option<&Trial>, arguments: &ExtractArguments) -> Result<()> {
    let Some(trial) = trial else { return Ok(()) };
    let mut rows = trial.rows(trial::ROWS)?;
    if arguments.output.columns.is_empty() {
        rows.leave(|_| false, |_| false);
    }
    render::print(&render::trial::rows(&rows))
}

fn tell(arguments: &ExtractArguments, target: &Target, text: impl FnOnce() -> String) -> Result<()> {
    match target {
        _ if arguments.output.quiet => Ok(()),
        Target::Standard => {
            render::print_beside(&text());
            Ok(())
        }
        Target::File { .. } => render::print(&text()),
    }
}

fn kind_of(format: TextFormat) -> Kind {
    match format {
        TextFormat::Text => Kind::Text,
        TextFormat::Csv => Kind::Table { dialect: Dialect { delimiter: 0 }, fields: vec![] },
        TextFormat::Tsv => Kind::Table { dialect: Dialect { delimiter: b'\t' }, fields: vec![] },
        TextFormat::Html => Kind::Html,
        TextFormat::Json => Kind::Json,
        TextFormat::Jsonl => Kind::JsonLines,
        TextFormat::Eml => Kind::Mail,
        TextFormat::Mbox => Kind::Mailbox,
    }
}

fn row_format(arguments: &ExtractArguments) -> RowFormat {
    match arguments.to {
        Some(RowFormatArgument::Csv) => RowFormat::Separated(b','),
        Some(RowFormatArgument::Tsv) => RowFormat::Separated(b'\t'),
        Some(RowFormatArgument::Jsonl) => RowFormat::JsonLines,
        Some(RowFormatArgument::Plain) => RowFormat::Plain,
        None => match arguments.output.place.as_deref().and_then(Path::extension).and_then(|e| e.to_str()) {
            Some("tsv" | "tab") => RowFormat::Separated(b'\t'),
            Some("jsonl" | "ndjson") => RowFormat::JsonLines,
            Some("txt") => RowFormat::Plain,
            _ => RowFormat::Separated(b','),
        },
    }
}
