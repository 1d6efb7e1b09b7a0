//! Where one stream of records goes: standard output, a file, a device.

use std::io::Write;
use std::path::{Path, PathBuf};

use crate::output::file::OutputFile;
use crate::output::place::{self, Kind};
use crate::output::{stream, terminal};
use crate::records::error::{Error, Result};
use crate::records::format::on_server;
use crate::records::place::SourcePlace;
use crate::rows::{Filled, IfThere, OutputPlace};

/// Where one stream of records goes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Target {
    /// Standard output.
    Standard,
    /// Nowhere: only what is counted is asked for.
    Nowhere,
    /// A file; an existing one is replaced only where that is said.
    File {
        /// Its place.
        path: PathBuf,
        /// What happens to one that is there.
        if_there: IfThere,
    },
}

/// A stream of records being written.
pub enum Output {
    /// To standard output or to what is no ordinary file.
    Stream(Box<dyn Write + Send + Sync>, PathBuf),
    /// To nowhere.
    Nowhere,
    /// To a file, which appears under its name at the end; behind it the part of it, such as a table.
    File(Box<OutputFile>, Option<String>),
    /// Into a database that is there, by whoever writes the rows.
    InPlace(OutputPlace),
}

impl Target {
    /// Opens the target.
    ///
    /// # Errors
    /// Where the file exists and is not to be replaced, or cannot be made.
    pub fn open(&self) -> Result<Output> {
        let (path, if_there) = match self {
            Target::Standard => {
                let name = PathBuf::from("standard output");
                return Ok(Output::Stream(terminal::standard_output(), name));
            }
            Target::Nowhere => return Ok(Output::Nowhere),
            Target::File { path, if_there } => (path, *if_there),
        };
        let SourcePlace { file, part } = SourcePlace::of(path);
        let in_place =
            |file, part| OutputPlace { path: Some(file), part, is_in_place: true, if_there, filled: None };
        if on_server(&file).is_some() {
            return Ok(Output::InPlace(in_place(file, part)));
        }
        match place::kind(&file) {
            Kind::File if part.is_some() => Ok(Output::InPlace(in_place(file, part))),
            _ if if_there == IfThere::Append => Err(Error::output(
                format!("{}: rows are added to tables of databases that are there", path.display()),
                "name one with -o, as in members.sqlite#people, or leave --append out",
            )),
            Kind::Folder => {
                Err(Error::output(format!("{}: this is a folder", path.display()), "give a file with -o"))
            }
            Kind::Device => {
                let device = stream::open(path)?;
                Ok(Output::Stream(Box::new(device), path.clone()))
            }
            Kind::File if if_there == IfThere::Refuse => Err(Error::output(
                format!("{}: the file exists", path.display()),
                "choose another name with -o, or replace it with --force",
            )),
            Kind::File | Kind::Missing => Ok(Output::File(Box::new(OutputFile::create(&file)?), part)),
        }
    }
}

fn to_stream(out: &mut dyn Write, name: &Path, bytes: &[u8]) -> Result<()> {
    out.write_all(bytes).map_err(|error| Error::writing(name, &error))
}

impl Output {
    /// Appends `bytes`.
    ///
    /// # Errors
    /// Where they cannot be written.
    pub fn write(&mut self, bytes: &[u8]) -> Result<()> {
        match self {
            Output::Stream(out, name) => to_stream(out, name, bytes),
            Output::Nowhere | Output::InPlace(_) => Ok(()),
            Output::File(file, _) => file.write(bytes),
        }
    }

    /// What filling columns came to, where that was done.
    pub fn filled(&self) -> Option<Filled> {
        match self {
            Output::InPlace(place) => place.filled,
            _ => None,
        }
    }

    /// Makes sure that everything is written of several outputs, and only then puts the files under their names.
    ///
    /// # Errors
    /// Where that fails.
    pub fn finish_all(mut outputs: Vec<Output>) -> Result<()> {
        for output in &mut outputs {
            if let Output::File(file, _) = output {
                file.sync()?;
            }
        }
        outputs.into_iter().try_for_each(|output| match output {
            Output::File(file, _) => file.publish(),
            other => other.finish(),
        })
    }

    /// Makes sure that everything is written, and puts a file under its name.
    ///
    /// # Errors
    /// Where that fails.
    pub fn finish(self) -> Result<()> {
        match self {
            Output::Stream(mut out, name) => out.flush().map_err(|error| Error::writing(&name, &error)),
            Output::Nowhere | Output::InPlace(_) => Ok(()),
            Output::File(mut file, _) => {
                file.sync()?;
                file.publish()
            }
        }
    }
}
