//! Names of people for a mail merge: read out of a local part, and brought to proper capitals.

mod capitals;
mod derived;
mod differs;
mod words;

pub use capitals::{capitals, title_case};
pub use derived::{DerivedName, NameConfidence, NameOrder, derive};
pub use differs::differs;
pub use words::hash_of_words;

/// Words that stand before a family name and belong to it.
const PARTICLES: [&str; 38] = [
    "af", "al", "av", "ben", "bin", "d'", "da", "das", "de", "degli", "dei", "del", "della", "den", "der",
    "des", "di", "dos", "du", "el", "het", "ibn", "in", "la", "las", "le", "los", "op", "te", "ten", "ter",
    "van", "vande", "vander", "von", "vom", "zu", "zum",
];

fn is_particle(word: &str) -> bool {
    // Most words are longer than any particle.
    word.len() <= 6 && PARTICLES.contains(&word)
}
