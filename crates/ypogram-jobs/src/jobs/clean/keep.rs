//! What stays in an output folder so that decisions can be taken later: the sources as they were, what was called for, and an untouched
//! copy of what somebody is to decide about.

use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use ypogram_io::{
    Error, Format, OutputFile, OutputFolder, Result, SourcePlace, copy_private, keep_rows, lock_current,
    private_file,
};

use crate::decisions::Answers;
use crate::jobs::clean::options::{CleanOptions, Keep};
use crate::jobs::dns;
use crate::jobs::receipt::{self, OutputReport};
use crate::plan::outcome::Outcome;

/// The file in it that says what was called for.
pub(crate) const CALL: &str = "call.json";

/// The file in it that holds what was answered on the terminal and is not taken yet.
pub const ANSWERS: &str = "answers.json";

/// The account of what was called for.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct KeptCall {
    /// The arguments of the call, the program's name left out.
    pub arguments: Vec<String>,
    /// The folder in which it was called.
    pub called_in: PathBuf,
    /// The names of the sources, as they were given; their copies are `source-1`, `source-2`, …
    pub sources: Vec<PathBuf>,
    /// What was decided so far.
    pub answers: Answers,
}

/// The file of the answers of the domain name system that were judged by.
pub const DNS: &str = "dns.csv";

/// The name of the copy of the source at `nth`, from 0.
pub(crate) fn copy_name(nth: usize) -> String {
    format!("source-{}", nth + 1)
}

/// Writes it into `folder`, unless there is nothing to decide; the outputs in which somebody decides get their hashes.
///
/// # Errors
/// Where something cannot be copied.
pub(super) fn write(
    keep: &Keep,
    options: &CleanOptions,
    folder: &mut OutputFolder,
    files: &mut [OutputFile],
    outputs: &mut [OutputReport],
) -> Result<()> {
    let stems: Vec<&str> =
        Outcome::ALL.iter().filter(|o| o.is_decided_about()).map(|o| o.file_stem()).collect();
    let is_asked = |name: &str| stems.iter().any(|stem| name.split('.').next() == Some(stem));
    // A card or an entry has no cell that is empty, and nobody could decide there.
    let has_cells = |output: &OutputReport| {
        !matches!(Format::named_by(output.name.as_ref()), Some(Format::Vcard | Format::Ldif))
    };
    if !outputs.iter().all(has_cells) {
        return Ok(());
    }
    if !outputs.iter().any(|output| is_asked(&output.name)) && options.answers.by_record.is_empty() {
        return Ok(());
    }
    let place = folder.private_folder(receipt::KEPT)?;
    for (nth, source) in options.sources.iter().enumerate() {
        let to = place.join(copy_name(nth));
        match keep.copies.get(nth) {
            Some(copy) if std::fs::hard_link(copy, &to).is_ok() => {}
            Some(copy) => copy_private(copy, &to)?,
            None => {
                if !copy_source(source, options, &to)? {
                    return Ok(());
                }
            }
        }
    }
    for file in files {
        let name = file.path().file_name().unwrap_or_default().to_string_lossy().into_owned();
        if let Some(output) = outputs.iter_mut().find(|output| output.name == name && is_asked(&name)) {
            output.blake3 = Some(file.copy_to(&place.join(&name))?);
        }
    }
    if let Some(answers) = &options.dns {
        dns::add_to(&place.join(DNS), &answers.all())?;
    }
    let call = KeptCall {
        arguments: keep.arguments.clone(),
        called_in: keep.called_in.clone(),
        sources: options.sources.clone(),
        answers: options.answers.clone(),
    };
    let path = place.join(CALL);
    let file = private_file(&path).map_err(|error| Error::writing(&path, &error))?;
    serde_json::to_writer_pretty(&file, &call).map_err(|error| Error::writing(&path, &error.into()))
}

/// Copies a source, with the write-ahead log of a database; of a table on a server its rows. Says whether it could.
fn copy_source(source: &Path, options: &CleanOptions, to: &Path) -> Result<bool> {
    let place = SourcePlace::of(source);
    if place.is_on_server() {
        return keep_rows(source, &options.open, to);
    }
    let file = place.file;
    if let Some(kept) = options.open.kept_file(&file) {
        return copy_private(kept, to).map(|()| true);
    }
    copy_private(&file, to)?;
    let log = |path: &Path| {
        let mut name = path.as_os_str().to_owned();
        name.push("-wal");
        PathBuf::from(name)
    };
    if log(&file).is_file() {
        copy_private(&log(&file), &log(to))?;
    }
    Ok(true)
}

/// Refuses to replace an output folder in which somebody has decided, while no run changes it.
///
/// # Errors
/// Where somebody has changed an output in which decisions are made since it was written, which would then be lost.
pub fn refuse_lost_decisions(folder: &Path) -> Result<()> {
    if !folder.is_dir() {
        return Ok(());
    }
    let _lock = lock_current(folder).map_err(|error| Error::writing(folder, &error))?;
    undecided_outputs(folder).map(drop)
}

/// The names of the files that an earlier run left in `folder`, where nobody has decided in it since.
///
/// # Errors
/// Where somebody has, or the account there is not one.
pub(super) fn undecided_outputs(folder: &Path) -> Result<Vec<String>> {
    let answers = folder.join(receipt::KEPT).join(ANSWERS);
    let changed = receipt::changed_since(folder)?;
    let changed = changed.map(|name| format!("{name} was changed since it was written"));
    let answered = answers.is_file().then(|| "there are answers to settle --ask in it".to_owned());
    match changed.or(answered) {
        Some(why) => Err(Error::output(
            format!("{}: {why}", folder.display()),
            format!(
                "ypogram settle {} takes the decisions in it; --discard-decisions replaces it",
                folder.display()
            ),
        )),
        None => receipt::earlier_outputs(folder),
    }
}
