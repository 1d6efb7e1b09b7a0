//! `ypogram rules` about the house's own address format: trying it, describing it, learning it.

use std::path::Path;
use std::process::ExitCode;

use ypogram_core::examine;
use ypogram_io::{Error, OpenOptions, Result};
use ypogram_jobs::learn_house::{self, LearnOptions};
use ypogram_jobs::{BesideAddress, HouseFormats};

use crate::arguments::{JudgingArguments, LearnHouseArguments};
use crate::commands::common;
use crate::house::HouseArguments;
use crate::render::house as shown;
use crate::settings::{self, Settings};
use crate::{exit, progress_bar, render};

/// The formats that were given, else those of the rulebook.
fn formats(rules: Option<&Path>, given: &[String]) -> Result<(Settings, HouseFormats)> {
    let judging = JudgingArguments { rules: rules.map(Path::to_path_buf), ..JudgingArguments::default() };
    let mut settings = Settings::without_sources(&judging)?;
    let formats = given.iter().filter(|format| !format.is_empty()).cloned().collect();
    let formats = settings.take_house(&HouseArguments { formats })?;
    if formats.is_empty() {
        return Err(Error::unusable(
            "the rulebook has no house format",
            "give one behind --house, or write it under [house] as format = '…'; docs/house.md has the notation",
        ));
    }
    Ok((settings, formats))
}

/// Holds addresses against formats; exit code 1 where one does not fit.
pub(super) fn try_addresses(
    rules: Option<&Path>,
    house: &[String],
    [given, family]: [String; 2],
    addresses: &[String],
    json: bool,
) -> Result<ExitCode> {
    let (settings, formats) = formats(rules, house)?;
    let beside = BesideAddress { given, family, fields: Vec::new() };
    let (mut all_fit, mut out, mut tried) = (true, String::new(), Vec::new());
    for address in addresses {
        let standard =
            examine(address.as_bytes(), &settings.policy).standard.map(|standard| standard.address);
        let text = standard.as_deref().unwrap_or(address);
        let verdict = formats.judge(text, &beside);
        all_fit &= verdict.as_ref().is_some_and(|verdict| verdict.fits());
        tried.push(serde_json::json!({
            "value": address,
            "fits": verdict.as_ref().is_some_and(|verdict| verdict.fits()),
            "house": verdict.as_ref().map(|verdict| verdict.words()),
            "house_proposal": verdict.as_ref().and_then(|verdict| verdict.proposal.clone()),
        }));
        out.push_str(&shown::tried(text, verdict.as_ref()));
    }
    render::print(&if json { render::json::lines(&tried) } else { out })?;
    Ok(ExitCode::from(if all_fit { exit::DONE } else { exit::TOLD }))
}

/// Says what formats and patterns accept.
pub(super) fn describe(rules: Option<&Path>, house: &[String], patterns: &[String]) -> Result<ExitCode> {
    let mut all = Vec::new();
    if !house.is_empty() {
        let (_, formats) = formats(rules, house)?;
        all.extend(formats.formats.iter().map(shown::described));
    }
    if !patterns.is_empty() {
        let (rulebook, _) = crate::rulebook::find(rules, false)?;
        let patterns = rulebook.patterns_named(patterns)?;
        all.extend(patterns.iter().map(|wanted| shown::described_pattern(&wanted.pattern)));
    }
    render::print(&all.join("\n"))?;
    Ok(ExitCode::from(exit::DONE))
}

/// Finds the format that most addresses of each domain follow.
pub(super) fn learn(arguments: &LearnHouseArguments) -> Result<ExitCode> {
    common::refuse_addresses(&arguments.sources.sources)?;
    let settings = Settings::resolve(&arguments.sources, &arguments.judging)?;
    let section = &settings.rulebook.house;
    let options = LearnOptions {
        sources: arguments.sources.sources.clone(),
        open: OpenOptions {
            fingerprint: false,
            ..settings::open_options(&arguments.sources, &arguments.machine)
        },
        fields: settings.fields.clone(),
        policy: settings.policy.clone(),
        fold: section.fold,
        names: HouseFormats {
            given: arguments.given.clone().or_else(|| section.given.clone()),
            family: arguments.family.clone().or_else(|| section.family.clone()),
            persons: settings.rulebook.fields.person.clone(),
            ..HouseFormats::default()
        },
        at_least: arguments.at_least,
        threads: settings::threads(&arguments.machine),
    };
    let report =
        progress_bar::watch(&options.sources, false, |progress| learn_house::run(&options, progress))?;
    render::print(&match arguments.json {
        true => render::json::learned(&report),
        false => shown::learned(&report, &options.sources, arguments.full),
    })?;
    Ok(ExitCode::from(exit::DONE))
}
