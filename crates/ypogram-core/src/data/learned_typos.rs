//! Typing slips learnt from a list itself: a domain seen a few times, one slip from one seen very often.

use hashbrown::HashMap;

use crate::data::edit_distance::one_edit_apart;
use crate::data::known_typos;

/// A domain seen this often may be what others are slips of.
const OFTEN: u64 = 20;

/// What is a slip of it is seen at most once for every so many times.
const RARER: u64 = 20;

/// Shorter names have too many real neighbours.
const SHORTEST_NAME: usize = 5;

/// Domains that are probably slips, each with the one that was probably meant.
///
/// ```
/// use ypogram_core::LearnedTypos;
/// let counts = [(&b"lensworks.example"[..], 400), (b"lenswroks.example", 2), (b"lensworms.example", 90)];
/// let learnt = LearnedTypos::from_counts(counts);
/// assert_eq!(learnt.meant(b"lenswroks.example"), Some("lensworks.example"));
/// assert_eq!(learnt.meant(b"lensworms.example"), None, "too often for a slip");
/// ```
#[derive(Clone, Debug, Default)]
pub struct LearnedTypos {
    meant: HashMap<Vec<u8>, String>,
}

impl LearnedTypos {
    /// Learns from domains (lower-case A-labels) and how often each was seen.
    pub fn from_counts<'a>(counts: impl IntoIterator<Item = (&'a [u8], u64)>) -> Self {
        let mut counts: Vec<(&[u8], u64)> = counts.into_iter().collect();
        counts.sort_unstable_by(|a, b| b.1.cmp(&a.1).then(a.0.cmp(b.0)));
        let long_enough =
            |domain: &[u8]| memchr::memchr(b'.', domain).is_some_and(|dot| dot >= SHORTEST_NAME);
        let often: Vec<(&[u8], u64)> =
            counts.iter().copied().filter(|(domain, count)| *count >= OFTEN && long_enough(domain)).collect();
        // One deletion from each side makes any two that are one edit apart meet, so that not every pair is compared.
        let mut near: HashMap<Vec<u8>, Vec<usize>> = HashMap::new();
        for (place, (domain, _)) in often.iter().enumerate() {
            for variant in with_one_left_out(domain) {
                near.entry(variant).or_default().push(place);
            }
        }
        let mut meant = HashMap::new();
        for &(domain, count) in &counts {
            if known_typos::is_real(domain) || crate::data::providers::find(domain).is_some() {
                continue;
            }
            let found = with_one_left_out(domain)
                .filter_map(|variant| near.get(&variant))
                .flatten()
                .filter(|&&place| often[place].1 >= count * RARER && one_edit_apart(domain, often[place].0))
                .min();
            if let Some(&place) = found {
                meant.insert(domain.to_vec(), String::from_utf8_lossy(often[place].0).into_owned());
            }
        }
        LearnedTypos { meant }
    }

    /// What was probably meant by `domain`.
    pub fn meant(&self, domain: &[u8]) -> Option<&str> {
        self.meant.get(domain).map(String::as_str)
    }

    /// How many slips were learnt.
    pub fn len(&self) -> usize {
        self.meant.len()
    }

    /// Whether nothing was learnt.
    pub fn is_empty(&self) -> bool {
        self.meant.is_empty()
    }
}

/// The word itself, and with each of its bytes left out.
fn with_one_left_out(word: &[u8]) -> impl Iterator<Item = Vec<u8>> {
    let left_out = (0..word.len()).map(move |i| [&word[..i], &word[i + 1..]].concat());
    std::iter::once(word.to_vec()).chain(left_out)
}
