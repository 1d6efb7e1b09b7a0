//! What was replaced, as far as the proof needs it.

use std::collections::BTreeMap;

use hashbrown::{HashMap, HashSet};
use ypogram_core::Hasher;
use ypogram_io::Encoding;

use crate::jobs::redact::covered::Covered;
use crate::jobs::redact::hidden_values::HiddenValues;
use crate::jobs::redact::personal::{Personal, What};

/// What was replaced by what, as far as the proof needs it.
#[derive(Debug, Default)]
pub struct Replaced {
    /// The encoding in which the source was read; none where that is UTF-8.
    pub(super) encoding: Option<&'static Encoding>,
    /// Where in the copy something stands in the place of something else, in bytes and in order.
    places: Covered,
    /// The parts that were encoded anew, by where they start in the copy.
    parts: BTreeMap<u64, Part>,
    /// Values of hidden fields that must stand nowhere.
    pub(super) values: HiddenValues,
    /// Of what stands in a place the hash of what stood there, to tell whether different texts became the same.
    stood: HashMap<u64, u64>,
    /// Different texts that became the same.
    merged: HashSet<u64>,
}

impl Replaced {
    /// Notes what stands in the place of something, in so many bytes up to byte `end` of the copy; gives its hash.
    pub(super) fn note(&mut self, personal: &Personal, bytes: usize, end: u64, hasher: Hasher) -> u64 {
        self.places.push(end - bytes as u64, end);
        self.note_text(personal, hasher)
    }

    /// The same wherever that is.
    pub(super) fn note_text(&mut self, personal: &Personal, hasher: Hasher) -> u64 {
        let instead = hasher.hash_short(personal.instead.as_bytes());
        let text = hasher.hash_short(&personal.text.to_ascii_lowercase());
        if *self.stood.entry(instead).or_insert(text) != text {
            self.merged.insert(instead);
        }
        if personal.what == What::Field {
            self.values.add(&personal.text);
        }
        instead
    }

    /// Adds a value of a hidden field.
    pub(super) fn add_value(&mut self, value: &[u8]) {
        self.values.add(value);
    }

    /// Notes what stands in the text of a part that was encoded anew, from `start` to `end` of the copy.
    pub(super) fn note_part(&mut self, start: u64, end: u64, within: &[Personal]) {
        let texts =
            within.iter().map(|personal| personal.instead.to_ascii_lowercase().into_bytes()).collect();
        self.parts.insert(start, Part { end, places: Covered::of(within), texts });
    }

    /// Whether what stands in the text of a part from `start` to `end` is all in the place of something.
    pub(super) fn covers_in_part(&self, part: u64, start: u64, end: u64) -> bool {
        self.parts.get(&part).is_some_and(|part| part.places.covers(start, end))
    }

    /// Whether what stands in the copy as it is sent, in a part that was encoded anew, is what stands in the place of something there.
    pub(super) fn covers_as_sent(&self, personal: &Personal) -> bool {
        let part = self.parts.range(..=personal.start).next_back().map(|(_, part)| part);
        let text = personal.text.to_ascii_lowercase();
        part.is_some_and(|part| personal.end <= part.end && part.texts.contains(&text))
    }

    /// Whether what stands in the copy from `start` to `end` is all in the place of something.
    pub(super) fn covers(&self, start: u64, end: u64) -> bool {
        self.places.covers(start, end)
    }

    /// Whether different texts became what has that hash.
    pub(super) fn has_merged(&self, instead: u64) -> bool {
        self.merged.contains(&instead)
    }
}

/// A part that was encoded anew.
#[derive(Debug)]
struct Part {
    /// Where it ends in the copy.
    end: u64,
    /// Where in its text something stands in the place of something else.
    places: Covered,
    /// What stands there, in lower case.
    texts: HashSet<Vec<u8>>,
}
