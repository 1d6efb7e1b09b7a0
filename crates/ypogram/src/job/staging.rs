//! The folder in which the steps of a job work: every file has the name there that it has in the end.

use std::path::{Component, Path, PathBuf};

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

    /// Where a step writes `output` in this folder.
    pub(crate) fn staged(&self, output: &Path) -> PathBuf {
        staged(output, &self.home)
    }

    /// Lets a step find the file `source`, which is meant from `from`, by its own name: by a link, or where it lies elsewhere by what this
    /// gives, which is its file and where that is. A folder elsewhere is found by where it is.
    ///
    /// # Errors
    /// Where it is not there, or no link can be made.
    pub(crate) fn find(&self, source: &Path, from: &Path) -> Result<Found> {
        let place = SourcePlace::of(source);
        let real = from.join(&place.file);
        if is_below(&place.file) && self.root.join(&place.file).exists() {
            // An earlier step wrote it.
            return Ok(Found::by_name(source));
        }
        if !real.exists() {
            return Err(Error::unusable(
                format!("{}: file not found", place.file.display()),
                "see whether the path is right",
            ));
        }
        if !is_below(&place.file) {
            let real = std::path::absolute(&real).unwrap_or(real);
            return Ok(match real.is_dir() {
                true => Found::by_name(&real),
                false => Found { name: source.to_path_buf(), kept: Some((place.file, real)) },
            });
        }
        let link = self.root.join(&place.file);
        if link.symlink_metadata().is_err() {
            let around = link.parent().unwrap_or(&self.root);
            let made = std::fs::create_dir_all(around).and_then(|()| make_link(&real, &link));
            made.map_err(|error| Error::writing(&link, &error))?;
        }
        Ok(Found::by_name(source))
    }
}

/// A source of a step.
pub(crate) struct Found {
    /// What the step calls it.
    pub(crate) name: PathBuf,
    /// Its file, and where that is, where it is not found by its name.
    pub(crate) kept: Option<(PathBuf, PathBuf)>,
}

impl Found {
    pub(crate) fn by_name(name: &Path) -> Self {
        Found { name: name.to_path_buf(), kept: None }
    }

    /// Where it is, with what stands behind `#`.
    pub(crate) fn place(&self) -> String {
        let name = self.name.display().to_string();
        match &self.kept {
            Some((file, place)) => {
                name.replacen(&file.display().to_string(), &place.display().to_string(), 1)
            }
            None => name,
        }
    }
}

/// Whether a path lies below the folder from which it is meant.
fn is_below(path: &Path) -> bool {
    path.is_relative() && path.components().all(|part| matches!(part, Component::Normal(_)))
}

/// The file and the table, where `output`, which is meant from `home`, is a table of a database.
pub(crate) fn table_of(output: &Path, home: &Path) -> Option<(PathBuf, String)> {
    let part = SourcePlace::of(&home.join(output)).part?;
    let file = output.to_str()?.strip_suffix(&part)?.strip_suffix('#')?;
    Some((file.into(), part))
}

/// Where a step writes `output`, which is meant from `home`, in its own folder: under the name that it has in the end, unless it lies
/// elsewhere. Tables go into a database that holds nothing else.
pub(crate) fn staged(output: &Path, home: &Path) -> PathBuf {
    match table_of(output, home) {
        Some((file, table)) => PathBuf::from(format!("{}#{table}", staged_database(&file).display())),
        None if is_below(output) => output.to_path_buf(),
        None => inside(Path::new(".outside"), output),
    }
}

/// Where the tables are that go into the database `file`.
pub(crate) fn staged_database(file: &Path) -> PathBuf {
    inside(Path::new(".databases"), file)
}

/// A place of its own for `path` in `folder`, wherever it leads.
fn inside(folder: &Path, path: &Path) -> PathBuf {
    let part = |part: Component<'_>| match part {
        Component::Normal(name) => name.to_owned(),
        Component::ParentDir => "(up)".into(),
        Component::CurDir => "(here)".into(),
        Component::RootDir => "(root)".into(),
        Component::Prefix(prefix) => {
            prefix.as_os_str().to_string_lossy().replace([':', '\\', '?'], "-").into()
        }
    };
    path.components().map(part).fold(folder.to_path_buf(), |folder, part| folder.join(part))
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
