//! `ypogram rules`: the findings in force, and the rulebook.

use crate::render::json::RulebookCounts;
use std::path::Path;
use std::process::ExitCode;

use ypogram_core::Code;
use ypogram_io::{Error, IfThere, Result, Target};

use crate::arguments::{JudgingArguments, RulesArguments, RulesCommand};
use crate::commands::{rules_export, rules_house, rules_patterns};
use crate::nearest_hint::nearest_hint;
use crate::settings::Settings;
use crate::{exit, render};

/// A rulebook to start from.
const START: &str = include_str!("../../data/ypogram-start.toml");

pub(crate) fn run(arguments: &RulesArguments) -> Result<ExitCode> {
    match &arguments.command {
        None => show(arguments),
        Some(RulesCommand::Start { file }) => start(file),
        Some(RulesCommand::Check { file, json }) => check(file, *json),
        Some(RulesCommand::Try { house, given, family, rules, values, json, .. }) if !house.is_empty() => {
            let name = |name: &Option<String>| name.clone().unwrap_or_default();
            rules_house::try_addresses(rules.as_deref(), house, [name(given), name(family)], values, *json)
        }
        Some(RulesCommand::Try { pattern, rules, values, json, .. }) => {
            rules_patterns::try_values(pattern, rules.as_deref(), values, *json)
        }
        Some(RulesCommand::Patterns { names, rules, json }) => {
            rules_patterns::show(names, rules.as_deref(), *json)
        }
        Some(RulesCommand::Describe { house, pattern, rules }) => {
            rules_house::describe(rules.as_deref(), house, pattern)
        }
        Some(RulesCommand::Export(arguments)) => rules_export::run(arguments),
        Some(RulesCommand::LearnHouse(arguments)) => rules_house::learn(arguments),
    }
}

fn show(arguments: &RulesArguments) -> Result<ExitCode> {
    let settings = Settings::without_sources(&arguments.judging)?;
    let code = |name: &String| {
        let names = || Code::all().map(Code::name);
        Code::from_name(name).ok_or_else(|| {
            Error::unusable(format!("there is no finding ‘{name}’"), nearest_hint(name, names()))
        })
    };
    let codes = arguments.codes.iter().map(code).collect::<Result<Vec<_>>>()?;
    render::print(&match (arguments.json, &codes[..]) {
        (true, []) => render::json::rules(&Code::all().collect::<Vec<_>>(), &settings.policy),
        (true, codes) => render::json::rules(codes, &settings.policy),
        (false, []) => render::rules::table(&settings.policy, settings.rulebook_file.as_deref()),
        (false, codes) => render::rules::details(codes, &settings.policy),
    })?;
    Ok(ExitCode::from(exit::DONE))
}

fn start(file: &Path) -> Result<ExitCode> {
    let mut output = Target::File { path: file.to_path_buf(), if_there: IfThere::Refuse }.open()?;
    output.write(START.as_bytes())?;
    output.finish()?;
    render::print(&format!(
        "{} is written; every setting in it is explained and switched off. Commands run beside it go by it.\n",
        file.display()
    ))?;
    Ok(ExitCode::from(exit::DONE))
}

fn check(file: &Path, json: bool) -> Result<ExitCode> {
    let judging = JudgingArguments { rules: Some(file.to_path_buf()), ..JudgingArguments::default() };
    let Settings { rulebook, list_specs, .. } = Settings::without_sources(&judging)?;
    let patterns = rulebook.patterns_named(&[])?.len();
    rulebook.field_rules()?;
    ypogram_jobs::Selection::read(
        &rulebook.selection.only,
        &rulebook.selection.without,
        rulebook.domains.certainty,
    )?;
    if json {
        let counts = RulebookCounts {
            severities: rulebook.severity.len(),
            patterns,
            lists: list_specs.len(),
            jobs: rulebook.job.len(),
        };
        render::print(&render::json::rulebook_checked(&file.display().to_string(), counts))?;
        return Ok(ExitCode::from(exit::DONE));
    }
    let changed = render::words::counted(rulebook.severity.len() as u64, "severity", "severities");
    let patterns = render::words::counted(patterns as u64, "pattern", "patterns");
    let lists = render::words::counted(list_specs.len() as u64, "list", "lists");
    render::print(&format!(
        "{}: understood; it changes {changed}, and keeps {patterns} and {lists}\n",
        file.display()
    ))?;
    Ok(ExitCode::from(exit::DONE))
}
