//! Which personal values are in a file that is about to be sent, and where.

use std::path::PathBuf;
use std::sync::Arc;

use serde::Serialize;
use ypogram_core::text::{self, ScanEvent, Seen};
use ypogram_core::{Class, Hasher, Judge, Policy, ready_patterns};
use ypogram_io::Result;
use ypogram_io::pieces::{PieceOptions, Segment};

use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::jobs::extract::feed::{ExtractTask, Feed};
use crate::jobs::extract::places::Lines;
use crate::jobs::redact::finder::EVERYTHING;

/// What is looked for, and where.
#[derive(Clone, Debug)]
pub struct SearchOptions {
    /// Files and folders.
    pub sources: Vec<PathBuf>,
    /// How to cut them.
    pub pieces: PieceOptions,
    /// How addresses are judged.
    pub policy: Policy,
    /// Worker threads.
    pub threads: usize,
}

/// A personal value and where it stands.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Sighting {
    /// `address` or `telephone`.
    pub what: &'static str,
    /// As it stands.
    pub text: String,
    /// The field, key or part; empty for plain text.
    pub field: String,
    /// The file.
    pub source: String,
    /// From 1; none where there are no lines.
    pub line: u64,
}

/// What was found.
#[derive(Clone, Debug, Default)]
pub struct SearchReport {
    /// Files that were read, by name.
    pub files: Vec<Arc<str>>,
    /// Addresses, tokens of redacted copies apart.
    pub addresses: u64,
    /// Telephone numbers.
    pub telephones: u64,
    /// Tokens of redacted copies.
    pub tokens: u64,
    /// The first of what was found.
    pub first: Vec<Sighting>,
    /// Files that could not be read.
    pub troubles: Vec<String>,
}

/// As many are listed.
const LISTED: usize = 1000;

#[derive(Default)]
struct Part {
    found: Vec<(&'static str, String, String, usize)>,
    tokens: u64,
    lines: u64,
}

/// Looks for addresses in every way of writing, and for telephone numbers.
///
/// # Errors
/// Where a file that was named cannot be read.
pub fn search(options: &SearchOptions, progress: &Progress) -> Result<SearchReport> {
    let mut feed = Feed::new(&options.sources, &options.pieces, &[])?;
    let workers = (0..options.threads.max(1)).map(|_| {
        let mut searcher = Searcher::new(&options.policy);
        move |task: &mut ExtractTask, part: &mut Part| searcher.look(task, part)
    });
    let mut report = SearchReport::default();
    let (mut source, mut lines) = (None, 0);
    pipeline::run_in_order(&mut feed, workers.collect(), progress, |task, part: &mut Part| {
        if source != Some(task.source) {
            (source, lines) = (Some(task.source), task.lines_before);
        }
        report.tokens += part.tokens;
        for (what, text, field, line) in part.found.drain(..) {
            match what {
                "address" => report.addresses += 1,
                _ => report.telephones += 1,
            }
            if report.first.len() < LISTED {
                let line = lines + line as u64 + 1;
                report.first.push(Sighting { what, text, field, source: task.name.to_string(), line });
            }
        }
        lines += part.lines;
        Ok(())
    })?;
    let read = feed.into_report();
    report.files = read.files;
    report.troubles = read.troubles;
    Ok(report)
}

struct Searcher<'p> {
    judge: Judge<'p>,
    telephones: Vec<ypogram_core::Pattern>,
}

impl<'p> Searcher<'p> {
    fn new(policy: &'p Policy) -> Self {
        let named = ["telephone", "telephone-area-code"].into_iter().filter_map(ready_patterns::named);
        Searcher {
            judge: Judge::new(policy, Hasher::with_key(0)),
            telephones: named.map(|ready| ready.pattern()).collect(),
        }
    }

    fn look(&mut self, task: &mut ExtractTask, part: &mut Part) -> Result<()> {
        task.piece.load(&task.name)?;
        part.found.clear();
        (part.tokens, part.lines) = (0, 0);
        let piece = &task.piece;
        let start = piece.body.start;
        let mut lines = Lines { bytes: &piece.bytes, start, from: start, count: 0 };
        let counted = piece.segments(&task.name, &mut |segment| {
            self.segment(&segment, |at| lines.above(&segment, at).max(0) as usize, part);
        })?;
        part.lines = counted.lines.unwrap_or_else(|| lines.up_to(piece.body.end) as u64);
        Ok(())
    }

    fn segment(&mut self, segment: &Segment<'_>, mut line: impl FnMut(usize) -> usize, part: &mut Part) {
        let mut found: Vec<(usize, Vec<u8>)> = Vec::new();
        let body = segment.body.clone();
        text::look_with(segment.text, body.clone(), &mut self.judge, EVERYTHING, |_, event| match event {
            ScanEvent::Judged(within) => {
                found.push((within.bare.start, within.bare.of(segment.text).to_vec()));
            }
            ScanEvent::Seen(Seen::Match(hit), _) => found.push((hit.bare.start, hit.text.to_vec())),
            ScanEvent::Seen(Seen::Skipped(..), _) => {}
        });
        let field = || segment.field.to_owned();
        for (at, text) in found {
            match self.judge.judge(&text).class == Some(Class::Token) {
                true => part.tokens += 1,
                false => {
                    let text = String::from_utf8_lossy(&text).into_owned();
                    part.found.push(("address", text, field(), line(at)));
                }
            }
        }
        for (start, of_line) in lines(segment.text, body) {
            let mut taken = None;
            for telephone in &self.telephones {
                let matches = telephone.find_all(of_line).filter(|found| taken != Some(found.span.start));
                for found in matches.collect::<Vec<_>>() {
                    taken = Some(found.span.start);
                    let text = String::from_utf8_lossy(found.span.of(of_line)).into_owned();
                    part.found.push(("telephone", text, field(), line(start + found.span.start)));
                }
            }
        }
        part.found.sort_by_key(|(.., line)| *line);
    }
}

/// The lines of a part of a text, with where they start.
fn lines(text: &[u8], body: std::ops::Range<usize>) -> impl Iterator<Item = (usize, &[u8])> {
    let mut start = body.start;
    text[body].split_inclusive(|b| *b == b'\n').map(move |line| {
        let at = start;
        start += line.len();
        (at, line)
    })
}
