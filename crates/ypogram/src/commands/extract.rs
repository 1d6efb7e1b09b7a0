//! `ypogram extract`: every address out of any text.

use std::path::Path;
use std::process::ExitCode;

use ypogram_core::text::{Options, REACH};
use ypogram_jobs::extract::{self, ByRecordOptions, ExtractOptions, RowFormat};
use ypogram_tables::csv::Dialect;
use ypogram_tables::pieces::{Kind, PieceOptions};
use ypogram_tables::{Error, Format, Result, Target};

use crate::arguments::{ExtractArguments, FailOn, RowFormatArgument, TextFormat};
use crate::commands::check::target_of;
use crate::settings::{self, Settings};
use crate::{exit, progress_bar, render};

/// Octets of a piece: they stay in the cache of a core while they are looked through more than once.
const PIECE: usize = 256 << 10;

pub(crate) fn run(arguments: &ExtractArguments) -> Result<ExitCode> {
    super::clean::refuse_addresses(&arguments.sources)?;
    let settings = Settings::without_sources(&arguments.judging)?;
    let target = target_of(arguments.output.as_ref(), arguments.force);
    let pieces = PieceOptions {
        kind: arguments.from.map(kind_of),
        delimiter: arguments.delimiter,
        header: !arguments.no_header,
        octets: arguments.machine.chunk_octets.unwrap_or(PIECE),
        overlap: REACH + usize::from(arguments.context),
        salvage: arguments.salvage,
    };
    let look = Options { any_ending: arguments.any_ending, obfuscated: arguments.obfuscated };
    if arguments.row_per_address {
        return by_record(arguments, settings, pieces, look, target);
    }
    let options = ExtractOptions {
        sources: arguments.sources.clone(),
        pieces,
        fields: arguments.fields.clone(),
        policy: settings.policy.clone(),
        look,
        format: row_format(arguments),
        context: usize::from(arguments.context),
        unique: arguments.unique,
        show_skipped: arguments.show_skipped,
        target: target.clone(),
        threads: settings::threads(&arguments.machine),
        hash_key: settings::hash_key(),
    };
    let report = progress_bar::watch(&options.sources, arguments.telling.quiet, |progress| {
        extract::run(&options, progress)
    })?;
    tell(arguments, &target, || match arguments.telling.json {
        true => render::json::extract(&report),
        false => render::extract::summary(&report, settings.judged_by(), &target, arguments.show_skipped),
    })?;
    let [_, review, reject] = report.verdicts;
    let found = match arguments.telling.fail_on {
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
        prefix: arguments.telling.prefix.clone().unwrap_or_else(|| settings.rulebook.output.prefix.clone()),
        threads: settings::threads(&arguments.machine),
        hash_key: settings::hash_key(),
    };
    let report = progress_bar::watch(&options.sources, arguments.telling.quiet, |progress| {
        extract::run_by_record(&options, progress)
    })?;
    tell(arguments, &target, || match arguments.telling.json {
        true => render::json::by_record(&report),
        false => render::extract::by_record(&report, &target),
    })?;
    Ok(ExitCode::from(exit::DONE))
}

fn tell(arguments: &ExtractArguments, target: &Target, text: impl FnOnce() -> String) -> Result<()> {
    match target {
        _ if arguments.telling.quiet => Ok(()),
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
        None => match arguments.output.as_deref().and_then(Path::extension).and_then(|e| e.to_str()) {
            Some("tsv" | "tab") => RowFormat::Separated(b'\t'),
            Some("jsonl" | "ndjson") => RowFormat::JsonLines,
            Some("txt") => RowFormat::Plain,
            _ => RowFormat::Separated(b','),
        },
    }
}
