//! Small words that belong to a family name: the one list, for display names, kinds of cells and names of people.

/// Words that stand before a family name and belong to it, sorted.
const PARTICLES: [&str; 45] = [
    "af", "al", "av", "ben", "bin", "bint", "d'", "da", "dal", "das", "de", "degli", "dei", "del", "della",
    "dello", "den", "der", "des", "di", "do", "dos", "du", "el", "het", "ibn", "in", "la", "las", "le",
    "los", "of", "op", "te", "ten", "ter", "van", "vande", "vander", "vd", "vom", "von", "zu", "zum", "zur",
];

/// Whether `word`, in lower case, stands before a family name and belongs to it.
pub(crate) fn is_particle(word: &str) -> bool {
    // Most words are longer than any particle.
    word.len() <= 6 && PARTICLES.binary_search(&word).is_ok()
}

/// The same, and the single letters that join two family names, which elsewhere are initials.
pub(crate) fn stands_between_names(word: &str) -> bool {
    is_particle(word) || matches!(word, "e" | "y")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn particles_are_sorted() {
        assert!(PARTICLES.is_sorted());
        assert!(is_particle("dos") && is_particle("ibn") && !is_particle("anna"));
    }
}
