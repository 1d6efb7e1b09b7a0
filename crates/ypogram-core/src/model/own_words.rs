//! Words that a job adds to a built-in table, such as a class of its own. They are few, get a place behind the built-in
//! ones, and keep it for the life of the process.

use std::sync::OnceLock;

/// Places for the words that jobs add to one table.
pub(crate) struct OwnWords<T: 'static, const N: usize> {
    places: [OnceLock<T>; N],
}

impl<T, const N: usize> OwnWords<T, N> {
    pub(crate) const fn new() -> Self {
        OwnWords { places: [const { OnceLock::new() }; N] }
    }

    /// The place of the word that `is` recognises; `make` makes it where it is not there. None where all places are taken.
    pub(crate) fn place_of(&self, is: impl Fn(&T) -> bool, make: impl FnOnce() -> T) -> Option<usize> {
        let mut make = Some(make);
        self.places.iter().position(|place| {
            let there = place.get_or_init(|| (make.take().expect("a word is made once"))());
            is(there)
        })
    }

    /// The word at `place`.
    pub(crate) fn get(&'static self, place: usize) -> Option<&'static T> {
        self.places.get(place).and_then(OnceLock::get)
    }

    /// How many there are.
    pub(crate) fn len(&self) -> usize {
        self.places.iter().take_while(|place| place.get().is_some()).count()
    }
}

/// Whether `word` can be the name of a class or finding: lower-case letters, digits and hyphens, as the built-in ones are.
pub(crate) fn is_name(word: &str) -> bool {
    word.len() <= 40
        && word.starts_with(|c: char| c.is_ascii_lowercase())
        && word.bytes().all(|b| b.is_ascii_lowercase() || b.is_ascii_digit() || b == b'-')
        && !word.ends_with('-')
}

/// Keeps `text` for the life of the process, as the words of the built-in table are.
pub(crate) fn kept(text: String) -> &'static str {
    Box::leak(text.into_boxed_str())
}
