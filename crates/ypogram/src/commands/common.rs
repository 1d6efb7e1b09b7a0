//! What several commands do alike.

use std::path::{Path, PathBuf};

use ypogram_core::Code;
#[cfg(feature = "sqlite")]
use ypogram_core::{Kind, Policy, Severity};
use ypogram_io::{Error, Format, Result, SourcePlace};
use ypogram_jobs::{FieldPlan, Tally};

use crate::arguments::{FailOn, OutputArguments};
use crate::nearest_hint::nearest_hint;
use crate::render;
use crate::trial::Rows;

/// An address where a source is expected: whoever typed it wants it explained.
pub(crate) fn refuse_addresses(sources: &[PathBuf]) -> Result<()> {
    match sources.iter().find(|path| is_address(path)) {
        Some(address) => {
            let address = address.display().to_string();
            let quoted = render::words::for_shell(&address);
            Err(Error::unusable(
                format!("‘{address}’ is not a file"),
                format!("to judge an address: ypogram explain {quoted}"),
            ))
        }
        None => Ok(()),
    }
}

/// Whether an address was given where a file could stand.
pub(crate) fn is_address(source: &Path) -> bool {
    let is_file = SourcePlace::of(source).file.exists() || Format::named_by(source).is_some();
    source.to_string_lossy().contains('@') && !is_file
}

/// Leaves the columns that were named, or without any the fields that were looked at and what was added.
pub(crate) fn leave_what_was_asked_for(rows: &mut Rows, plan: &FieldPlan, columns: &[String]) {
    if columns.is_empty() {
        let looked_at: Vec<&str> = plan.looked_at().collect();
        rows.leave(|name| looked_at.contains(&name), |name| plan.fields.iter().any(|field| field == name));
    }
}

#[cfg(feature = "sqlite")]
/// The policy by which it counts whose an address is: who is on a list, and what the house thinks of an address, changes nothing about
/// that.
pub(crate) fn by_mailbox_alone(mut policy: Policy) -> Policy {
    for code in Code::all().filter(|code| !matches!(code.info().kind, Kind::Syntax | Kind::Name)) {
        // Where a finding cannot weigh so little, it stays as it is.
        let _ = policy.set_severity(code, Severity::Note);
    }
    policy
}

/// Tells that there was no `what` to be found, which a script may take for success; gives whether that is so.
pub(crate) fn warn_of_nothing(what: &str, is_nothing: bool, output: &OutputArguments) -> bool {
    if is_nothing && !output.quiet {
        crate::exit::warn(
            &format!("no {what} was found"),
            "ypogram survey shows what the fields hold; --field names the one with the addresses, and --fail-on none-found stops a script",
        );
    }
    is_nothing
}

/// Refuses a `--fail-on` that names no finding, or any where findings are not counted.
///
/// # Errors
/// Where it does.
pub(crate) fn check_fail_on(fail_on: Option<&FailOn>, counts_findings: bool) -> Result<()> {
    let Some(FailOn::Finding(name)) = fail_on else { return Ok(()) };
    if !counts_findings {
        return Err(Error::unusable(
            format!("--fail-on {name}: findings are not counted here"),
            "write --fail-on reject, review or none-found; check, clean, survey and split take findings",
        ));
    }
    match Code::from_name(name) {
        Some(_) => Ok(()),
        None => Err(Error::unusable(
            format!("--fail-on {name}: this is neither reject, review or none-found, nor a finding"),
            nearest_hint(
                name,
                ["reject", "review", "none-found"].into_iter().chain(Code::all().map(Code::name)),
            ),
        )),
    }
}

/// Whether some record has the finding of that name.
pub(crate) fn has_finding(tally: &Tally, name: &str) -> bool {
    Code::from_name(name).is_some_and(|code| tally.has(code))
}
