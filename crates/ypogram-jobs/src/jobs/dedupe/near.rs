//! Probable twins: records that no rule joins, yet probably reach the same person. They are proposed and never dropped.

use std::collections::{BTreeSet, HashMap};

use compact_str::CompactString;
use serde::Serialize;
use ypogram_io::{Output, Result};

use crate::engine::side_table::SideTable;
use crate::jobs::dedupe::DedupeOptions;
use crate::jobs::dedupe::spelling::{Spelling, text};

/// What a record is compared by.
#[derive(Clone, Debug, Default)]
pub(crate) struct Traits {
    pub(crate) key: u64,
    /// The key of what was probably meant, where the address looks mistyped.
    pub(crate) meant: Option<u64>,
    /// A hash of the operator and the local part, where the operator is known.
    pub(crate) sibling: Option<u64>,
    pub(crate) domain: u64,
    pub(crate) person: u64,
    pub(crate) local_part: CompactString,
}

/// Why two records are probable twins.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Likeness {
    /// One is the other once the suggested slip is taken.
    TypingSlip,
    /// The same local part at another domain of the same operator.
    SameOperator,
    /// The same person at the same domain, with local parts one slip apart.
    SamePerson,
}

impl Likeness {
    /// The word in outputs.
    pub const fn word(self) -> &'static str {
        match self {
            Likeness::TypingSlip => "typing-slip",
            Likeness::SameOperator => "same-operator",
            Likeness::SamePerson => "same-person",
        }
    }
}

/// Two records that are probably of one person.
#[derive(Clone, Debug, Serialize)]
pub struct Twins {
    /// Why.
    pub likeness: Likeness,
    /// The later one.
    pub one: Twin,
    /// The earlier one.
    pub other: Twin,
    /// What the two say in the field that distinguishes records.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ids: Option<[String; 2]>,
}

/// One of two twins.
#[derive(Clone, Debug, Serialize)]
pub struct Twin {
    /// Its record, from 1.
    pub record: u64,
    /// The line where that starts, from 1.
    pub line: u64,
    /// Its address in standard form.
    pub address: String,
}

/// Holds one entry for each mailbox.
pub(crate) struct Near {
    table: SideTable,
    /// A field distinguishes records.
    with_id: bool,
    records: Vec<Seen>,
    by_key: HashMap<u64, u32>,
    by_sibling: HashMap<u64, Vec<u32>>,
    by_person: HashMap<(u64, u64), Vec<u32>>,
    pairs: BTreeSet<(u32, u32, Likeness)>,
    slips: Vec<(u32, u64)>,
}

struct Seen {
    record: u64,
    line: u64,
    id: Box<str>,
    address: Box<str>,
    local_part: CompactString,
    domain: u64,
}

/// Records that are compared with one another for one person at one domain, or one local part at one operator.
const MOST: usize = 16;

impl Near {
    /// # Errors
    /// Where the file exists or cannot be made.
    pub(crate) fn open(options: &DedupeOptions, with_id: bool) -> Result<Option<Self>> {
        let Some(target) = &options.near else { return Ok(None) };
        let names = ["likeness", "record", "line", "address", "other_record", "other_line", "other_address"];
        Ok(Some(Near {
            table: SideTable::open_pairs(target, &names, with_id, &options.rows.guard_alone())?,
            with_id,
            records: Vec::new(),
            by_key: HashMap::new(),
            by_sibling: HashMap::new(),
            by_person: HashMap::new(),
            pairs: BTreeSet::new(),
            slips: Vec::new(),
        }))
    }

    /// A record with a usable address; `spelling` starts with its standard form up to a zero. Of each mailbox the first
    /// counts.
    pub(crate) fn add(&mut self, record: u64, line: u64, spelling: &[u8], traits: &Traits) {
        let own = self.records.len() as u32;
        if *self.by_key.entry(traits.key).or_insert(own) != own {
            return;
        }
        let Spelling { address, id, .. } = Spelling::read(spelling);
        self.records.push(Seen {
            record,
            line,
            id: text(id).into(),
            address: text(address).into(),
            local_part: traits.local_part.clone(),
            domain: traits.domain,
        });
        if let Some(meant) = traits.meant {
            self.slips.push((own, meant));
        }
        if let Some(sibling) = traits.sibling {
            let others = self.by_sibling.entry(sibling).or_default();
            for &other in others.iter().take(MOST) {
                if self.records[other as usize].domain != traits.domain {
                    self.pairs.insert((other, own, Likeness::SameOperator));
                }
            }
            others.push(own);
        }
        if traits.person != 0 {
            let others = self.by_person.entry((traits.person, traits.domain)).or_default();
            for &other in others.iter().take(MOST) {
                let apart =
                    strsim::damerau_levenshtein(&self.records[other as usize].local_part, &traits.local_part);
                if apart == 1 {
                    self.pairs.insert((other, own, Likeness::SamePerson));
                }
            }
            others.push(own);
        }
    }

    /// All pairs, in the order of the records, and the file with them, which is not published yet.
    ///
    /// # Errors
    /// Where the file cannot be written.
    pub(crate) fn finish(mut self) -> Result<(Vec<Twins>, Output)> {
        for (own, meant) in std::mem::take(&mut self.slips) {
            if let Some(&other) = self.by_key.get(&meant).filter(|other| **other != own) {
                self.pairs.insert((own.min(other), own.max(other), Likeness::TypingSlip));
            }
        }
        let told = |place: u32| {
            let seen = &self.records[place as usize];
            Twin { record: seen.record, line: seen.line, address: seen.address.to_string() }
        };
        let with_id = self.with_id;
        let pairs = self.pairs.iter().map(|&(other, one, likeness)| Twins {
            likeness,
            one: told(one),
            other: told(other),
            ids: with_id.then(|| [one, other].map(|place| self.records[place as usize].id.to_string())),
        });
        let twins: Vec<Twins> = pairs.collect();
        for Twins { likeness, one, other, ids } in &twins {
            let numbers = [one.record, one.line, other.record, other.line].map(|number| number.to_string());
            let [record, line, other_record, other_line] = numbers.each_ref().map(String::as_str);
            let cells =
                [likeness.word(), record, line, &one.address, other_record, other_line, &other.address];
            let ids = ids.iter().flatten().map(String::as_str);
            self.table.add(cells.into_iter().chain(ids))?;
        }
        Ok((twins, self.table.finish()?))
    }
}
