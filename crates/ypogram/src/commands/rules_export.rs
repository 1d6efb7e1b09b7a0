//! `ypogram rules export`: the rule for entries, for the place where they are made.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use ypogram_core::entry_rule::Flavour;
use ypogram_core::{Code, Severity};
use ypogram_io::{EntryRefusal, Error, Result, SqlDialect, Target};
use ypogram_jobs::export::{self, ColumnOfEntries, EntryJudge, EntryPlace, ExportOptions};

use crate::arguments::{DialectArgument, FlavourArgument, PlaceArgument, RulesExportArguments};
use crate::nearest_hint::nearest_hint;
use crate::output_target::target_of;
use crate::settings::Settings;
use crate::{clashes, exit, render};

pub(super) fn run(arguments: &RulesExportArguments) -> Result<ExitCode> {
    let mut settings = Settings::without_sources(&arguments.judging)?;
    let options = options(arguments, &mut settings)?;
    let targets: Vec<&Target> = options.values.iter().chain([&options.target]).collect();
    clashes::refuse(&[], &settings, &targets)?;
    let report = export::run(&options)?;
    if options.target == Target::Standard {
        render::print_beside(&render::rules_export::beside(&report, &options));
    } else if arguments.json {
        render::print(&render::json::exported(&report))?;
    } else {
        render::print(&render::rules_export::summary(&report, &options))?;
    }
    Ok(ExitCode::from(exit::DONE))
}

fn options(arguments: &RulesExportArguments, settings: &mut Settings) -> Result<ExportOptions> {
    let house = settings.take_house(&arguments.house)?;
    let selection = settings.take_selection(&arguments.selection)?;
    let patterns = arguments.pattern.of(&settings.rulebook)?;
    let mut policy = settings.policy.clone();
    for name in &arguments.let_pass {
        let code = Code::from_name(name).ok_or_else(|| {
            let names = Code::all().map(Code::name);
            Error::unusable(format!("--let-pass: there is no finding ‘{name}’"), nearest_hint(name, names))
        })?;
        let set = policy.set_severity(code, Severity::Note);
        set.map_err(|error| Error::unusable(format!("--let-pass: {}", error.0), "leave it out"))?;
    }
    let xlsx = &settings.rulebook.output.xlsx;
    let resolved = serde_json::json!({
        "rulebook": settings.resolved(),
        "lists": settings.lists.reports,
        "patterns": arguments.pattern.names,
        "let-pass": arguments.let_pass,
    });
    Ok(ExportOptions {
        place: place(arguments)?,
        judge: EntryJudge::new(&policy, selection, house, patterns),
        refusal: EntryRefusal {
            title: xlsx.title.clone(),
            message: xlsx.message.clone(),
            ..EntryRefusal::default()
        },
        cell: cell(arguments)?,
        target: target_of(arguments.output.as_ref(), arguments.force),
        values: arguments.test_values.as_ref().map(|path| target_of(Some(path), arguments.force)),
        count: arguments.test_count,
        rulebook: settings.rulebook_file.clone(),
        resolved,
        version: env!("CARGO_PKG_VERSION").into(),
    })
}

fn place(arguments: &RulesExportArguments) -> Result<EntryPlace> {
    let is_workbook =
        |path: &PathBuf| path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("xlsx"));
    if let Some(path) = arguments.output.as_ref().filter(|path| path.as_path() != Path::new("-"))
        && (arguments.place == PlaceArgument::Xlsx) != is_workbook(path)
    {
        return Err(match arguments.place {
            PlaceArgument::Xlsx => Error::unusable(
                format!("{}: the name of a workbook ends with .xlsx", path.display()),
                "name it so, or leave -o out for the formula",
            ),
            _ => Error::unusable(
                format!("{}: only --for xlsx writes a workbook", path.display()),
                "give the file another name",
            ),
        });
    }
    let of_others = [
        ("--flavour", arguments.flavour.is_some(), PlaceArgument::Regex),
        ("--dialect", arguments.dialect.is_some(), PlaceArgument::Sql),
        ("--column", arguments.column.is_some(), PlaceArgument::Sql),
        ("--table", arguments.table.is_some(), PlaceArgument::Sql),
        ("--key-column", arguments.key_column.is_some(), PlaceArgument::Sql),
        ("--cell", arguments.cell.is_some(), PlaceArgument::Xlsx),
    ];
    if let Some((option, _, of)) = of_others.iter().find(|(_, given, of)| *given && *of != arguments.place) {
        let of = format!("{of:?}").to_lowercase();
        return Err(Error::unusable(
            format!("{option} is of no use here"),
            format!("it goes with --for {of}"),
        ));
    }
    Ok(match arguments.place {
        PlaceArgument::Html => EntryPlace::Html,
        PlaceArgument::JsonSchema => EntryPlace::JsonSchema,
        PlaceArgument::Xlsx => EntryPlace::Xlsx,
        PlaceArgument::Regex => EntryPlace::Regex(match arguments.flavour {
            Some(FlavourArgument::Ecmascript) => Flavour::EcmaScript,
            Some(FlavourArgument::Pcre) | None => Flavour::Pcre,
        }),
        PlaceArgument::Sql => {
            let column = arguments.column.clone().unwrap_or_else(|| "email".to_owned());
            EntryPlace::Sql(ColumnOfEntries {
                sql: match arguments.dialect {
                    Some(DialectArgument::Sqlite) => SqlDialect::Sqlite,
                    Some(DialectArgument::Postgres) => SqlDialect::Postgres,
                    Some(DialectArgument::Mariadb) => SqlDialect::MariaDb,
                    None => {
                        return Err(Error::unusable(
                            "--for sql needs to know whose SQL",
                            "add --dialect sqlite, postgres or mariadb",
                        ));
                    }
                },
                table: arguments.table.clone(),
                key_column: arguments.key_column.clone().unwrap_or_else(|| format!("{column}_key")),
                column,
            })
        }
    })
}

/// The cell of a sheet, as in `D2`.
fn cell(arguments: &RulesExportArguments) -> Result<String> {
    let cell = arguments.cell.as_deref().unwrap_or("A2").to_uppercase();
    let (column, row) = cell.split_at(cell.find(|c: char| !c.is_ascii_uppercase()).unwrap_or(cell.len()));
    let is_cell =
        (1..=3).contains(&column.len()) && row.parse().is_ok_and(|row| (1..=1_048_576).contains(&row));
    if !is_cell {
        return Err(Error::unusable(format!("--cell: ‘{cell}’ is no cell"), "name one as in D2"));
    }
    Ok(cell)
}
