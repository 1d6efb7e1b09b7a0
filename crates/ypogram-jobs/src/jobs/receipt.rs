//! The account of one run, as JSON. It holds no clock, duration, thread count or absolute path: the same input, rulebook
//! and version give the same bytes.

use std::collections::BTreeMap;
use std::path::Path;

use serde::{Deserialize, Serialize};
use ypogram_io::{Error, Fingerprint, Result};

use crate::duplicates::merge::FilledCount;
use crate::engine::reading::SourceReport;
use crate::lists::ListReport;
use crate::plan::read_columns::ReadColumns;

/// The name of the account in an output folder.
pub(crate) const FILE_NAME: &str = "receipt.json";

/// The folder beside it that holds what it takes to take decisions later.
pub(crate) const KEPT: &str = ".ypogram";

/// The list of what changed since an earlier run, beside it.
pub(crate) const CHANGES: &str = "changes.csv";

/// The list of the cells that were filled from duplicates, beside it.
pub(crate) const FILLED: &str = "filled.csv";

/// The layout of all summaries and accounts; changes when a name in one of them changes its meaning.
pub const LAYOUT: u32 = 3;

/// The account of one run.
#[derive(Clone, Debug, Serialize)]
pub struct Receipt<C: Serialize, S: Serialize> {
    /// The layout of this account.
    pub layout: u32,
    /// The program's version.
    pub version: String,
    /// The command that ran.
    pub command: &'static str,
    /// What was read.
    pub sources: Vec<SourceReport>,
    /// The lists of one's own that were asked.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub lists: Vec<ListSummary>,
    /// The hash of the answers of the domain name system, where it was asked.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub dns_answers: Option<String>,
    /// The rulebook as resolved: defaults, rulebook and command line together.
    pub rulebook: serde_json::Value,
    /// Where addresses were looked for.
    pub columns: ReadColumns,
    /// Every count.
    pub counts: C,
    /// Records about which somebody decided, by kind of decision.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub decisions: BTreeMap<&'static str, u64>,
    /// What changed since an earlier run, where that was asked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub since: Option<S>,
    /// How much was filled from duplicates, where that was asked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub merged: Option<FilledCount>,
    /// What was written beside this account.
    pub outputs: Vec<OutputReport>,
}

/// One list of one's own.
#[derive(Clone, Debug, Serialize)]
pub struct ListSummary {
    /// Its name.
    pub name: String,
    /// Where it comes from.
    pub from: String,
    /// Entries that count.
    pub entries: u64,
    /// Bytes of its file.
    pub bytes: u64,
    /// BLAKE3 of its file.
    pub blake3: String,
}

impl ListSummary {
    pub(crate) fn of(report: &ListReport) -> Self {
        ListSummary {
            name: report.name.clone(),
            from: report.from.clone(),
            entries: report.entries,
            bytes: report.bytes,
            blake3: report.blake3.clone(),
        }
    }
}

/// One file that was written.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct OutputReport {
    /// Its name in the folder.
    pub name: String,
    /// Its records.
    pub records: u64,
    /// BLAKE3 of it, where somebody may decide in it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub blake3: Option<String>,
}

impl OutputReport {
    /// Whether somebody may decide in it, and its file in `folder` was changed since. One that was removed holds no decision.
    pub fn is_changed_in(&self, folder: &Path) -> bool {
        let now = || Fingerprint::of_file(&folder.join(&self.name)).ok();
        self.blake3.is_some() && now().is_some_and(|now| Some(now.blake3) != self.blake3)
    }
}

/// The names of the files that an earlier run left in `folder`, its account included; none where there is no account.
///
/// # Errors
/// Where the account there is not one.
pub(crate) fn earlier_outputs(folder: &Path) -> Result<Vec<String>> {
    let path = folder.join(FILE_NAME);
    let Some(earlier) = Earlier::read(folder)? else { return Ok(Vec::new()) };
    let mut names: Vec<String> = earlier.outputs.iter().map(|output| output.name.clone()).collect();
    if let Some(bad) = names.iter().find(|name| name.contains(['/', '\\']) || name.starts_with("..")) {
        return Err(Error::output(
            format!("{}: it lists ‘{bad}’, which is not in this folder", path.display()),
            "choose another folder with -o",
        ));
    }
    names.push(FILE_NAME.into());
    if folder.join(KEPT).is_dir() {
        names.push(KEPT.into());
    }
    if earlier.since.is_some() {
        names.push(CHANGES.into());
    }
    if earlier.merged.is_some() {
        names.push(FILLED.into());
    }
    Ok(names)
}

/// The output in `folder` that was changed since the run that wrote it, of those in which somebody may decide.
///
/// # Errors
/// Where the account there is not one.
pub(crate) fn changed_since(folder: &Path) -> Result<Option<String>> {
    let Some(earlier) = Earlier::read(folder)? else { return Ok(None) };
    let changed = earlier.outputs.into_iter().find(|output| output.is_changed_in(folder));
    Ok(changed.map(|output| output.name))
}

/// What later runs read of an account.
#[derive(Debug, Deserialize)]
pub(crate) struct Earlier {
    #[serde(default)]
    pub(crate) sources: Vec<SourceReport>,
    pub(crate) outputs: Vec<OutputReport>,
    /// What changed since a run before that.
    #[serde(default)]
    pub(crate) since: Option<serde::de::IgnoredAny>,
    /// How much was filled from duplicates.
    #[serde(default)]
    pub(crate) merged: Option<serde::de::IgnoredAny>,
}

impl Earlier {
    /// The account in `folder`; none where there is none.
    ///
    /// # Errors
    /// Where it is not one.
    pub(crate) fn read(folder: &Path) -> Result<Option<Self>> {
        let path = folder.join(FILE_NAME);
        let Ok(bytes) = std::fs::read(&path) else { return Ok(None) };
        serde_json::from_slice(&bytes).map(Some).map_err(|error| {
            Error::output(
                format!("{}: this is not a receipt of Ypogram: {error}", path.display()),
                "choose another folder with -o",
            )
        })
    }
}
