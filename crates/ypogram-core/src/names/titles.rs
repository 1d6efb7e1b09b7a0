//! Titles and marks of employment in local parts, which are no part of a name.

include!(concat!(env!("OUT_DIR"), "/titles.rs"));

/// What a word says of a person beside the name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Title {
    He,
    She,
    /// Anybody is addressed so.
    Address,
    /// A degree or a generation.
    Mark,
    /// Not employed.
    Outside,
}

fn title(word: &str) -> Option<Title> {
    TITLES.get(word.as_bytes()).copied()
}

/// Whether `word`, in lower case, is a title or a mark.
pub(super) fn is_title(word: &str) -> bool {
    title(word).is_some()
}

fn addresses(word: &str) -> bool {
    matches!(title(word), Some(Title::He | Title::She | Title::Address))
}

/// The words of a local part without titles and marks at both ends, and whether a way to address somebody was among them. One word
/// is left in any case.
pub(super) fn left_out<'a, 'w>(mut words: &'a [&'w str]) -> (&'a [&'w str], bool) {
    let mut addressed = false;
    while let [first, rest @ ..] = words
        && !rest.is_empty()
        && title(first).is_some()
    {
        addressed |= addresses(first);
        words = rest;
    }
    while let [rest @ .., last] = words
        && !rest.is_empty()
        && title(last).is_some()
    {
        addressed |= addresses(last);
        words = rest;
    }
    (words, addressed)
}

/// ‘mr.mrs.lovell’: both are addressed, and none of them by a first name.
pub(super) fn address_a_couple(words: &[&str]) -> bool {
    let has = |wanted| words.iter().any(|word| title(word) == Some(wanted));
    has(Title::He) && has(Title::She)
}

/// Whether a word in a row of hyphens says that somebody is not employed, as in `anna.lovell-ext`.
pub(super) fn is_outside_mark(word: &str) -> bool {
    title(word) == Some(Title::Outside)
}
