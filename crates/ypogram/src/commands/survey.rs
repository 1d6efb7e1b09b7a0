//! `ypogram survey`: what is in the sources, before anything is touched.

use std::path::{Path, PathBuf};
use std::process::ExitCode;
use ypogram_core::Verdict;

use ypogram_io::{Error, IfThere, Output, Result, Target};
use ypogram_jobs::check::{self, Added, CheckOptions};
use ypogram_jobs::survey::{self, FieldFigures, SurveyOptions, SurveyReport};
use ypogram_jobs::{Conditions, LAYOUT, Progress};

use crate::arguments::{FailOn, OutputArguments, SurveyArguments};
use crate::call::Call;
use crate::commands::check::RecordArguments;
use crate::commands::common;
use crate::output_target::target_of;
use crate::render::figure_names::{self, Figures};
use crate::render::page::{self, Examples};
use crate::render::survey::Called;
use crate::settings::{self, Settings};
use crate::telling::Telling;
use crate::trial::{self, Trial};
use crate::{clashes, exit, progress_bar, render};

pub(crate) fn run(arguments: &SurveyArguments, call: &Call) -> Result<ExitCode> {
    common::refuse_addresses(&arguments.sources.sources)?;
    let settings = Settings::resolve(&arguments.sources, &arguments.judging)?;
    if arguments.show.is_some() || arguments.label.is_some() {
        return write_records(arguments, &settings);
    }
    arguments.page.check(false)?;
    figure_names::check(arguments.output.figure.as_deref())?;
    common::check_fail_on(arguments.output.fail_on.as_ref(), true)?;
    if !arguments.output.columns.is_empty() || !arguments.output.sort_by.is_empty() {
        return Err(Error::unusable(
            "--columns and --sort-by are for the records of --show or --label",
            "name the records with --show, or leave them out",
        ));
    }
    if arguments.output.place.is_some() {
        return Err(Error::unusable(
            "-o is for the records of --show or --label",
            "keep the survey with --save FILE, or write a page with --html FILE",
        ));
    }
    let targets = [&arguments.save, &arguments.page.html].into_iter().flatten();
    let targets: Vec<Target> = targets.map(|path| target_of(Some(path), arguments.output.force)).collect();
    let read: Vec<PathBuf> = arguments.sources.sources.iter().chain(&arguments.against).cloned().collect();
    clashes::refuse(&read, &settings, &targets.iter().collect::<Vec<_>>())?;
    let mut outputs = targets.iter().map(Target::open).collect::<Result<Vec<_>>>()?;
    let mut options = SurveyOptions {
        sources: arguments.sources.sources.clone(),
        open: settings::open_options(&arguments.sources, &arguments.machine),
        fields: settings.fields.clone(),
        policy: settings.policy.clone(),
        only: settings.conditions(arguments.only.as_deref())?,
        patterns: arguments.patterns.of(&settings.rulebook)?,
        field_rules: settings.rulebook.field_rules()?,
        memory: arguments.machine.memory / 2,
        fine: arguments.fine,
        threads: settings::threads(&arguments.machine),
    };
    // One watch over both, since there is one keyboard.
    let mut sources = options.sources.clone();
    sources.extend(arguments.against.clone());
    let (report, other, examples) = progress_bar::watch(&sources, arguments.output.quiet, |progress| {
        let report = survey::run(&options, progress)?;
        let examples = match arguments.page.with_records {
            true => examples(&options, &report, &settings, progress)?,
            false => Examples::default(),
        };
        let other = match &arguments.against {
            None => None,
            Some(path) => Some(match saved(path)? {
                Some(saved) => saved,
                None => {
                    options.sources = vec![path.clone()];
                    survey::run(&options, progress)?
                }
            }),
        };
        Ok((report, other, examples))
    })?;
    let kept = arguments.save.is_some().then(|| render::json::survey(&report));
    let page = || page::html(&page::survey(&report, &settings.policy.words, &examples));
    let page = arguments.page.html.is_some().then(page);
    for (output, text) in outputs.iter_mut().zip(kept.into_iter().chain(page)) {
        output.write(text.as_bytes())?;
    }
    Output::finish_all(outputs)?;
    tell(arguments, &settings, call, &report, other.as_ref())?;
    Ok(ExitCode::from(if fails(&report, &arguments.output) { exit::TOLD } else { exit::DONE }))
}

/// The first records behind each figure of the page.
fn examples(
    options: &SurveyOptions,
    report: &SurveyReport,
    settings: &Settings,
    progress: &Progress,
) -> Result<Examples> {
    let (names, conditions): (Vec<String>, Vec<String>) = page::figures_of_survey(report).into_iter().unzip();
    let wanted = conditions.iter().filter_map(|condition| settings.conditions(Some(condition)).transpose());
    let wanted = wanted.collect::<Result<Vec<_>>>()?;
    let (fields, behind) = survey::records_behind(options, &wanted, page::MOST_RECORDS, progress)?;
    let sources = report.sources.iter().map(|source| source.name.clone()).collect();
    Ok(Examples::of(names.into_iter().zip(behind).collect(), &fields, sources))
}

fn tell(
    arguments: &SurveyArguments,
    settings: &Settings,
    call: &Call,
    report: &SurveyReport,
    other: Option<&SurveyReport>,
) -> Result<()> {
    let output = &arguments.output;
    Telling { output, beside: false, first: None }.tell(
        || Figures::of_survey(report),
        || match other {
            Some(other) => render::json::surveys(report, other),
            None => render::json::survey(report),
        },
        || match other {
            Some(other) => render::survey_against::summary(report, other),
            None => {
                let named_fields = &settings.fields;
                let called = Called { call, by: settings.judged_by(), named_fields, rare: arguments.rare };
                render::survey::summary(report, &called)
            }
        },
    )
}

/// The survey kept in the file at `path`; none where it is no survey.
fn saved(path: &Path) -> Result<Option<SurveyReport>> {
    if !path.extension().is_some_and(|extension| extension.eq_ignore_ascii_case("json")) {
        return Ok(None);
    }
    let text =
        std::fs::read_to_string(path).map_err(|error| Error::reading(&path.display().to_string(), &error))?;
    let unusable = |why: String| {
        Error::unusable(
            format!("{}: {why}", path.display()),
            "keep one with `ypogram survey FILE --save survey.json`",
        )
    };
    let json: serde_json::Value = serde_json::from_str(&text)
        .map_err(|error| unusable(format!("this is not a saved survey: {error}")))?;
    match json["layout"].as_u64() {
        Some(layout) if layout != u64::from(LAYOUT) => Err(unusable(format!(
            "another version saved this survey, in layout {layout}; this one reads {LAYOUT}"
        ))),
        _ => serde_json::from_value(json)
            .map(Some)
            .map_err(|error| unusable(format!("this is not a saved survey: {error}"))),
    }
}

/// The records behind a figure, or all with the kind of one field.
fn write_records(arguments: &SurveyArguments, settings: &Settings) -> Result<ExitCode> {
    let trial = Trial::of(arguments.sources.first)?;
    let target =
        trial::target_of(trial.as_ref(), &arguments.output, IfThere::of_force(arguments.output.force));
    let SurveyArguments { sources, output, machine, .. } = arguments;
    let records = RecordArguments { sources, output, machine };
    let options = CheckOptions {
        rows: settings.row_spec_of(&arguments.output, &arguments.machine)?,
        added: arguments.label.clone().map_or(Added::Place, Added::KindOf),
        ..super::check::options(settings, records, None, &target)?
    };
    // What is in the file is shown as it is, whatever was decided about it.
    let field_rules = settings.rulebook.field_rules()?;
    let show = shown(arguments, settings)?;
    let options = CheckOptions { show, field_rules, remembered: None, ..options };
    clashes::refuse(&options.sources, settings, &[&target])?;
    let quiet = arguments.output.quiet;
    let report =
        progress_bar::watch(&arguments.sources.sources, quiet, |progress| check::run(options, progress))?;
    if let Some(trial) = &trial {
        render::print(&render::trial::rows(&trial.rows(trial::ROWS)?))?;
        let first = arguments.sources.first.expect("it is a trial");
        render::print(&render::trial::note(first))?;
    } else if !quiet {
        let text =
            render::survey::written(report.written, report.records, arguments.show.as_deref(), &target);
        match target {
            Target::Standard => render::print_beside(&text),
            Target::Nowhere | Target::File { .. } => render::print(&text)?,
        }
    }
    let broke_off = report.sources.iter().any(|source| source.broken_off.is_some());
    Ok(ExitCode::from(if broke_off { exit::TOLD } else { exit::DONE }))
}

/// The records that are surveyed and those to be shown.
fn shown(arguments: &SurveyArguments, settings: &Settings) -> Result<Option<Conditions>> {
    let only = settings.conditions(arguments.only.as_deref())?;
    let show = settings.conditions(arguments.show.as_deref())?;
    Ok(match (only, show) {
        (Some(only), Some(show)) => Some(only.and(show)),
        (only, show) => only.or(show),
    })
}

fn fails(report: &SurveyReport, output: &OutputArguments) -> bool {
    let [review, reject] = [Verdict::Review, Verdict::Reject].map(|verdict| report.counts.of(verdict));
    let nothing =
        common::warn_of_nothing("address", report.counts.no_address == report.counts.records, output);
    let broke_off = report.sources.iter().any(|source| source.broken_off.is_some());
    broke_off
        || match &output.fail_on {
            None => false,
            Some(FailOn::NoneFound) => nothing,
            Some(FailOn::Reject) => reject > 0,
            Some(FailOn::Review) => review + reject > 0,
            Some(FailOn::Finding(name)) => {
                let of_field = |field: &FieldFigures| {
                    field
                        .faults
                        .iter()
                        .any(|fault| fault.count > 0 && *name == format!("field-{}", fault.name))
                };
                report.findings.iter().any(|finding| finding.code == *name)
                    || report.fields.iter().any(of_field)
            }
        }
}
