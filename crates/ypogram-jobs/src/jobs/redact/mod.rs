//! Copies of sources without the addresses in them: each is replaced where it stands, and all else stays byte for byte.

mod covered;
mod encoded_parts;
mod finder;
mod hidden_values;
mod map;
mod options;
mod personal;
mod pieces;
mod proof;
mod records;
mod replaced;
mod report;
mod restore;
mod search;
mod splice;
mod wide;

use std::fs::File;
use std::io::BufWriter;
use std::path::Path;

use hashbrown::HashSet;
use ypogram_core::Hasher;
use ypogram_io::{Error, Input, Result};

use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::jobs::extract::feed::{ExtractTask, Feed};
use finder::Finder;
pub use map::RedactMap;
pub use options::{RedactBy, RedactOptions};
use personal::Part;
pub use proof::{Left, prove};
pub use records::{has_typed_cells, run_records};
pub use replaced::Replaced;
pub use report::RedactReport;
pub use restore::{Restored, restore};
pub use search::{SearchOptions, SearchReport, Sighting, search};
use splice::Splice;
use wide::bytes_of;

/// Writes a copy of `source` without what is to be hidden to `out`, and remembers what was replaced.
///
/// # Errors
/// Where the source is unusable, has cells that are no text, or has what cannot be replaced where it stands, or the copy cannot be written.
pub fn run(
    options: &RedactOptions,
    source: &Path,
    out: File,
    (replaced, mut map): (&mut Replaced, Option<&mut RedactMap>),
    progress: &Progress,
) -> Result<RedactReport> {
    let hasher = Hasher::with_key(options.hash_key);
    let mut feed = Feed::new(&[source.to_path_buf()], &options.pieces, &options.hide)?;
    let kept = options.pieces.open.kept_file(source).unwrap_or(source);
    let mut splice = Splice::new(Input::open(kept, false, false)?, BufWriter::new(out));
    let mut report = RedactReport { source: source.display().to_string(), ..RedactReport::default() };
    let workers = (0..options.threads.max(1)).map(|_| {
        let mut finder = Finder::new(&options.policy, &options.hide, &options.by, hasher);
        move |task: &mut ExtractTask, part: &mut Part| pieces::look(&mut finder, task, part)
    });
    let mut here = HashSet::new();
    pipeline::run_in_order(&mut feed, workers.collect(), progress, |task, part: &mut Part| {
        refuse_what_stays(task, part)?;
        report.passed_over += part.passed;
        replaced.encoding = replaced.encoding.or(task.piece.encoding);
        for personal in part.found.drain(..) {
            let instead = bytes_of(&personal.instead, part.wide);
            let stood = splice.replace(personal.start, personal.end, &instead)?;
            if let Some(map) = &mut map {
                map.note(&personal.instead, &stood);
            }
            if personal.within.is_empty() {
                here.insert(replaced.note(&personal, instead.len(), splice.written(), hasher));
                report.count(personal.what);
                continue;
            }
            let end = splice.written();
            replaced.note_part(end - instead.len() as u64, end, &personal.within);
            for personal in personal.within {
                here.insert(replaced.note_text(&personal, hasher));
                report.count(personal.what);
            }
        }
        Ok(())
    })?;
    splice.finish()?;
    let read = feed.into_report();
    if let Some(why) = read.broken_off.first().or(read.troubles.first()) {
        return Err(Error::unusable(why.clone(), "a copy without part of its source is not made"));
    }
    report.different = here.len() as u64;
    report.merged = here.iter().filter(|instead| replaced.has_merged(**instead)).count() as u64;
    Ok(report)
}

/// What cannot be replaced where it stands must not be left there.
fn refuse_what_stays(task: &ExtractTask, part: &Part) -> Result<()> {
    let name = &task.name;
    if part.fixed > 0 {
        return Err(Error::unusable(
            format!(
                "{name}: there are addresses in it that cannot be replaced: they do not stand there as bytes, or in a part of mail whose encoding is broken or unknown"
            ),
            "redact tables as CSV or JSON lines: ypogram check FILE --columns … --to csv",
        ));
    }
    if part.faults > 0 {
        return Err(Error::unusable(
            format!("{name}: Ypogram has a fault of its own with part of it"),
            "please report it; no copy was made",
        ));
    }
    Ok(())
}
