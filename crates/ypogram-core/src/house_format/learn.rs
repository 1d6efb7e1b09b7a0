//! The format that most addresses of a domain follow, found from addresses of persons whose names are known.

use std::collections::HashMap;

use crate::house_format::fold::{Fold, folded};
use crate::house_format::person::first_letters;

/// Counts how addresses are built, domain by domain.
///
/// ```
/// use ypogram_core::house_format::{Fold, HouseLearner};
/// let mut learner = HouseLearner::new(Fold::Plain);
/// learner.add("ada.lovell@fernhollow.example", "Ada", "Lovell");
/// learner.add("z.oneil@fernhollow.example", "Zoë", "O’Neil");
/// learner.add("bo.marsh2@fernhollow.example", "Bo", "Marsh");
/// learner.add("bo.marsh3@fernhollow.example", "Bo", "Marsh");
/// let learned = &learner.formats()[0];
/// assert_eq!(learned.format, r#"given "." family number? "@fernhollow.example""#);
/// assert_eq!((learned.following, learned.addresses), (3, 4));
/// ```
#[derive(Clone, Debug)]
pub struct HouseLearner {
    fold: Fold,
    by_domain: HashMap<String, Counts>,
}

/// The format that most addresses of a domain follow.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LearnedFormat {
    /// The domain, in lower-case A-labels.
    pub domain: String,
    /// The format, in the notation; empty where no two addresses are built alike.
    pub format: String,
    /// Addresses that follow it.
    pub following: u64,
    /// Addresses at the domain of persons whose names are known.
    pub addresses: u64,
}

#[derive(Clone, Debug, Default)]
struct Counts {
    addresses: u64,
    /// How many follow each way, and how many of them with digits behind.
    ways: HashMap<Way, [u64; 2]>,
}

/// A way to build a local part of one or two names.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
struct Way {
    /// The family name stands first.
    family_first: bool,
    /// Letters of the given name; none for the whole one, 0 where there is none.
    given: Option<usize>,
    family: Option<usize>,
    separator: &'static str,
}

const LETTERS: [Option<usize>; 5] = [None, Some(1), Some(2), Some(3), Some(0)];
const SEPARATORS: [&str; 4] = [".", "_", "-", ""];

impl HouseLearner {
    /// Knows nothing yet.
    pub fn new(fold: Fold) -> Self {
        HouseLearner { fold, by_domain: HashMap::new() }
    }

    /// Counts `address`, in standard form, of a person of those names; nothing where one of them is not known.
    pub fn add(&mut self, address: &str, given: &str, family: &str) {
        let (Some(given), Some(family)) = (folded(given, self.fold), folded(family, self.fold)) else {
            return;
        };
        let Some((local, domain)) = address.rsplit_once('@') else { return };
        let (local, domain) = (local.to_lowercase(), domain.to_lowercase());
        let counts = self.by_domain.entry(domain).or_default();
        counts.addresses += 1;
        let bare = local.trim_end_matches(|c: char| c.is_ascii_digit());
        let has_number = usize::from(bare.len() < local.len());
        for way in ways().filter(|way| way.build(&given, &family) == bare) {
            counts.ways.entry(way).or_default()[has_number] += 1;
        }
    }

    /// What was found, the domain with the most addresses first.
    pub fn formats(&self) -> Vec<LearnedFormat> {
        let mut all: Vec<LearnedFormat> =
            self.by_domain.iter().map(|(domain, counts)| counts.format(domain)).collect();
        all.sort_by(|a, b| (b.addresses, &a.domain).cmp(&(a.addresses, &b.domain)));
        all
    }
}

impl Counts {
    fn format(&self, domain: &str) -> LearnedFormat {
        let total = |counts: &[u64; 2]| counts[0] + counts[1];
        // Of equal ones the one with whole names, which comes first.
        let best = self.ways.iter().max_by(|(one, a), (other, b)| (total(a), other).cmp(&(total(b), one)));
        let addresses = self.addresses;
        let Some((way, counts)) = best.filter(|(_, counts)| total(counts) > 1 || addresses == 1) else {
            return LearnedFormat {
                domain: domain.to_owned(),
                format: String::new(),
                following: 0,
                addresses,
            };
        };
        // One alone may be a slip.
        let number = if counts[1] > 1 { "number? " } else { "" };
        let format = format!("{} {number}\"@{domain}\"", way.written());
        LearnedFormat { domain: domain.to_owned(), format, following: total(counts), addresses }
    }
}

fn ways() -> impl Iterator<Item = Way> {
    let of_letters = |given| LETTERS.into_iter().map(move |family| (given, family));
    let pairs = LETTERS.into_iter().flat_map(of_letters).filter(|pair| *pair != (Some(0), Some(0)));
    pairs.flat_map(|(given, family)| {
        let alone = given == Some(0) || family == Some(0);
        let separators = if alone { &SEPARATORS[3..] } else { &SEPARATORS[..] };
        let orders = if alone { &[false][..] } else { &[false, true] };
        orders.iter().flat_map(move |&family_first| {
            separators.iter().map(move |&separator| Way { family_first, given, family, separator })
        })
    })
}

impl Way {
    fn build(self, given: &str, family: &str) -> String {
        let of = |name: &str, letters: Option<usize>| match letters {
            None => name.to_owned(),
            Some(count) => first_letters(name, count),
        };
        let (given, family) = (of(given, self.given), of(family, self.family));
        let (first, second) = if self.family_first { (family, given) } else { (given, family) };
        format!("{first}{}{second}", self.separator)
    }

    /// In the notation.
    fn written(self) -> String {
        let of = |name: &str, letters: Option<usize>| match letters {
            None => Some(name.to_owned()),
            Some(0) => None,
            Some(count) => Some(format!("{name}({count})")),
        };
        let (given, family) = (of("given", self.given), of("family", self.family));
        let (first, second) = if self.family_first { (family, given) } else { (given, family) };
        let separator = Some(format!("\"{}\"", self.separator)).filter(|_| !self.separator.is_empty());
        [first, separator, second].into_iter().flatten().collect::<Vec<_>>().join(" ")
    }
}
