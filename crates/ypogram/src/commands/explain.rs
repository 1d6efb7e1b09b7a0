//! `ypogram explain`: everything about an address.

use std::path::Path;
use std::process::ExitCode;

use ypogram_core::Verdict;
use ypogram_io::{Error, Result};
use ypogram_jobs::{BesideAddress, JudgedAddress};

use crate::arguments::ExplainArguments;
use crate::dns::{self, Dns};
use crate::render::explain::Held;
use crate::render::words::for_shell;
use crate::settings::Settings;
use crate::{exit, render};

/// A file that is there, and no address, is one to be checked.
fn refuse_files(arguments: &ExplainArguments) -> Result<()> {
    let names = arguments.addresses.iter().map(|value| value.to_string_lossy());
    let file = names.into_iter().find(|name| !name.contains('@') && Path::new(&**name).exists());
    file.map_or(Ok(()), |file| {
        let quoted = for_shell(&file);
        Err(Error::unusable(
            format!("‘{file}’ is a file, and explain takes addresses"),
            format!(
                "to see what is in it: ypogram survey {quoted}; what is wrong with each address: ypogram check {quoted}"
            ),
        ))
    })
}

pub(crate) fn run(arguments: &ExplainArguments) -> Result<ExitCode> {
    let mut settings = Settings::without_sources(&arguments.judging)?;
    settings.policy.as_typed = arguments.as_typed;
    refuse_files(arguments)?;
    let values: Vec<&[u8]> = arguments.addresses.iter().map(|value| value.as_encoded_bytes()).collect();
    dns::settle_one_by_one(&mut settings, &arguments.dns, &values)?;
    let house = settings.take_house(&arguments.house)?;
    let patterns = arguments.patterns.of(&settings.rulebook)?;
    let name = |name: &Option<String>| name.clone().unwrap_or_default();
    let beside =
        BesideAddress { given: name(&arguments.given), family: name(&arguments.family), fields: Vec::new() };
    if house.is_empty() && beside != BesideAddress::default() {
        return Err(Error::unusable(
            "--given and --family are held against a house format, and there is none",
            "give one with --house, or write it under [house] in the rulebook; see docs/house.md",
        ));
    }
    let mut judged = Vec::new();
    for value in values {
        for (mut address, examined) in JudgedAddress::all_in(value, &settings.policy) {
            let pattern = address.hold_against_patterns(value, &patterns, &settings.policy);
            let house = address.hold_against_house(&house, &beside, &settings.policy);
            let held = Held { pattern: (!patterns.is_empty()).then_some(pattern), house };
            judged.push((address, examined, held));
        }
    }
    let is_usable = |judged: &JudgedAddress| judged.verdict.is_some_and(Verdict::is_usable);
    let all_usable = judged.iter().all(|(judged, ..)| is_usable(judged));
    render::print(&match arguments.json {
        true => render::json::explained(&judged, &settings.policy, &settings.name_orders),
        false => render::explain::all(&judged, &settings.policy, &settings.name_orders, settings.judged_by()),
    })?;
    settings.dns.as_ref().map_or(Ok(()), Dns::keep)?;
    Ok(ExitCode::from(if all_usable { exit::DONE } else { exit::TOLD }))
}
