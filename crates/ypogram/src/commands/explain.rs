//! `ypogram explain`: everything about an address.

use std::process::ExitCode;

use ypogram_core::Verdict;
use ypogram_io::Result;
use ypogram_jobs::JudgedAddress;

use crate::arguments::ExplainArguments;
use crate::settings::Settings;
use crate::{exit, render};

pub(crate) fn run(arguments: &ExplainArguments) -> Result<ExitCode> {
    let mut settings = Settings::without_sources(&arguments.judging)?;
    settings.policy.as_typed = arguments.as_typed;
    let house = settings.take_house(&arguments.house)?;
    let mut judged: Vec<_> = arguments
        .addresses
        .iter()
        .flat_map(|address| JudgedAddress::all_in(address.as_encoded_bytes(), &settings.policy))
        .collect();
    for (address, _) in &mut judged {
        address.hold_against_house(&house, &settings.policy);
    }
    let is_usable = |judged: &JudgedAddress| judged.verdict.is_some_and(Verdict::is_usable);
    let all_usable = judged.iter().all(|(judged, _)| is_usable(judged));
    render::print(&match arguments.json {
        true => render::json::explained(&judged, &settings.policy, &settings.name_orders),
        false => render::explain::all(&judged, &settings.policy, &settings.name_orders, settings.judged_by()),
    })?;
    Ok(ExitCode::from(if all_usable { exit::DONE } else { exit::TOLD }))
}
