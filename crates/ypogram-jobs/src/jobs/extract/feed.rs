//! The pieces of one input after the other, opened when it is their turn.

use std::collections::VecDeque;
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use ypogram_io::pieces::{Listed, Opened, Piece, PieceOptions, list_files};
use ypogram_io::{Error, ErrorKind, Result, SourcePlace};

use crate::engine::pipeline;
use crate::jobs::extract::report::ReadReport;
use crate::plan::fields::nearest_field;

/// A piece and where it comes from.
#[derive(Debug, Default)]
pub(crate) struct ExtractTask {
    pub(crate) piece: Piece,
    pub(crate) source: usize,
    pub(crate) name: Arc<str>,
    /// Lines of the source before its first piece, and those of them without anything.
    pub(crate) lines_before: u64,
    pub(crate) blank_lines_before: u64,
    /// It was named itself: trouble with it is an error.
    pub(crate) named: bool,
}

pub(crate) struct Feed {
    files: VecDeque<Listed>,
    options: PieceOptions,
    fields: Vec<String>,
    current: Option<(Opened, Arc<str>, bool)>,
    source: usize,
    report: ReadReport,
    /// Enough was found.
    pub(crate) enough: Arc<AtomicBool>,
}

impl Feed {
    /// Lists the files. Those that were named are opened once at the start, so that a wrong name is reported before anything
    /// is written.
    pub(crate) fn new(sources: &[PathBuf], pieces: &PieceOptions, fields: &[String]) -> Result<Self> {
        let (files, troubles) = list_files(sources);
        for file in files.iter().filter(|file| file.named && file.path != std::path::Path::new("-")) {
            let place = SourcePlace::of(&file.path);
            if place.is_on_server() {
                Opened::open(&file.path, pieces)?;
                continue;
            }
            let place = place.file;
            std::fs::metadata(pieces.open.kept_file(&place).unwrap_or(&place)).map_err(
                |_| match Opened::open(&file.path, pieces) {
                    Err(error) => error,
                    Ok(_) => Error::unusable(format!("{}: cannot be read", file.path.display()), ""),
                },
            )?;
        }
        Ok(Feed {
            files: files.into(),
            options: pieces.clone(),
            fields: fields.to_vec(),
            current: None,
            source: 0,
            report: ReadReport { troubles, ..ReadReport::default() },
            enough: Arc::default(),
        })
    }

    /// Opens the next file; false where there is none.
    fn open_next(&mut self) -> Result<bool> {
        while let Some(file) = self.files.pop_front() {
            let opened = match Opened::open(&file.path, &self.options) {
                Ok(opened) => opened,
                Err(error) if file.named => return Err(error),
                Err(error) => {
                    match error.kind {
                        ErrorKind::Empty => {}
                        ErrorKind::NotRead(called) => *self.report.not_read.entry(called).or_default() += 1,
                        _ => self.report.troubles.push(error.message),
                    }
                    continue;
                }
            };
            self.check_fields(&opened)?;
            self.report.files.push(opened.file_name().into());
            self.enter(opened, file.named);
            return Ok(true);
        }
        Ok(false)
    }

    fn enter(&mut self, opened: Opened, named: bool) {
        self.source = self.report.names.len();
        let name: Arc<str> = opened.name().into();
        self.report.names.push(Arc::clone(&name));
        self.report.described = opened.described().map(str::to_owned);
        self.current = Some((opened, name, named));
    }

    /// Goes on to the next sheet or table of the file that was read to its end, where it has one.
    fn open_next_part(&mut self) -> Result<()> {
        let Some((opened, _, named)) = self.current.take() else { return Ok(()) };
        match opened.next_part(&self.options) {
            Ok(Some(next)) => self.enter(next, named),
            Ok(None) => {}
            Err(error) if named => return Err(error),
            Err(error) => self.report.troubles.push(error.message),
        }
        Ok(())
    }

    fn check_fields(&self, opened: &Opened) -> Result<()> {
        let Some(fields) = opened.kind().fields().filter(|_| !opened.is_one_of_several()) else {
            return Ok(());
        };
        if let Some(id) = self.options.id.as_ref().filter(|id| !fields.contains(id)) {
            return Err(Error::unusable(
                format!("{}: there is no field ‘{id}’", opened.name()),
                nearest_field(id, fields, "--id"),
            ));
        }
        match self.fields.iter().find(|field| !fields.contains(field)) {
            Some(missing) => Err(Error::unusable(
                format!("{}: there is no field ‘{missing}’", opened.name()),
                nearest_field(missing, fields, "--field"),
            )),
            None => Ok(()),
        }
    }

    pub(crate) fn into_report(self) -> ReadReport {
        self.report
    }
}

impl pipeline::Feed for Feed {
    type Task = ExtractTask;

    fn next(&mut self, task: &mut ExtractTask) -> Result<bool> {
        loop {
            if self.enough.load(Ordering::Relaxed) {
                return Ok(false);
            }
            if self.current.is_none() && !self.open_next()? {
                return Ok(false);
            }
            let Some((opened, name, named)) = &mut self.current else { return Ok(false) };
            match opened.next(&mut task.piece) {
                Ok(true) => {
                    task.source = self.source;
                    task.name = Arc::clone(name);
                    task.lines_before = opened.lines_before();
                    task.blank_lines_before = opened.blank_lines_before();
                    task.named = *named;
                    return Ok(true);
                }
                Ok(false) => {
                    let remarks = opened.remarks().into_iter().map(|remark| format!("{name}: {remark}"));
                    self.report.remarks.extend(remarks);
                    if let Some(why) = opened.broken_off() {
                        self.report.broken_off.push(format!("{name}: {why}"));
                    }
                    self.open_next_part()?;
                }
                Err(error) if *named => return Err(error),
                Err(error) => {
                    self.report.troubles.push(error.message);
                    self.current = None;
                }
            }
        }
    }

    fn bytes(task: &ExtractTask) -> u64 {
        task.piece.source_bytes.unwrap_or(task.piece.body.len() as u64)
    }
}
