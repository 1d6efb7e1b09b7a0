//! The top-level domains, as a list: what asks for one at a time asks [`public_suffix`](crate::data::public_suffix).

/// Every top-level domain in A-labels.
pub(crate) fn all() -> impl Iterator<Item = &'static str> {
    include_str!("../../data/endings.txt").lines().filter(|line| !line.starts_with('#'))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::data::public_suffix;

    /// Every one of the list is known, and no others of up to three letters are.
    #[test]
    fn the_list_is_that_of_public_suffixes() {
        // Below some of them nobody registers names but two labels down.
        let is_known = |ending: &str| {
            let mut below = ["mill", "ac"].iter().map(|name| format!("ada.{name}.{ending}"));
            below.any(|domain| public_suffix::of(domain.as_bytes()).is_some())
        };
        let listed: hashbrown::HashSet<&str> = all().collect();
        assert!(all().is_sorted() && listed.len() > 1_400);
        let unknown: Vec<_> = all().filter(|ending| !is_known(ending)).collect();
        assert!(unknown.is_empty(), "{unknown:?}");
        let letters = || (b'a'..=b'z').map(char::from);
        let short = letters().flat_map(|a| letters().map(move |b| format!("{a}{b}")));
        let longer = short.clone().flat_map(|two| letters().map(move |c| format!("{two}{c}")));
        for ending in short.chain(longer) {
            assert_eq!(is_known(&ending), listed.contains(&*ending), "{ending}");
        }
    }
}
