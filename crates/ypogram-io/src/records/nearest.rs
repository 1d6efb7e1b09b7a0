//! The word that was probably meant, for messages.

/// The one of `known` that is most like `word`, letter case aside; none where none is much like it.
///
/// ```
/// use ypogram_io::nearest;
/// assert_eq!(nearest("adress", ["name", "address"]), Some("address"));
/// assert_eq!(nearest("colour", ["name", "address"]), None);
/// ```
pub fn nearest<'a>(word: &str, known: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    let word = word.to_lowercase();
    let likeness = |known: &'a str| (strsim::jaro_winkler(&known.to_lowercase(), &word), known);
    let summary_key = known.into_iter().map(likeness).filter(|(likeness, _)| *likeness > 0.75);
    summary_key.max_by(|a, b| a.0.total_cmp(&b.0)).map(|(_, known)| known)
}
