//! An output folder of `clean`, and what is kept in it.

use std::path::{Path, PathBuf};

use ypogram_io::{Error, Result};

use crate::engine::reading::SourceReport;
use crate::jobs::clean::{CALL, KeptCall, copy_name};
use crate::jobs::receipt::{Earlier, KEPT, OutputReport};

/// An output folder of `clean` about whose records somebody decides.
#[derive(Debug)]
pub struct SettleFolder {
    /// Where it is.
    pub path: PathBuf,
    /// What was called for, and what was decided so far.
    pub call: KeptCall,
    /// What was read.
    pub sources: Vec<SourceReport>,
    /// The outputs in which somebody decides.
    pub outputs: Vec<OutputReport>,
    /// The names of the others.
    pub others: Vec<String>,
}

impl SettleFolder {
    /// Opens the one at `path`.
    ///
    /// # Errors
    /// Where it is none, or what is kept in it is not what `clean` put there.
    pub fn open(path: &Path) -> Result<Self> {
        let shown = path.display();
        let no_folder = |what: &str| {
            Error::unusable(
                format!("{shown}: {what}"),
                "give a folder that ypogram clean has written, as it was then; with --no-copy, and where the outputs are cards or entries (--to csv), nothing is kept",
            )
        };
        let receipt = Earlier::read(path)?.ok_or_else(|| no_folder("there is no receipt.json in it"))?;
        let kept = path.join(KEPT);
        let call = std::fs::read(kept.join(CALL))
            .map_err(|_| no_folder("what clean keeps for decisions is not in it (.ypogram/call.json)"))?;
        let call: KeptCall = serde_json::from_slice(&call)
            .map_err(|error| no_folder(&format!(".ypogram/call.json is damaged: {error}")))?;
        let (outputs, others): (Vec<OutputReport>, Vec<OutputReport>) =
            receipt.outputs.into_iter().partition(|output| output.blake3.is_some());
        let is_whole =
            |output: &OutputReport| kept.join(&output.name).exists() && !output.is_changed_in(&kept);
        if let Some(OutputReport { name, .. }) = outputs.iter().find(|output| !is_whole(output)) {
            return Err(no_folder(&format!("the copy of {name} in .ypogram is not what the receipt says")));
        }
        Ok(SettleFolder {
            path: path.to_path_buf(),
            call,
            sources: receipt.sources,
            outputs,
            others: others.into_iter().map(|output| output.name).collect(),
        })
    }

    /// Where the untouched copy of an output is.
    pub fn copy_of(&self, output: &str) -> PathBuf {
        self.path.join(KEPT).join(output)
    }

    /// The copies of the sources, in order.
    pub fn copies(&self) -> Vec<PathBuf> {
        (0..self.call.sources.len()).map(|nth| self.copy_of(&copy_name(nth))).collect()
    }
}
