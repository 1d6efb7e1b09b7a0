//! `ypogram redact`: copies without addresses, and the way back.

use std::fs::File;
use std::io::Read as _;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use ypogram_core::redact::{Mask, RedactKey};
use ypogram_core::text::REACH;
use ypogram_io::pieces::{Limits, PieceOptions};
use ypogram_io::{
    Error, IfThere, Input, OpenOptions, Output, Result, SourcePlace, Target, temporary_folder, write_private,
};
use ypogram_jobs::redact::{
    self, Left, RedactBy, RedactMap, RedactOptions, RedactReport, Replaced, SearchOptions,
};

use crate::arguments::{
    JudgingArguments, MachineArguments, RedactArguments, RedactByArgument, RedactCommand,
};
use crate::commands::common;
use crate::output_target::{refuse_standard, target_of};
use crate::settings::{self, Settings};
use crate::{clashes, exit, progress_bar, render};

pub(crate) fn run(arguments: &RedactArguments) -> Result<ExitCode> {
    match &arguments.command {
        None => redact(arguments),
        Some(RedactCommand::Key { output }) => make_key(output),
        Some(RedactCommand::Restore { copy, map, output, force }) => {
            restore(copy, map, &target_of(output.as_ref(), *force))
        }
        Some(RedactCommand::Search { sources, json, machine }) => search(sources, *json, machine),
    }
}

fn make_key(path: &Path) -> Result<ExitCode> {
    let mut bytes = [0; 32];
    getrandom::fill(&mut bytes)
        .map_err(|error| Error::unusable(format!("the system gives no random numbers: {error}"), ""))?;
    let key = RedactKey::new(bytes).to_text();
    write_private(path, key.as_bytes(), "tokens under a key could not be told any more without it")?;
    render::print(&format!(
        "{} is written; whoever has it can tell whose token is whose, so it stays with you\n",
        path.display()
    ))?;
    Ok(ExitCode::from(exit::DONE))
}

fn key_of(path: Option<&Path>) -> Result<RedactKey> {
    let Some(path) = path else {
        return Err(Error::unusable(
            "tokens are made under a key, and none is named",
            "make one with `ypogram redact key -o redact.key`, and name it with --key; --as mask and --as hash need none",
        ));
    };
    let text =
        std::fs::read_to_string(path).map_err(|error| Error::reading(&path.display().to_string(), &error))?;
    RedactKey::from_text(&text).ok_or_else(|| {
        Error::unusable(
            format!("{}: this is no key", path.display()),
            "a key is a line of 64 hexadecimal digits; `ypogram redact key -o FILE` makes one",
        )
    })
}

fn by(arguments: &RedactArguments) -> Result<RedactBy> {
    if arguments.by != RedactByArgument::Token && arguments.key.is_some() {
        return Err(Error::unusable("--key is for tokens", "leave it out, or leave --as out"));
    }
    Ok(match arguments.by {
        RedactByArgument::Token => RedactBy::Token(key_of(arguments.key.as_deref())?),
        RedactByArgument::Mask => RedactBy::Mask(Mask {
            keep: arguments.keep,
            run: arguments.run.map(usize::from),
            domain: arguments.domain.into(),
        }),
        RedactByArgument::Hash => RedactBy::Hash,
    })
}

fn redact(arguments: &RedactArguments) -> Result<ExitCode> {
    common::refuse_addresses(&arguments.sources)?;
    let settings = Settings::without_sources(&arguments.judging)?;
    let targets = targets(arguments)?;
    clashes::refuse(&arguments.sources, &settings, &targets.iter().collect::<Vec<_>>())?;
    if let Some(map) = &arguments.map {
        refuse_standard(map, "a map, which its owner alone may read", "name a new file")?;
        if map.exists() {
            return Err(Error::output(
                format!("{}: there is such a file already", map.display()),
                "a map is never overwritten; choose another name",
            ));
        }
    }
    let temporary = temporary_folder()?;
    let open = settings::reading_options(arguments.from, &arguments.reading, &arguments.machine);
    let open = ypogram_jobs::keep_what_is_read_once(&arguments.sources, &open, &temporary)?;
    let options = RedactOptions {
        pieces: pieces(open),
        hide: arguments.hide.clone(),
        by: by(arguments)?,
        policy: settings.policy.clone(),
        threads: settings::threads(&arguments.machine),
        hash_key: settings::hash_key(),
    };
    let is_typed = |source: &PathBuf| redact::has_typed_cells(&options, source);
    let typed = arguments.sources.iter().map(is_typed).collect::<Result<Vec<bool>>>()?;
    if arguments.map.is_some() && typed.contains(&true) {
        return Err(Error::unusable(
            "--map: the way back is for files of text, and a workbook or database is written anew",
            "keep the original, or write it as CSV first",
        ));
    }
    let outputs = targets.iter().map(Target::open).collect::<Result<Vec<_>>>()?;
    let mut job = Job { arguments, options: &options, temporary: temporary.path(), map: None };
    job.map = arguments.map.as_ref().map(|_| RedactMap::default());
    let (mut reports, mut written) = (Vec::new(), Vec::new());
    for (nth, output) in outputs.into_iter().enumerate() {
        let source = &arguments.sources[nth];
        let done = match typed[nth] {
            true => job.records(source, &targets[nth], output)?,
            false => job.bytes(nth, source, output)?,
        };
        match done {
            Ok((report, output)) => {
                reports.push(report);
                written.push(output);
            }
            Err(left) => {
                render::print_beside(&render::redact::left(source, &left));
                return Ok(ExitCode::from(exit::TOLD));
            }
        }
    }
    refuse_map_of_merged(arguments, &options.by, &reports)?;
    if let (Some(map), Some(path)) = (&job.map, &arguments.map) {
        map.write(path)?;
    }
    Output::finish_all(written)?;
    tell(arguments, &options, &reports, &targets)
}

/// A copy that was written, or what was left in it.
type Copied = std::result::Result<(RedactReport, Output), Vec<Left>>;

/// The copies of one call.
struct Job<'j> {
    arguments: &'j RedactArguments,
    options: &'j RedactOptions,
    temporary: &'j Path,
    map: Option<RedactMap>,
}

impl Job<'_> {
    /// Copies a file of typed cells.
    fn records(&self, source: &Path, target: &Target, output: Output) -> Result<Copied> {
        let RedactArguments { sources, quiet, .. } = self.arguments;
        let (report, left, output) = progress_bar::watch(sources, *quiet, |progress| {
            redact::run_records(self.options, source, (target, output), progress)
        })?;
        Ok(if left.is_empty() { Ok((report, output)) } else { Err(left) })
    }

    /// Copies a file byte for byte, by way of a copy that is searched before it is published.
    fn bytes(&mut self, nth: usize, source: &Path, mut output: Output) -> Result<Copied> {
        let copy = copy_name(self.temporary, nth, source);
        let RedactArguments { sources, quiet, .. } = self.arguments;
        let (options, map, temporary) = (self.options, self.map.as_mut(), self.temporary);
        let (report, left) = progress_bar::watch(sources, *quiet, |progress| {
            let mut replaced = Replaced::default();
            let out = File::create(&copy).map_err(|error| Error::temporary(temporary, &error))?;
            let report = redact::run(options, source, out, (&mut replaced, map), progress)?;
            Ok((report, redact::prove(options, copy.clone(), &replaced, progress)?))
        })?;
        if !left.is_empty() {
            return Ok(Err(left));
        }
        copy_into(&copy, &mut output)?;
        Ok(Ok((report, output)))
    }
}

/// A map brings nothing back where different values have become the same.
fn refuse_map_of_merged(arguments: &RedactArguments, by: &RedactBy, reports: &[RedactReport]) -> Result<()> {
    let merged: u64 = reports.iter().map(|report| report.merged).sum();
    match (by, &arguments.map) {
        (RedactBy::Mask(_), Some(_)) if merged > 0 => Err(Error::unusable(
            format!(
                "--map: {merged} of these masks stand for several different values, which no map could tell apart"
            ),
            "keep more characters with --keep, take --as token, or leave --map out",
        )),
        _ => Ok(()),
    }
}

fn tell(
    arguments: &RedactArguments,
    options: &RedactOptions,
    reports: &[RedactReport],
    targets: &[Target],
) -> Result<ExitCode> {
    if !arguments.quiet || arguments.json {
        let text = match arguments.json {
            true => render::json::redacted(reports, options),
            false => render::redact::summary(reports, options, targets, arguments.map.as_deref()),
        };
        match targets.contains(&Target::Standard) {
            true => render::print_beside(&text),
            false => render::print(&text)?,
        }
    }
    Ok(ExitCode::from(exit::DONE))
}

/// Where the copies go: one file, or the files of a folder.
fn targets(arguments: &RedactArguments) -> Result<Vec<Target>> {
    let place =
        |path: &Path| Target::File { path: path.to_path_buf(), if_there: IfThere::of_force(arguments.force) };
    match (&arguments.sources[..], &arguments.output) {
        ([_], output) => Ok(vec![target_of(output.as_ref(), arguments.force)]),
        (several, Some(folder)) if folder != Path::new("-") => {
            std::fs::create_dir_all(folder).map_err(|error| Error::writing(folder, &error))?;
            let name = |source: &PathBuf| source.file_name().map(|name| place(&folder.join(name)));
            several
                .iter()
                .map(|source| {
                    name(source).ok_or_else(|| {
                        Error::unusable(
                            format!("{}: it has no name for a copy", source.display()),
                            "redact it alone",
                        )
                    })
                })
                .collect()
        }
        _ => Err(Error::unusable("several sources become several copies", "give a folder for them with -o")),
    }
}

/// A name for the copy of a source by which its format is recognised again.
fn copy_name(folder: &Path, nth: usize, source: &Path) -> PathBuf {
    let file = SourcePlace::of(source).file;
    let name = file.file_name().unwrap_or_default().to_string_lossy().into_owned();
    // The copy is not compressed.
    let name = name.trim_end_matches(".gz").trim_end_matches(".zst");
    folder.join(format!("copy-{nth}-{}", name.trim_start_matches('-')))
}

fn copy_into(copy: &Path, output: &mut Output) -> Result<()> {
    let failed = |error: std::io::Error| Error::reading(&copy.display().to_string(), &error);
    let mut file = File::open(copy).map_err(failed)?;
    let mut buffer = vec![0; 1 << 18];
    loop {
        match file.read(&mut buffer).map_err(failed)? {
            0 => return Ok(()),
            read => output.write(&buffer[..read])?,
        }
    }
}

fn pieces(open: OpenOptions) -> PieceOptions {
    PieceOptions { open, overlap: REACH, id: None, limits: Limits::default() }
}

fn restore(copy: &Path, map: &Path, target: &Target) -> Result<ExitCode> {
    clashes::refuse_read(&[copy, map], &[target])?;
    let map = RedactMap::read(map)?;
    let (mut input, mut bytes) = (Input::open(copy, false, false)?, Vec::new());
    while input.fill(&mut bytes, 1 << 20)? > 0 {}
    let mut restored = Vec::with_capacity(bytes.len());
    let report = redact::restore(&bytes, &map, &mut restored)?;
    let mut output = target.open()?;
    output.write(&restored)?;
    output.finish()?;
    let text = render::redact::restored(&report);
    match target {
        Target::Standard => render::print_beside(&text),
        _ => render::print(&text)?,
    }
    Ok(ExitCode::from(if report.unsure > 0 { exit::TOLD } else { exit::DONE }))
}

fn search(sources: &[PathBuf], json: bool, machine: &MachineArguments) -> Result<ExitCode> {
    let settings = Settings::without_sources(&JudgingArguments::default())?;
    let open = OpenOptions { chunk_bytes: machine.chunk_bytes.unwrap_or(1 << 19), ..OpenOptions::default() };
    let options = SearchOptions {
        sources: sources.to_vec(),
        pieces: pieces(open),
        policy: settings.policy.clone(),
        threads: settings::threads(machine),
    };
    let report = progress_bar::watch(sources, json, |progress| redact::search(&options, progress))?;
    render::print(&match json {
        true => render::json::searched(&report),
        false => render::redact::found(&report),
    })?;
    let is_clean = report.addresses + report.telephones == 0 && report.troubles.is_empty();
    Ok(ExitCode::from(if is_clean { exit::DONE } else { exit::TOLD }))
}
