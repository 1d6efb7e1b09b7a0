//! `ypogram split`: the parts of addresses, names for a mail merge, and other delimited values, as columns.

use std::process::ExitCode;

use ypogram_core::Part;
use ypogram_io::{Error, Result, Target};
use ypogram_jobs::check::{self, Added, CheckOptions};
use ypogram_jobs::split::{NameOrders, SplitWanted};
use ypogram_jobs::{Composed, Cut};

use crate::arguments::SplitArguments;
use crate::call::Call;
use crate::commands::check::RecordArguments;
use crate::commands::common;
use crate::nearest_hint::nearest_hint;
use crate::render::figure_names::{self, Figures};
use crate::rulebook::Rulebook;
use crate::settings::Settings;
use crate::telling::Telling;
use crate::trial::{self, Trial};
use crate::{clashes, exit, progress_bar, render};

pub(crate) fn run(arguments: &SplitArguments, call: &Call) -> Result<ExitCode> {
    if arguments.list_parts {
        render::print(&render::split::parts())?;
        return Ok(ExitCode::from(exit::DONE));
    }
    common::refuse_addresses(&arguments.sources.sources)?;
    let settings = Settings::resolve(&arguments.sources, &arguments.judging)?;
    figure_names::check(arguments.output.figure.as_deref())?;
    common::check_fail_on(arguments.output.fail_on.as_ref(), true)?;
    let trial = Trial::of(arguments.sources.first)?;
    let target =
        trial::target_of(trial.as_ref(), &arguments.output, arguments.table.if_there(&arguments.output));
    let mut orders = settings.name_orders.clone();
    if let Some(order) = arguments.name_order {
        orders.otherwise = order.into();
    }
    let wanted = wanted(arguments, &settings.rulebook, orders)?;
    let mut rows = settings.row_spec(&arguments.output, &arguments.machine)?;
    rows.format = trial::format_of(trial.as_ref(), arguments.to);
    rows.changed.clone_from(&wanted.changed);
    let SplitArguments { sources, output, machine, .. } = arguments;
    let records = RecordArguments { sources, output, machine };
    let options = CheckOptions {
        added: Added::Parts(wanted.clone()),
        rows,
        ..super::check::options(&settings, records, arguments.show.as_deref(), &target)?
    };
    let (sources, quiet) = (&arguments.sources.sources, arguments.output.quiet);
    clashes::refuse(sources, &settings, &[&target])?;
    let report = progress_bar::watch(sources, quiet, |progress| check::run(options, progress))?;
    if let Some(trial) = &trial {
        let rows = match arguments.parts.is_empty() {
            true => trial.rows(trial::ROWS)?,
            false => super::check::shown_rows(trial, trial::ROWS, &report.plan, &arguments.output.columns)?,
        };
        render::print(&render::trial::rows(&rows))?;
    }
    let beside = target == Target::Standard && trial.is_none();
    let telling = Telling { output: &arguments.output, beside, first: arguments.sources.first };
    telling.tell(
        || Figures::of_check(&report),
        || render::json::split(&report, &wanted),
        || {
            let told = trial.is_none().then_some(&target);
            render::split::summary(&report, &wanted, call, settings.judged_by(), told)
        },
    )?;
    let fails = super::check::fails(&report, &arguments.output);
    Ok(ExitCode::from(if fails { exit::TOLD } else { exit::DONE }))
}

/// What the arguments and the rulebook ask for. Without parts, cuts and capitals it is local part and domain.
fn wanted(arguments: &SplitArguments, rulebook: &Rulebook, orders: NameOrders) -> Result<SplitWanted> {
    let cuts = arguments.cut.iter().map(|sentence| Cut::read(sentence, |name| rulebook.pattern_named(name)));
    let cuts = cuts.collect::<Result<Vec<_>>>()?.concat();
    let composed = arguments.compose.iter().map(|sentence| Composed::read(sentence));
    let composed = composed.collect::<Result<Vec<_>>>()?;
    let mut parts = arguments.parts.iter().map(|part| read_part(part)).collect::<Result<Vec<_>>>()?;
    if parts.is_empty() && cuts.is_empty() && composed.is_empty() && arguments.title_case.is_empty() {
        parts = vec![(Part::LocalPart, None), (Part::Domain, None)];
    }
    if arguments.replace && parts.is_empty() {
        return Err(Error::unusable(
            "--replace puts parts in the place of the address field, and no parts are named",
            "name them with --parts, such as --parts local-part,domain",
        ));
    }
    Ok(SplitWanted {
        parts,
        cuts,
        composed,
        changed: title_cased(&arguments.title_case),
        orders,
        persons: rulebook.fields.person.clone(),
        replace: arguments.replace,
        row_per_address: arguments.row_per_address,
    })
}

/// `local-part`, or `local-part=User`.
fn read_part(text: &str) -> Result<(Part, Option<String>)> {
    let (name, column) = match text.split_once('=') {
        Some((name, column)) => (name, Some(column.to_owned())),
        None => (text, None),
    };
    if column.as_deref() == Some("") {
        return Err(Error::unusable(format!("--parts {text}: the column has no name"), "write PART=COLUMN"));
    }
    let part = Part::from_name(name.trim()).ok_or_else(|| {
        let names: Vec<&str> = Part::ALL.iter().map(|part| part.name()).collect();
        let nearest = nearest_hint(name, names.iter().copied());
        Error::unusable(
            format!("an address has no part ‘{name}’"),
            format!("{nearest} The parts are: {}", names.join(", ")),
        )
    })?;
    Ok((part, column))
}

/// Fields whose names say that they hold family names keep a particle in front small.
fn title_cased(fields: &[String]) -> Vec<(String, ypogram_io::Change)> {
    fn plain(cell: &[u8]) -> Vec<u8> {
        change(cell, false)
    }
    fn family(cell: &[u8]) -> Vec<u8> {
        change(cell, true)
    }
    fn change(cell: &[u8], family: bool) -> Vec<u8> {
        match std::str::from_utf8(cell) {
            Ok(text) => ypogram_core::names::title_case(text, family).into_bytes(),
            Err(_) => cell.to_vec(),
        }
    }
    const FAMILY: [&str; 8] = ["last", "family", "sur", "nach", "achter", "apellido", "cognome", "nazwisko"];
    let change_of = |field: &String| -> ypogram_io::Change {
        let lower = field.to_lowercase();
        if FAMILY.iter().any(|word| lower.contains(word)) { family } else { plain }
    };
    fields.iter().map(|field| (field.clone(), change_of(field))).collect()
}
