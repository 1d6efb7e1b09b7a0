//! `ypogram links`: who shares what.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use ypogram_io::{Error, GraphFormat, Output, Result, Target};
use ypogram_jobs::links::{self, GraphTarget, LinksOptions, LinksReport};

use crate::arguments::{FailOn, LinksArguments, OutputArguments};
use crate::call::Call;
use crate::commands::common;
use crate::output_target::target_of;
use crate::render::figure_names::{self, Figures};
use crate::render::page;
use crate::settings::{self, Settings};
use crate::telling::Telling;
use crate::{clashes, exit, progress_bar, render};

/// Nodes of the picture at most: more cannot be read.
const DRAWN: usize = 200;

pub(crate) fn run(arguments: &LinksArguments, call: &Call) -> Result<ExitCode> {
    common::refuse_addresses(&arguments.sources.sources)?;
    arguments.page.check(false)?;
    refuse_what_is_of_rows(arguments)?;
    let settings = Settings::resolve(&arguments.sources, &arguments.judging)?;
    let output = &arguments.output;
    figure_names::check(output.figure.as_deref())?;
    common::check_fail_on(output.fail_on.as_ref(), false)?;
    let graph = graph_target(arguments, &settings)?;
    let html = arguments.page.html.as_ref().map(|path| target_of(Some(path), output.force));
    let targets: Vec<&Target> = targets_of(&graph).into_iter().chain(&html).collect();
    clashes::refuse(&arguments.sources.sources, &settings, &targets)?;
    let mut page = html.as_ref().map(Target::open).transpose()?;
    let options = LinksOptions {
        sources: arguments.sources.sources.clone(),
        open: settings::open_options(&arguments.sources, &arguments.machine),
        fields: settings.fields.clone(),
        policy: settings.policy.clone(),
        by: arguments.by.clone(),
        behind: arguments.behind.clone(),
        graph,
        drawn: if page.is_some() { DRAWN } else { 0 },
        memory: arguments.machine.memory,
        threads: settings::threads(&arguments.machine),
        hash_key: settings::hash_key(),
    };
    let read = &options.sources;
    let report = progress_bar::watch(read, output.quiet, |progress| links::run(&options, progress))?;
    let is_missing = options.behind.is_some() && report.behind.is_none();
    if let Some(mut page) = page.take().filter(|_| !is_missing) {
        let drawn = page::links(&report, &options, arguments.page.with_records);
        page.write(page::html(&drawn).as_bytes())?;
        Output::finish(page)?;
    }
    Telling { output, beside: arguments.is_to_standard_output(), first: arguments.sources.first }.tell(
        || Figures::of_links(&report),
        || render::json::links(&report),
        || render::links::summary(&report, &options, call, settings.judged_by()),
    )?;
    let fails = is_missing || fails(&report, output);
    Ok(ExitCode::from(if fails { exit::TOLD } else { exit::DONE }))
}

fn refuse_what_is_of_rows(arguments: &LinksArguments) -> Result<()> {
    let output = &arguments.output;
    if !output.columns.is_empty() || !output.sort_by.is_empty() {
        return Err(Error::unusable(
            "--columns and --sort-by are about rows of records, and links writes a graph",
            "leave them out",
        ));
    }
    if arguments.sources.first.is_some() && (output.place.is_some() || arguments.page.html.is_some()) {
        return Err(Error::unusable(
            "--first is a trial, and a trial writes nothing",
            "leave out --first, or -o and --html",
        ));
    }
    Ok(())
}

/// Where the graph goes: into one file, or into a table of nodes and one of edges beside the name that was given.
fn graph_target(arguments: &LinksArguments, settings: &Settings) -> Result<GraphTarget> {
    let output = &arguments.output;
    let Some(path) = &output.place else { return Ok(GraphTarget::Nowhere) };
    let target = target_of(Some(path), output.force);
    if target == Target::Standard {
        return Ok(GraphTarget::File(target, arguments.to.into()));
    }
    // A device, such as /dev/null, takes a single stream.
    let is_stream = path.metadata().is_ok_and(|there| !there.is_file() && !there.is_dir());
    if is_stream {
        return Ok(GraphTarget::File(target, arguments.to.into()));
    }
    if let Some(format) = GraphFormat::of(path) {
        return Ok(GraphTarget::File(target, format));
    }
    let beside = |what: &str| target_of(Some(&named(path, what)), output.force);
    let rows = settings.row_spec_of(output, &arguments.machine)?;
    Ok(GraphTarget::Tables { nodes: beside("nodes"), edges: beside("edges"), rows })
}

/// `links-nodes.csv` beside `links.csv`.
fn named(path: &Path, what: &str) -> PathBuf {
    let stem = path.file_stem().unwrap_or_default().to_string_lossy();
    let extension = path.extension().map_or("csv".into(), |extension| extension.to_string_lossy());
    path.with_file_name(format!("{stem}-{what}.{extension}"))
}

fn targets_of(graph: &GraphTarget) -> Vec<&Target> {
    match graph {
        GraphTarget::Nowhere => Vec::new(),
        GraphTarget::File(target, _) => vec![target],
        GraphTarget::Tables { nodes, edges, .. } => vec![nodes, edges],
    }
}

fn fails(report: &LinksReport, output: &OutputArguments) -> bool {
    let nothing = common::warn_of_nothing("address", report.addresses == 0, output);
    let broke_off = report.sources.iter().any(|source| source.broken_off.is_some());
    broke_off || output.fail_on == Some(FailOn::NoneFound) && nothing
}

impl LinksArguments {
    fn is_to_standard_output(&self) -> bool {
        self.output.place.as_deref() == Some(Path::new("-"))
    }
}
