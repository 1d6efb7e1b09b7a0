//! The values of a field: how many distinct ones, and the most frequent.

use compact_str::CompactString;
use serde::{Deserialize, Serialize};

use crate::engine::distinct::DistinctCount;
use crate::engine::hash_sample::HashSample;

/// Up to this many distinct values are all counted; beyond, between half as many and as many are a sample of them, so that
/// the number of distinct values has a standard error of 0.55 % at most.
pub(crate) const EXACT: usize = 1 << 16;

/// Up to this many records, drawn at random, tell how frequent values are once there are too many to count all: a share of
/// 1 % is then known to 0.2 points.
const DRAWN: usize = 1 << 15;

/// A drawn value counts as frequent from this many times on.
const FREQUENT: u64 = 5;

/// Bytes of a value that are shown.
const SHOWN: usize = 120;

/// A value and how often it is there.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct TopValue {
    /// The value, cut after 120 bytes.
    pub value: String,
    /// How many cells have it.
    pub count: u64,
}

/// The values of a field.
#[derive(Clone, Debug)]
pub(crate) struct Values {
    held: HashSample<Held>,
    drawn: Vec<Drawn>,
    /// Leading zero bits that the number of a drawn record must have.
    draw_level: u32,
}

#[derive(Clone, Debug)]
struct Held {
    count: u64,
    text: CompactString,
}

/// The value of a record that was drawn.
#[derive(Clone, Debug)]
struct Drawn {
    record: u64,
    hash: u64,
    text: CompactString,
}

impl Default for Values {
    fn default() -> Self {
        Values { held: HashSample::new(EXACT), drawn: Vec::new(), draw_level: 0 }
    }
}

impl Values {
    /// Adds a value with its hash. `record` is a number drawn for the record, equally spread and the same in every run.
    #[inline]
    pub(crate) fn add(&mut self, hash: u64, text: &[u8], record: u64) {
        if let Some(held) = self.held.value(hash, || Held { count: 0, text: cut(text) }) {
            held.count += 1;
            self.held.thin();
        }
        if record.leading_zeros() >= self.draw_level {
            self.drawn.push(Drawn { record, hash, text: cut(text) });
            self.draw_fewer();
        }
    }

    fn draw_fewer(&mut self) {
        while self.drawn.len() > DRAWN {
            self.draw_level += 1;
            let level = self.draw_level;
            self.drawn.retain(|drawn| drawn.record.leading_zeros() >= level);
        }
    }

    /// Adds the values that another thread saw.
    pub(crate) fn merge(&mut self, mut other: Values) {
        self.held.merge(other.held, |held, more| held.count += more.count);
        self.held.thin();
        let level = self.draw_level.max(other.draw_level);
        self.draw_level = level;
        self.drawn.append(&mut other.drawn);
        self.drawn.retain(|drawn| drawn.record.leading_zeros() >= level);
        self.draw_fewer();
    }

    /// How many distinct values there are.
    pub(crate) fn distinct(&self) -> DistinctCount {
        DistinctCount { count: self.held.distinct(), exact: self.held.is_exact() }
    }

    /// Whether every value is there once; beyond what is counted exactly, whether all of the sample are.
    pub(crate) fn are_unique(&self) -> bool {
        self.held.iter().all(|(_, held)| held.count == 1)
    }

    /// The `most` most frequent values, and whether their counts are exact; else these are estimates, and only values that
    /// stand out are among them.
    pub(crate) fn top(&self, most: usize) -> (Vec<TopValue>, bool) {
        let is_exact = self.held.is_exact();
        let mut all: Vec<(u64, &str)> = if is_exact {
            self.held.iter().map(|(_, held)| (held.count, held.text.as_str())).collect()
        } else {
            self.estimated()
        };
        let order = |a: &(u64, &str), b: &(u64, &str)| b.0.cmp(&a.0).then(a.1.cmp(b.1));
        if all.len() > most {
            all.select_nth_unstable_by(most, order);
            all.truncate(most);
        }
        all.sort_unstable_by(order);
        let named = |(count, text): (u64, &str)| TopValue { value: text.to_owned(), count };
        (all.into_iter().map(named).collect(), is_exact)
    }

    /// How often the values are there that were drawn several times.
    fn estimated(&self) -> Vec<(u64, &str)> {
        let mut counts = std::collections::HashMap::<u64, (u64, &str)>::new();
        for drawn in &self.drawn {
            counts.entry(drawn.hash).or_insert((0, drawn.text.as_str())).0 += 1;
        }
        counts.retain(|_, (drawn, _)| *drawn >= FREQUENT);
        // Of a held one the exact count is known.
        let held = |hash| self.held.get(hash).map(|held| held.count);
        counts
            .into_iter()
            .map(|(hash, (drawn, text))| (held(hash).unwrap_or(drawn << self.draw_level), text))
            .collect()
    }
}

/// A value as it is shown; short ones need no memory of their own.
fn cut(text: &[u8]) -> CompactString {
    if text.len() <= SHOWN
        && let Ok(text) = std::str::from_utf8(text)
    {
        return text.into();
    }
    let end = (0..=SHOWN.min(text.len()))
        .rev()
        .find(|&at| at == text.len() || text[at] & 0xC0 != 0x80)
        .unwrap_or(SHOWN);
    let mut cut = CompactString::from_utf8_lossy(&text[..end]);
    if end < text.len() {
        cut.push('…');
    }
    cut
}

#[cfg(test)]
mod tests {
    use super::*;
    use ypogram_core::Hasher;

    /// 400,000 cells: value n of 150,000 is there once, and every tenth cell is one of three frequent ones.
    fn cells() -> impl Iterator<Item = (u64, String)> {
        (0..400_000_u64).map(|i| match i % 30 {
            0 => (i, "often".to_owned()),
            10 | 20 if i % 4 == 0 => (i, "less often".to_owned()),
            _ => (i, format!("value {}", i % 150_000)),
        })
    }

    fn gathered(parts: u64) -> Values {
        let hasher = Hasher::with_key(0);
        let mut all: Vec<Values> = (0..parts).map(|_| Values::default()).collect();
        for (i, text) in cells() {
            let hash = hasher.hash(text.as_bytes()) as u64;
            all[(i % parts) as usize].add(hash, text.as_bytes(), hasher.hash(&i.to_le_bytes()) as u64);
        }
        all.into_iter()
            .reduce(|mut sum, more| {
                sum.merge(more);
                sum
            })
            .expect("there are parts")
    }

    #[test]
    fn near_what_there_is_however_it_is_divided() {
        let mut exact = std::collections::HashMap::<String, u64>::new();
        cells().for_each(|(_, text)| *exact.entry(text).or_default() += 1);
        let values = gathered(1);
        let distinct = values.distinct();
        assert!(!distinct.exact);
        let error = distinct.count as f64 / exact.len() as f64 - 1.0;
        assert!(error.abs() < 3.0 * 0.0055, "{error}");
        let (top, counts_are_exact) = values.top(2);
        assert!(!counts_are_exact);
        for (found, name) in top.iter().zip(["often", "less often"]) {
            assert_eq!(found.value, name);
            let off = found.count.abs_diff(exact[name]);
            assert!(off < 400_000 / 200, "{name}: off by {off}");
        }
        for parts in [2, 7] {
            let divided = gathered(parts);
            assert_eq!(divided.distinct(), distinct);
            assert_eq!(divided.top(50), values.top(50));
        }
    }

    #[test]
    fn exact_while_few() {
        let hasher = Hasher::with_key(0);
        let mut values = Values::default();
        for text in ["b", "a", "b", "c"] {
            values.add(hasher.hash(text.as_bytes()) as u64, text.as_bytes(), 1);
        }
        assert_eq!(values.distinct(), DistinctCount { count: 3, exact: true });
        let top = values.top(2).0;
        assert_eq!(top.iter().map(|top| (&*top.value, top.count)).collect::<Vec<_>>(), [("b", 2), ("a", 1)]);
        assert!(!values.are_unique());
    }
}
