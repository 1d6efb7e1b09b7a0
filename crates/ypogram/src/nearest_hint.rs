//! What to say where a word is not known.

use ypogram_io::nearest;

/// Names the nearest of the words that are known, and otherwise all of them where they are few.
pub(crate) fn nearest_hint<'a>(word: &str, known: impl Iterator<Item = &'a str>) -> String {
    let known: Vec<&str> = known.collect();
    match nearest(word, known.iter().copied()) {
        Some(nearest) => format!("did you mean ‘{nearest}’?"),
        None if known.len() <= 12 => format!("known here: {}", known.join(", ")),
        None => "see docs/rulebook.md".into(),
    }
}
