//! Titles and marks of employment in local parts, which are no part of a name.

/// How people are addressed: what follows alone is the family name.
const ADDRESSES: [&str; 32] = [
    "dhr",
    "dott",
    "dr",
    "dra",
    "drs",
    "frau",
    "herr",
    "hr",
    "ir",
    "mevr",
    "miss",
    "mister",
    "mlle",
    "mme",
    "monsieur",
    "mr",
    "mrs",
    "ms",
    "mx",
    "pan",
    "pani",
    "prof",
    "professor",
    "rev",
    "senor",
    "senora",
    "sig",
    "signor",
    "sir",
    "sr",
    "sra",
    "srta",
];

/// Degrees, and what firms mark people with.
const MARKS: [&str; 30] = [
    "adm",
    "bsc",
    "consultant",
    "contractor",
    "ctr",
    "dipl",
    "ext",
    "extern",
    "external",
    "habil",
    "ii",
    "iii",
    "ing",
    "intern",
    "jr",
    "jun",
    "jur",
    "mag",
    "mba",
    "md",
    "med",
    "msc",
    "nat",
    "phd",
    "phil",
    "rer",
    "sen",
    "snr",
    "student",
    "trainee",
];

/// The words of a local part without titles and marks at both ends, and whether a way to address somebody was among them. One word
/// is left in any case.
pub(super) fn left_out<'a, 'w>(mut words: &'a [&'w str]) -> (&'a [&'w str], bool) {
    let is_address = |word: &str| ADDRESSES.contains(&word);
    let mut addressed = false;
    let goes = |word: &&str| is_address(word) || MARKS.contains(word);
    while let [first, rest @ ..] = words
        && !rest.is_empty()
        && goes(first)
    {
        addressed |= is_address(first);
        words = rest;
    }
    while let [rest @ .., last] = words
        && !rest.is_empty()
        && goes(last)
    {
        addressed |= is_address(last);
        words = rest;
    }
    (words, addressed)
}

/// ‘mr.mrs.lovell’: both are addressed, and none of them by a first name.
pub(super) fn address_a_couple(words: &[&str]) -> bool {
    const HE: [&str; 6] = ["mr", "herr", "monsieur", "senor", "sr", "mister"];
    const SHE: [&str; 7] = ["mrs", "ms", "miss", "frau", "mme", "senora", "sra"];
    words.iter().any(|word| HE.contains(word)) && words.iter().any(|word| SHE.contains(word))
}

/// Whether a word in a row of hyphens says that somebody is not employed, as in `anna.lovell-ext`.
pub(super) fn is_outside_mark(word: &str) -> bool {
    matches!(word, "consultant" | "contractor" | "ctr" | "ext" | "extern" | "external" | "intern")
}
