//! The folder in which the steps of a job work: every file has the name there that it has in the end.

use std::path::{Path, PathBuf};

use ypogram_io::{Error, OutputFolder, Result, SourcePlace};

/// A job while it runs.
pub(crate) struct Staging {
    pub(crate) folder: OutputFolder,
    /// Where it works.
    pub(crate) root: PathBuf,
    /// The folder of the rulebook, from where the names of the job are meant.
    pub(crate) home: PathBuf,
    /// The rulebook.
    pub(crate) rulebook: PathBuf,
}

/// The folder beside the rulebook that holds the outputs of a job from the moment on when they count.
pub(crate) fn published_folder(home: &Path, job: &str) -> PathBuf {
    home.join(format!(".ypogram-job-{job}"))
}

impl Staging {
    /// Begins the job `job` of the rulebook at `rulebook`, in the folder `home`.
    ///
    /// # Errors
    /// Where its folder cannot be written to.
    pub(crate) fn begin(home: &Path, rulebook: &Path, job: &str) -> Result<Self> {
        let folder = OutputFolder::prepare(&published_folder(home, job), true, |_| Ok(Vec::new()), &[])?;
        let root = folder.place("");
        let rulebook = home.join(rulebook.file_name().unwrap_or_default());
        Ok(Staging { folder, root, home: home.to_path_buf(), rulebook })
    }

    /// The name by which a step finds the file `source`, which is meant from `from`: its own, by a link, unless it lies elsewhere.
    ///
    /// # Errors
    /// Where it is not there, or no link can be made.
    pub(crate) fn link(&self, source: &Path, from: &Path) -> Result<PathBuf> {
        let place = SourcePlace::of(source);
        let real = from.join(&place.file);
        if !real.exists() {
            return Err(Error::unusable(
                format!("{}: file not found", place.file.display()),
                "see whether the path is right",
            ));
        }
        let is_below = place.file.is_relative()
            && place.file.components().all(|part| matches!(part, std::path::Component::Normal(_)));
        if !is_below {
            let part = place.part.map_or_else(String::new, |part| format!("#{part}"));
            let real = std::path::absolute(&real).unwrap_or(real);
            return Ok(PathBuf::from(format!("{}{part}", real.display())));
        }
        let link = self.root.join(&place.file);
        if link.symlink_metadata().is_err() {
            let around = link.parent().unwrap_or(&self.root);
            let made = std::fs::create_dir_all(around).and_then(|()| make_link(&real, &link));
            made.map_err(|error| Error::writing(&link, &error))?;
        }
        Ok(source.to_path_buf())
    }
}

#[cfg(unix)]
fn make_link(real: &Path, link: &Path) -> std::io::Result<()> {
    std::os::unix::fs::symlink(std::path::absolute(real)?, link)
}

/// Links need rights there that few have.
#[cfg(not(unix))]
fn make_link(real: &Path, link: &Path) -> std::io::Result<()> {
    std::fs::copy(real, link).map(drop)
}
