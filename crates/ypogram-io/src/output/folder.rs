//! A folder of outputs that belong together: built beside its place and put there in one step.

use std::ffi::OsString;
use std::fs::{self, File};
use std::io;
use std::path::{Path, PathBuf};

use tempfile::TempDir;

use crate::output::access::Access;
use crate::output::file::OutputFile;
use crate::output::place::{followed, lock_current};
use crate::output::{journal, partial};
use crate::records::error::{Error, Result};

/// A folder of outputs while they are written. Dropped before it is published, it leaves nothing behind.
pub struct OutputFolder {
    /// Its place, links followed.
    path: PathBuf,
    /// Where the outputs are until then.
    new: TempDir,
    /// What is in it besides the files that are published: folders, and what was adopted.
    folders: Vec<String>,
    /// Held while it is written.
    lock: Option<File>,
    how: How,
}

/// How the outputs come to their place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum How {
    /// The new folder and the one that is there are exchanged.
    InOneStep,
    /// One by one into the folder that is there, by a journal that the next run finishes.
    ByJournal,
}

/// Tells which outputs an earlier run left in a folder, which no other run changes meanwhile, or refuses to replace them.
pub type EarlierOutputs = fn(&Path) -> Result<Vec<String>>;

impl OutputFolder {
    /// Finishes what a killed run began in the folder at `path`, and removes what it left beside it.
    ///
    /// # Errors
    /// Where that cannot be done.
    pub fn finish_earlier(path: &Path) -> Result<()> {
        let path = followed(path).map_err(|error| Error::writing(path, &error))?;
        partial::clear_beside(&path);
        journal::finish(&path)
    }

    /// Takes `path` for outputs: a new folder, an empty one, or with `force` one whose earlier outputs are to be replaced by those of
    /// `wanted`.
    ///
    /// # Errors
    /// Where it holds something already, or cannot be made.
    pub fn prepare(path: &Path, force: bool, earlier: EarlierOutputs, wanted: &[String]) -> Result<Self> {
        let writing = |error: io::Error| Error::writing(path, &error);
        let path = followed(path).map_err(writing)?;
        if path.is_dir() {
            journal::finish(&path)?;
            // Or another run would exchange it while it is read.
            let _lock = lock_current(&path).map_err(writing)?;
            let there = names_in(&path).map_err(|error| Error::writing(&path, &error))?;
            refuse_what_is_there(&path, &there, force, &earlier(&path)?, wanted)?;
        } else if path.exists() {
            return Err(Error::output(
                format!("{}: there is a file of that name", path.display()),
                "give a folder with -o",
            ));
        }
        let around = path.parent().filter(|around| !around.as_os_str().is_empty()).unwrap_or(Path::new("."));
        if !around.is_dir() {
            return Err(Error::output(
                format!("{}: the folder it belongs into does not exist", path.display()),
                "make that folder first",
            ));
        }
        // The working directory stays the folder that it is, for whoever stands in it.
        let stays = path
            .canonicalize()
            .ok()
            .is_some_and(|path| std::env::current_dir().is_ok_and(|here| here == path));
        let (new, lock, how) = match partial::folder(&path, around) {
            Ok((new, lock)) if !stays && path.file_name().is_some() => (new, lock, How::InOneStep),
            result => {
                drop(result);
                // Another run may make it in the same moment.
                match fs::create_dir(&path) {
                    Err(error) if !path.is_dir() => return Err(Error::writing(&path, &error)),
                    _ => {}
                }
                let (new, lock) =
                    partial::folder(&path, &path).map_err(|error| Error::writing(&path, &error))?;
                (new, lock, How::ByJournal)
            }
        };
        Ok(OutputFolder { path, new, folders: Vec::new(), lock, how })
    }

    /// Makes the folder `name` in it, for its owner alone, which is published with the outputs; gives its place until then.
    ///
    /// # Errors
    /// Where it cannot be made.
    pub fn private_folder(&mut self, name: &str) -> Result<PathBuf> {
        let place = self.place(name);
        let mut builder = fs::DirBuilder::new();
        #[cfg(unix)]
        std::os::unix::fs::DirBuilderExt::mode(&mut builder, 0o700);
        builder.create(&place).map_err(|error| Error::writing(&place, &error))?;
        self.folders.push(name.to_owned());
        Ok(place)
    }

    /// Where `name` is until the folder is published.
    pub fn place(&self, name: &str) -> PathBuf {
        self.new.path().join(name)
    }

    /// Takes everything in the folder `from` as outputs, by links, so that it stays there as well.
    ///
    /// # Errors
    /// Where one cannot be linked.
    pub fn adopt(&mut self, from: &Path) -> Result<()> {
        let mut names = names_in(from).map_err(|error| Error::writing(from, &error))?;
        // The account comes last.
        names.sort_by_key(|name| name.to_string_lossy().ends_with("receipt.json"));
        for name in names {
            let (source, to) = (from.join(&name), self.new.path().join(&name));
            link_all(&source, &to).map_err(|error| Error::writing(&to, &error))?;
            self.folders.push(name.to_string_lossy().into_owned());
        }
        Ok(())
    }

    /// Puts all of `files` into their place, in order, and removes the earlier outputs.
    ///
    /// # Errors
    /// Where that cannot be done. The folder is then what it was.
    pub fn publish(self, mut files: Vec<OutputFile>, earlier: EarlierOutputs) -> Result<()> {
        for file in &mut files {
            file.sync()?;
        }
        let name = |file: &OutputFile| Some(file.path().file_name()?.to_string_lossy().into_owned());
        let names: Vec<String> = self.folders.iter().cloned().chain(files.iter().filter_map(name)).collect();
        files.into_iter().try_for_each(OutputFile::publish)?;
        // Who may read an output that is replaced stays as it was.
        for name in &names {
            if let Ok(replaced) = fs::metadata(self.path.join(name))
                && let Ok(new) = File::open(self.new.path().join(name))
            {
                let given = Access::of(&replaced, true).give(&new);
                given.map_err(|error| Error::writing(&self.path, &error))?;
            }
        }
        sync_folder(self.new.path());
        let path = self.path.clone();
        let _no_end_between = partial::publishing();
        match self.how {
            How::ByJournal => self.by_journal(&names, earlier),
            How::InOneStep => self.in_one_step(&names, earlier),
        }
        .map_err(|failed| match failed {
            Failed::Told(error) => error,
            Failed::Io(error) => Error::writing(&path, &error),
        })
    }

    fn in_one_step(self, names: &[String], earlier: EarlierOutputs) -> std::result::Result<(), Failed> {
        let lock = match lock_current(&self.path) {
            Ok(lock) => lock,
            Err(error) if error.kind() == io::ErrorKind::NotFound => {
                open_for_others(self.new.path(), None)?;
                if let Err(error) = rename_to_new(self.new.path(), &self.path) {
                    // Another run may have put its folder there in the same moment.
                    return match self.path.is_dir() {
                        true => self.in_one_step(names, earlier),
                        false => Err(error.into()),
                    };
                }
                sync_around(&self.path);
                // It is no leftover any more.
                let _ = self.new.keep();
                return Ok(());
            }
            Err(error) => return Err(error.into()),
        };
        let replaced = earlier(&self.path)?;
        let there = names_in(&self.path)?;
        refuse_what_is_there(&self.path, &there, true, &replaced, names)?;
        let foreign: Vec<&OsString> =
            there.iter().filter(|name| !replaced.iter().any(|earlier| **name == **earlier)).collect();
        let all_files =
            foreign.iter().all(|name| self.path.join(name).symlink_metadata().is_ok_and(|m| m.is_file()));
        let linked = all_files
            && foreign
                .iter()
                .all(|name| fs::hard_link(self.path.join(name), self.new.path().join(name)).is_ok());
        if !linked || exchange(self.new.path(), &self.path, &lock).is_err() {
            // What was linked there would be taken for an output.
            for name in foreign {
                let _ = fs::remove_file(self.new.path().join(name));
            }
            return self.by_journal(names, earlier);
        }
        sync_around(&self.path);
        // Beside it is now the old folder: what somebody put there in the last moment moves over, and the rest is in the new one, or was
        // to be replaced.
        for name in names_in(self.new.path())? {
            let (old, new) = (self.new.path().join(&name), self.path.join(&name));
            if !replaced.iter().any(|earlier| *name == **earlier) && new.symlink_metadata().is_err() {
                fs::rename(old, new)?;
            }
        }
        drop(self.new);
        Ok(())
    }

    fn by_journal(self, names: &[String], earlier: EarlierOutputs) -> std::result::Result<(), Failed> {
        let _lock = lock_current(&self.path)?;
        let replaced = earlier(&self.path)?;
        let within = self.new.path().parent() == Some(self.path.as_path());
        // Held while it moves, or the next run would take it for a leftover.
        let (new, _held) = match within {
            true => (self.new, self.lock),
            // What was written beside it moves into it first.
            false => {
                let (inside, held) = partial::folder(&self.path, &self.path)?;
                for name in names {
                    fs::rename(self.new.path().join(name), inside.path().join(name))?;
                }
                (inside, held)
            }
        };
        journal::publish(&self.path, new, &replaced, names)?;
        Ok(())
    }
}

/// Why publishing failed.
enum Failed {
    Told(Error),
    Io(io::Error),
}

impl From<Error> for Failed {
    fn from(error: Error) -> Self {
        Failed::Told(error)
    }
}

impl From<io::Error> for Failed {
    fn from(error: io::Error) -> Self {
        Failed::Io(error)
    }
}

/// Links a file, or every file of a folder, which is made for its owner alone.
fn link_all(source: &Path, to: &Path) -> io::Result<()> {
    if !source.symlink_metadata()?.is_dir() {
        return fs::hard_link(source, to).or_else(|_| fs::copy(source, to).map(drop));
    }
    fs::create_dir(to)?;
    fs::set_permissions(to, source.metadata()?.permissions())?;
    for entry in fs::read_dir(source)? {
        let entry = entry?;
        link_all(&entry.path(), &to.join(entry.file_name()))?;
    }
    Ok(())
}

/// The names in a folder, those of unfinished outputs left out.
fn names_in(folder: &Path) -> io::Result<Vec<OsString>> {
    let names = fs::read_dir(folder)?.map(|entry| entry.map(|entry| entry.file_name()));
    let names: Vec<OsString> = names.collect::<io::Result<_>>()?;
    Ok(names.into_iter().filter(|name| !name.to_string_lossy().contains(".partial-")).collect())
}

fn refuse_what_is_there(
    path: &Path,
    there: &[OsString],
    force: bool,
    earlier: &[String],
    wanted: &[String],
) -> Result<()> {
    let shown = path.display();
    if !there.is_empty() && !force {
        let hint = "choose another folder with -o, or replace the earlier outputs in it with --force";
        return Err(Error::output(format!("{shown}: the folder is not empty"), hint));
    }
    let is_in = |names: &[String], name: &OsString| names.iter().any(|other| **name == **other);
    match there.iter().find(|name| is_in(wanted, name) && !is_in(earlier, name)) {
        Some(foreign) => Err(Error::output(
            format!(
                "{shown}: {} stands there and is not an output of an earlier run",
                foreign.to_string_lossy()
            ),
            "move it away, or choose another folder with -o",
        )),
        None => Ok(()),
    }
}

/// Lets others see the folder as they see `like`, or as they see one that is made the ordinary way.
fn open_for_others(folder: &Path, like: Option<&File>) -> io::Result<()> {
    let access = match like {
        Some(like) => Access::of(&like.metadata()?, true),
        None => {
            // Only making one tells the process mask.
            let probe = folder.join(".partial-mode");
            fs::create_dir(&probe)?;
            let access = Access::of(&fs::metadata(&probe)?, false);
            fs::remove_dir(&probe)?;
            access
        }
    };
    match File::open(folder) {
        Ok(folder) => access.give(&folder),
        // Not every system opens folders.
        Err(_) => Ok(()),
    }
}

/// Exchanges the two folders, of which the second, `held`, is the one in use.
#[cfg(target_os = "linux")]
fn exchange(new: &Path, path: &Path, held: &File) -> io::Result<()> {
    use rustix::fs::{CWD, RenameFlags, renameat_with};
    open_for_others(new, Some(held))?;
    renameat_with(CWD, new, CWD, path, RenameFlags::EXCHANGE).map_err(io::Error::from)
}

#[cfg(not(target_os = "linux"))]
fn exchange(_: &Path, _: &Path, _: &File) -> io::Result<()> {
    Err(io::Error::from(io::ErrorKind::Unsupported))
}

/// Renames the folder to `path`, where nothing may stand meanwhile.
#[cfg(target_os = "linux")]
fn rename_to_new(new: &Path, path: &Path) -> io::Result<()> {
    use rustix::fs::{CWD, RenameFlags, renameat_with};
    match renameat_with(CWD, new, CWD, path, RenameFlags::NOREPLACE) {
        Err(rustix::io::Errno::INVAL | rustix::io::Errno::NOSYS) => fs::rename(new, path),
        result => result.map_err(io::Error::from),
    }
}

#[cfg(not(target_os = "linux"))]
fn rename_to_new(new: &Path, path: &Path) -> io::Result<()> {
    fs::rename(new, path)
}

fn sync_around(path: &Path) {
    sync_folder(path.parent().filter(|around| !around.as_os_str().is_empty()).unwrap_or(Path::new(".")));
}

/// Not every system can sync a folder; the files themselves are safe.
fn sync_folder(path: &Path) {
    if let Ok(folder) = File::open(path) {
        let _ = folder.sync_all();
    }
}
