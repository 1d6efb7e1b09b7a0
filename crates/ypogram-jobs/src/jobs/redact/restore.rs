//! The originals brought back into a redacted copy.

use std::io::Write;

use aho_corasick::{AhoCorasick, MatchKind};
use hashbrown::HashMap;
use serde::Serialize;
use ypogram_io::{Error, Result};

use crate::jobs::redact::map::RedactMap;
use crate::jobs::redact::wide::{Wide, bytes_of};

/// What came of restoring a copy.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Restored {
    /// Places at which an original was brought back.
    pub places: u64,
    /// Texts of the map that stand nowhere in the copy.
    pub missing: u64,
    /// Places whose original can be written in several ways, of which it is not known which: there are more or fewer of them than in the map.
    pub unsure: u64,
}

/// Writes `copy` to `out` with the originals in the place of what `map` has for them.
///
/// # Errors
/// Where the map is too large to be looked for, or `out` cannot be written.
pub fn restore(copy: &[u8], map: &RedactMap, out: &mut impl Write) -> Result<Restored> {
    let originals = map.originals();
    let mut texts: Vec<&str> = originals.keys().copied().collect();
    texts.sort_unstable();
    let wide = Wide::of(copy);
    let patterns: Vec<Vec<u8>> = texts.iter().map(|text| bytes_of(text, wide)).collect();
    let finder = AhoCorasick::builder().match_kind(MatchKind::LeftmostLongest).build(&patterns);
    let finder = finder.map_err(|error| Error::unusable(format!("the map is too large: {error}"), ""))?;
    let mut counts: HashMap<usize, u64> = HashMap::new();
    for found in finder.find_iter(copy) {
        *counts.entry(found.pattern().as_usize()).or_default() += 1;
    }
    let mut restored = Restored { missing: (texts.len() - counts.len()) as u64, ..Restored::default() };
    let mut seen: HashMap<usize, u64> = HashMap::new();
    let mut at = 0;
    let mut write = |bytes: &[u8]| {
        out.write_all(bytes)
            .map_err(|error| Error::writing(std::path::Path::new("the restored file"), &error))
    };
    for found in finder.find_iter(copy) {
        let text = found.pattern().as_usize();
        let runs = &originals[texts[text]];
        let nth = seen.entry(text).or_default();
        let all: u64 = runs.iter().map(|(_, times)| times).sum();
        // Which of several stood there is told by the order, as long as none was added or taken out.
        let is_unsure = runs.len() > 1 && counts[&text] != all;
        restored.unsure += u64::from(is_unsure);
        restored.places += 1;
        write(&copy[at..found.start()])?;
        write(original_of(runs, *nth, is_unsure))?;
        *nth += 1;
        at = found.end();
    }
    write(&copy[at..])?;
    Ok(restored)
}

/// The original at the place of that number; the most frequent one where that tells nothing.
fn original_of<'m>(runs: &[(&'m [u8], u64)], nth: u64, is_unsure: bool) -> &'m [u8] {
    if is_unsure || runs.len() == 1 {
        return runs.iter().max_by_key(|(_, times)| *times).map_or(b"", |(original, _)| original);
    }
    let mut before = 0;
    let at = runs.iter().find(|(_, times)| {
        before += times;
        nth < before
    });
    at.map_or(b"", |(original, _)| original)
}
