//! `ypogram rules` about patterns: which there are, and trying them.

use std::path::Path;
use std::process::ExitCode;

use serde::Serialize;
use ypogram_core::{Policy, examine, ready_patterns};
use ypogram_io::{Error, Result};
use ypogram_jobs::{HousePattern, missed};

use crate::render::rules::ShownPattern;
use crate::{exit, render, rulebook};

/// Shows the patterns of those names; the rulebook's and the ready-made ones where none is named.
pub(super) fn show(names: &[String], rules: Option<&Path>, json: bool) -> Result<ExitCode> {
    let (rulebook, _) = rulebook::find(rules, false)?;
    let own = |name: &String| -> Result<ShownPattern> {
        let pattern = rulebook.pattern(name)?.pattern;
        Ok(match ready_patterns::named(name).filter(|_| !rulebook.patterns.contains_key(name)) {
            Some(ready) => ShownPattern::ready(&ready),
            None => ShownPattern::own(&pattern),
        })
    };
    let shown: Vec<ShownPattern> = match names.is_empty() {
        true => {
            let ready = ready_patterns::all().filter(|ready| !rulebook.patterns.contains_key(ready.name));
            let ready = ready.map(|ready| Ok(ShownPattern::ready(&ready)));
            rulebook.patterns.keys().map(own).chain(ready).collect::<Result<_>>()?
        }
        false => names.iter().map(own).collect::<Result<_>>()?,
    };
    render::print(&match (json, names.is_empty()) {
        (true, _) => render::json::lines(&shown),
        (false, true) => render::rules::patterns(&shown),
        (false, false) => render::rules::pattern_details(&shown),
    })?;
    Ok(ExitCode::from(exit::DONE))
}

/// What came of holding a value against patterns.
#[derive(Serialize)]
struct Tried {
    value: String,
    fits: bool,
    /// The first that it fits.
    pattern: Option<String>,
    /// How far it fits, where it fits none.
    why: Option<String>,
}

/// Holds values against patterns; exit code 1 where one fits none.
pub(super) fn try_values(
    names: &[String],
    rules: Option<&Path>,
    values: &[String],
    json: bool,
) -> Result<ExitCode> {
    let (rulebook, file) = rulebook::find(rules, false)?;
    let patterns = rulebook.patterns_named(names)?;
    if patterns.is_empty() {
        let place = file.as_ref().map_or_else(
            || "there is no rulebook".into(),
            |file| format!("{}: it keeps no patterns", file.display()),
        );
        return Err(Error::unusable(place, "put patterns under [patterns] in ypogram.toml"));
    }
    let words = rulebook.words.words(rulebook.patterns.keys(), file.as_deref())?;
    let mut all_fit = true;
    let (mut out, mut tried) = (String::new(), Vec::new());
    for value in values {
        let standard = examine(value.as_bytes(), &Policy::default()).standard;
        let standard = standard.map_or(value.clone(), |standard| standard.address);
        let fits = |wanted: &&HousePattern| wanted.fits(value.as_bytes(), standard.as_bytes());
        let fitting = patterns.iter().find(fits).map(|fitting| &fitting.pattern);
        all_fit &= fitting.is_some();
        let why = fitting.is_none().then(|| missed(&patterns, value.as_bytes(), standard.as_bytes()));
        let pattern = fitting.map(|fitting| fitting.name.clone());
        tried.push(Tried { value: value.clone(), fits: fitting.is_some(), pattern, why });
        let patterns: Vec<_> = patterns.iter().map(|wanted| &wanted.pattern).collect();
        out.push_str(&render::rules::tried(value, fitting, &patterns, &words));
    }
    render::print(&if json { render::json::lines(&tried) } else { out })?;
    Ok(ExitCode::from(if all_fit { exit::DONE } else { exit::TOLD }))
}
