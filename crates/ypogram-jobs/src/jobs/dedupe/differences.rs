//! Pairs of records that one rule joins and another does not.

use std::collections::HashMap;

use ypogram_core::SameMailbox;
use ypogram_io::{Output, Result};

use crate::engine::side_table::SideTable;
use crate::jobs::dedupe::DedupeOptions;
use crate::jobs::dedupe::spelling::{Spelling, text};

/// The pairs, written as they are seen: a record and the first one that some rule joins it with. Holds one entry for each
/// mailbox.
pub(crate) struct Differences {
    table: SideTable,
    /// A field distinguishes records.
    with_id: bool,
    firsts: Vec<First>,
    /// For each rule, the first record of each key.
    by_rule: [HashMap<u64, u32>; 4],
}

struct First {
    record: u64,
    line: u64,
    id: Box<str>,
    address: Box<str>,
    hashes: [u64; 4],
}

impl Differences {
    /// # Errors
    /// Where the file exists or cannot be made.
    pub(crate) fn open(options: &DedupeOptions, with_id: bool) -> Result<Option<Self>> {
        let Some(target) = &options.rule_differences else { return Ok(None) };
        let names = [
            "record",
            "line",
            "address",
            "other_record",
            "other_line",
            "other_address",
            "joined_by",
            "kept_apart_by",
        ];
        Ok(Some(Differences {
            table: SideTable::open_pairs(target, &names, with_id, &options.rows.guard_alone())?,
            with_id,
            firsts: Vec::new(),
            by_rule: Default::default(),
        }))
    }

    /// A record with a usable address; `spelling` starts with its standard form up to a zero.
    pub(crate) fn add(&mut self, record: u64, line: u64, spelling: &[u8], hashes: &[u64; 4]) -> Result<()> {
        let Spelling { address, id, .. } = Spelling::read(spelling);
        let (address, id): (Box<str>, Box<str>) = (text(address).into(), text(id).into());
        let mut others: Vec<u32> =
            self.by_rule.iter().zip(hashes).filter_map(|(firsts, hash)| firsts.get(hash)).copied().collect();
        others.sort_unstable();
        others.dedup();
        for other in others {
            self.write_pair((record, line), [&address, &id], hashes, other as usize)?;
        }
        if self.by_rule.iter().zip(hashes).any(|(firsts, hash)| !firsts.contains_key(hash)) {
            let own = self.firsts.len() as u32;
            for (firsts, &hash) in self.by_rule.iter_mut().zip(hashes) {
                firsts.entry(hash).or_insert(own);
            }
            self.firsts.push(First { record, line, id, address, hashes: *hashes });
        }
        Ok(())
    }

    fn write_pair(
        &mut self,
        (record, line): (u64, u64),
        [address, id]: [&str; 2],
        hashes: &[u64; 4],
        other: usize,
    ) -> Result<()> {
        let First { record: other_record, line: other_line, address: other_address, hashes: others, .. } =
            &self.firsts[other];
        let rules = |joined: bool| {
            let pairs = SameMailbox::ALL.iter().zip(hashes.iter().zip(others));
            let those =
                pairs.filter(|(_, (own, other))| (own == other) == joined).map(|(rule, _)| rule.word());
            those.collect::<Vec<_>>().join(" ")
        };
        let (joined, apart) = (rules(true), rules(false));
        if joined.is_empty() || apart.is_empty() {
            return Ok(());
        }
        let numbers = [record, line, *other_record, *other_line].map(|number| number.to_string());
        let [record, line, other_record, other_line] = &numbers;
        let cells = [record, line, address, other_record, other_line, other_address, &joined, &apart];
        let ids = self.with_id.then(|| [id, &self.firsts[other].id]);
        self.table.add(cells.into_iter().chain(ids.into_iter().flatten()))
    }

    /// The file, whole but not published yet.
    ///
    /// # Errors
    /// Where it cannot be written.
    pub(crate) fn finish(self) -> Result<Output> {
        self.table.finish()
    }
}
