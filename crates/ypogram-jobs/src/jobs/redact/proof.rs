//! A copy searched with everything the program knows, before it is published.

use std::path::{Path, PathBuf};

use serde::Serialize;
use ypogram_core::Hasher;
use ypogram_io::pieces::{PieceOptions, Places};
use ypogram_io::{Error, OpenOptions, Result, encoding_named};

use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::jobs::extract::feed::{ExtractTask, Feed};
use crate::jobs::extract::places::Lines;
use crate::jobs::redact::finder::Finder;
use crate::jobs::redact::options::{RedactBy, RedactOptions};
use crate::jobs::redact::personal::{Part, Personal};
use crate::jobs::redact::pieces::look;
use crate::jobs::redact::replaced::Replaced;

/// Something that was left in a copy.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Left {
    /// What it is: an address, or a value of a hidden field.
    pub what: &'static str,
    /// Where it stands in the copy, in bytes.
    pub offset: u64,
    /// Its line in the copy, and so in the source, from 1.
    pub line: u64,
}

/// Searches the copy at `path` for addresses that none of the replacements is, and for values of hidden fields.
///
/// # Errors
/// Where the copy cannot be read.
pub fn prove(
    options: &RedactOptions,
    path: PathBuf,
    replaced: &Replaced,
    progress: &Progress,
) -> Result<Vec<Left>> {
    let hasher = Hasher::with_key(options.hash_key);
    // Without its addresses a text can look as if it were in another encoding.
    let encoding = replaced.encoding.or_else(|| encoding_named("utf-8"));
    let open = OpenOptions { encoding, ..options.pieces.open.clone() };
    let pieces = PieceOptions { open, ..options.pieces.clone() };
    let mut feed = Feed::new(std::slice::from_ref(&path), &pieces, &[])?;
    // Whatever stands in its place here tells nothing.
    let by = RedactBy::Hash;
    let workers = (0..options.threads.max(1)).map(|_| {
        let mut finder = Finder::new(&options.policy, &[], &by, hasher);
        let values = &replaced.values;
        move |task: &mut ExtractTask, found: &mut (Part, Vec<Hidden>)| {
            let (part, hidden) = found;
            look(&mut finder, task, part)?;
            hidden.clear();
            let (piece, offset) = (&task.piece, task.piece.offset);
            if !values.is_empty() {
                piece.segments(&task.name, &mut |segment| {
                    if let Places::Part(encoded) = &segment.places {
                        let text = String::from_utf8_lossy(segment.text);
                        for (stretch, text) in encoded.stretches(&piece.bytes, &text) {
                            let part = Some(offset + stretch.range.start as u64);
                            values.find(text.as_bytes(), |start, end| {
                                hidden.push(Hidden { part, start: start as u64, end: end as u64 });
                            });
                        }
                        if !encoded.is_header() {
                            return;
                        }
                    }
                    // The value of a header stands there as it is sent where it is not encoded.
                    let (body, from) = match &segment.places {
                        Places::Part(header) => (&piece.bytes[header.range.clone()], None),
                        _ => (&segment.text[segment.body.clone()], Some(segment.body.start)),
                    };
                    values.find(body, |start, end| {
                        let place = |at| match from {
                            Some(from) => offset + segment.places.of(from + at) as u64,
                            None => offset + (segment.places.of(0) + at) as u64,
                        };
                        hidden.push(Hidden { part: None, start: place(start), end: place(end) });
                    });
                })?;
            }
            Ok(())
        }
    });
    let mut left = Vec::new();
    pipeline::run_in_order(&mut feed, workers.collect(), progress, |_, (part, hidden)| {
        let addresses = part.found.iter().filter(|found| !is_replaced(found, replaced));
        left.extend(addresses.map(|personal| Left { what: "address", offset: personal.start, line: 0 }));
        left.extend((0..part.fixed).map(|_| Left { what: "address in an encoded part", offset: 0, line: 0 }));
        let hidden = hidden.drain(..).filter(|hidden| match hidden.part {
            Some(part) => !replaced.covers_in_part(part, hidden.start, hidden.end),
            None => !replaced.covers(hidden.start, hidden.end),
        });
        left.extend(hidden.map(|hidden| Left {
            what: "value of a hidden field",
            offset: hidden.part.unwrap_or(hidden.start),
            line: 0,
        }));
        Ok(())
    })?;
    set_lines(&mut left, &path)?;
    Ok(left)
}

/// Where a value of a hidden field stands: in the copy, or in the text of an encoded part that starts there.
struct Hidden {
    part: Option<u64>,
    start: u64,
    end: u64,
}

/// Whether what was found in a copy is in the place of something, as far as it tells whose it is: words that stood directly behind an address
/// can look like more of its domain.
fn is_replaced(found: &Personal, replaced: &Replaced) -> bool {
    let at_sign = found.text.iter().rposition(|&byte| byte == b'@');
    let end = match at_sign {
        Some(at_sign) if found.text.len() as u64 == found.end - found.start => {
            found.start + at_sign as u64 + 1
        }
        _ => found.end,
    };
    match found.within.is_empty() {
        true => replaced.covers(found.start, end) || replaced.covers_as_sent(found),
        false => {
            found.within.iter().all(|within| replaced.covers_in_part(found.start, within.start, within.end))
        }
    }
}

/// Sets the lines of what was left.
fn set_lines(left: &mut [Left], path: &Path) -> Result<()> {
    if left.is_empty() {
        return Ok(());
    }
    left.sort_by_key(|left| left.offset);
    let copy = std::fs::read(path).map_err(|error| Error::reading(&path.display().to_string(), &error))?;
    let mut lines = Lines { bytes: &copy, start: 0, from: 0, count: 0 };
    for left in left {
        left.line = lines.up_to((left.offset as usize).min(copy.len())) as u64 + 1;
    }
    Ok(())
}
