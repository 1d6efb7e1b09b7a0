//! An output folder of `clean`, and what is kept in it.

use std::path::{Path, PathBuf};

use ypogram_io::{Error, Fingerprint, Result};

use crate::engine::reading::SourceReport;
use crate::jobs::clean::{CALL, FOLDER, KeptCall, copy_name};
use crate::jobs::receipt::Earlier;

/// An output folder of `clean` about whose records somebody decides.
#[derive(Debug)]
pub struct SettleFolder {
    /// Where it is.
    pub path: PathBuf,
    /// What was called for, and what was decided so far.
    pub call: KeptCall,
    /// What was read.
    pub sources: Vec<SourceReport>,
    /// The names of the outputs in which somebody decides.
    pub outputs: Vec<String>,
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
        let kept = path.join(FOLDER);
        let call = std::fs::read(kept.join(CALL))
            .map_err(|_| no_folder("what clean keeps for decisions is not in it (.ypogram/call.json)"))?;
        let call: KeptCall = serde_json::from_slice(&call)
            .map_err(|error| no_folder(&format!(".ypogram/call.json is damaged: {error}")))?;
        let others = receipt.outputs.iter().filter(|output| output.blake3.is_none());
        let others = others.map(|output| output.name.clone()).collect();
        let outputs = receipt.outputs.into_iter().filter_map(|output| Some((output.name, output.blake3?)));
        let outputs: Vec<(String, String)> = outputs.collect();
        for (name, blake3) in &outputs {
            let now = Fingerprint::of_file(&kept.join(name)).ok().map(|now| now.blake3);
            if now.as_ref() != Some(blake3) {
                return Err(no_folder(&format!(
                    "the copy of {name} in .ypogram is not what the receipt says"
                )));
            }
        }
        Ok(SettleFolder {
            path: path.to_path_buf(),
            call,
            sources: receipt.sources,
            outputs: outputs.into_iter().map(|(name, _)| name).collect(),
            others,
        })
    }

    /// Where the untouched copy of an output is.
    pub fn copy_of(&self, output: &str) -> PathBuf {
        self.path.join(FOLDER).join(output)
    }

    /// The copies of the sources, in order.
    pub fn copies(&self) -> Vec<PathBuf> {
        (0..self.call.sources.len()).map(|nth| self.copy_of(&copy_name(nth))).collect()
    }

    /// Whether the output of that name was changed since it was written.
    pub fn is_changed(&self, output: &str) -> bool {
        let blake3 = |path: &Path| Fingerprint::of_file(path).ok().map(|now| now.blake3);
        let now = blake3(&self.path.join(output));
        now.is_some() && now != blake3(&self.copy_of(output))
    }
}
