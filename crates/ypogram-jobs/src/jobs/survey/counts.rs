//! The counts of a survey, named as in every other summary.

use serde::de::{MapAccess, Visitor};
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use ypogram_core::Verdict;

use crate::engine::distinct::DistinctCount;

/// The counts of a survey. Records unless said otherwise.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct SurveyCounts {
    /// Records surveyed.
    pub records: u64,
    /// Lines without anything in them.
    pub blank_lines: u64,
    /// Records without any address.
    pub no_address: u64,
    /// Usable records: as they stood, after repair, from text fields.
    pub usable: UsableFigures,
    /// By verdict of their address.
    #[serde(serialize_with = "by_name", deserialize_with = "from_names")]
    pub verdicts: Vec<Figure>,
    /// By finding.
    #[serde(serialize_with = "by_name", deserialize_with = "from_names")]
    pub findings: Vec<Figure>,
    /// Usable ones by repair, the most frequent first.
    #[serde(serialize_with = "by_name", deserialize_with = "from_names")]
    pub repairs: Vec<Figure>,
    /// By form of their address.
    #[serde(serialize_with = "by_name", deserialize_with = "from_names")]
    pub forms: Vec<Figure>,
    /// Usable ones by class, the most frequent first.
    #[serde(serialize_with = "by_name", deserialize_with = "from_names")]
    pub classes: Vec<Figure>,
    /// Usable ones by operator, the most frequent first.
    #[serde(serialize_with = "by_name", deserialize_with = "from_names")]
    pub operators: Vec<Figure>,
    /// Distinct mailboxes of usable addresses.
    pub mailboxes: u64,
    /// Distinct domains of these.
    pub domains: u64,
    /// Distinct shapes of the cells in the address fields.
    pub shapes: u64,
    /// The names of those counts that are estimates, such as `mailboxes`.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub estimated: Vec<String>,
}

/// A count under a name.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Figure {
    /// What is counted.
    pub name: String,
    /// How many.
    pub count: u64,
}

/// Usable records.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct UsableFigures {
    /// Their address stood in standard form.
    pub as_it_stood: u64,
    /// It had to be repaired.
    pub after_repair: u64,
    /// It comes from a text field.
    pub from_text: u64,
    /// All of them.
    pub total: u64,
}

impl SurveyCounts {
    /// Records with an address of that verdict.
    pub fn of(&self, verdict: Verdict) -> u64 {
        self.verdicts.iter().find(|figure| figure.name == verdict.word()).map_or(0, |figure| figure.count)
    }

    /// Distinct mailboxes.
    pub fn distinct_mailboxes(&self) -> DistinctCount {
        self.distinct("mailboxes", self.mailboxes)
    }

    /// Distinct domains.
    pub fn distinct_domains(&self) -> DistinctCount {
        self.distinct("domains", self.domains)
    }

    /// Distinct shapes.
    pub fn distinct_shapes(&self) -> DistinctCount {
        self.distinct("shapes", self.shapes)
    }

    fn distinct(&self, name: &str, count: u64) -> DistinctCount {
        DistinctCount { count, exact: !self.estimated.iter().any(|estimated| estimated == name) }
    }
}

/// Figures as an object: `{"plain": 12, "angle": 3}`. Their order is kept.
fn by_name<S: Serializer>(figures: &[Figure], serializer: S) -> Result<S::Ok, S::Error> {
    serializer.collect_map(figures.iter().map(|figure| (&figure.name, figure.count)))
}

fn from_names<'de, D: Deserializer<'de>>(deserializer: D) -> Result<Vec<Figure>, D::Error> {
    deserializer.deserialize_map(Figures)
}

struct Figures;

impl<'de> Visitor<'de> for Figures {
    type Value = Vec<Figure>;

    fn expecting(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        formatter.write_str("counts by name")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Self::Value, A::Error> {
        let mut figures = Vec::new();
        while let Some((name, count)) = map.next_entry()? {
            figures.push(Figure { name, count });
        }
        Ok(figures)
    }
}
