//! Mailboxes that have moved, as `bounces` writes them: every record of one takes the new address.

use std::collections::{BTreeMap, HashMap};
use std::path::Path;

use ypogram_core::{Hasher, Policy, examine};
use ypogram_io::{Error, EveryTable, OpenOptions, Result, Source};

use crate::decisions::{Answer, AnswerKind, Answers};
use crate::engine::header_cells::sort_of_cell;
use crate::engine::progress::Progress;
use crate::engine::reading::Reading;
use crate::jobs::clean::CleanOptions;
use crate::jobs::settle::questions::each_row;
use crate::jobs::settle::resolve::refuse_rejected;
use crate::judge::annotate::{Judging, Wanted};
use crate::judge::judge_all::judge_all;
use crate::plan::fields::FieldPlan;

/// The columns by which a table of such mailboxes is known.
const COLUMNS: [&str; 2] = ["recipient", "new_address"];

/// Mailboxes that have moved.
#[derive(Clone, Debug, Default)]
pub struct Moved {
    /// The new address of each, by the mailbox key of the old one, with the old one as it stands in the file.
    by_key: BTreeMap<String, (String, String)>,
    /// Rows that name no new address.
    pub without_address: u64,
}

/// What came of looking for their records.
#[derive(Clone, Debug, Default)]
pub struct MovedRecords {
    /// The decision for each record.
    pub answers: BTreeMap<u64, Answer>,
    /// Old addresses that no record has.
    pub unknown: Vec<String>,
}

impl Moved {
    /// Those in the file at `path`; none where it has no such columns, and is something else.
    ///
    /// # Errors
    /// Where it cannot be read, an address is none or would be rejected, or one mailbox has two new addresses: with the line.
    pub fn read(path: &Path, policy: &Policy) -> Result<Option<Self>> {
        let options = OpenOptions { sort_of: Some(sort_of_cell), ..OpenOptions::default() };
        let mut tables = EveryTable::of(path, &options)?;
        let mut moved = Moved::default();
        let mut found = false;
        while let Some(mut table) = tables.next_table()? {
            found |= moved.add_table(&mut *table, policy)?;
        }
        Ok(found.then_some(moved))
    }

    fn add_table(&mut self, table: &mut dyn Source, policy: &Policy) -> Result<bool> {
        let fields = table.schema().fields.clone();
        let place = |name: &str| fields.iter().position(|field| field.trim().eq_ignore_ascii_case(name));
        let [Some(recipient), Some(new_address)] = COLUMNS.map(place) else { return Ok(false) };
        let what = place("what");
        let name = table.name().to_owned();
        each_row(table, &mut |line, cells| {
            // What is not about a new address is for other commands.
            let is_other = what.is_some_and(|what| !cells[what].trim().eq_ignore_ascii_case("moved"));
            if is_other || cells.iter().all(|cell| cell.trim().is_empty()) {
                return Ok(());
            }
            if cells[new_address].trim().is_empty() {
                self.without_address += 1;
                return Ok(());
            }
            let unfit = |why: String| {
                let hint = "nothing was written; correct the line, or remove it";
                Error::unusable(format!("{name}, line {line}: {why}"), hint)
            };
            let (old, new) = (cells[recipient].trim(), cells[new_address].trim());
            let key = examine(old.as_bytes(), policy).key(policy.same, policy);
            let key = key.ok_or_else(|| unfit(format!("‘{old}’ is no address")))?;
            refuse_rejected(new, policy).map_err(|why| unfit(format!("the new address {why}")))?;
            let before = self.by_key.insert(key, (new.to_owned(), old.to_owned()));
            match before.filter(|(before, _)| before != new) {
                Some((before, _)) => Err(unfit(format!("‘{old}’ has moved to ‘{before}’ as well"))),
                None => Ok(()),
            }
        })?;
        Ok(true)
    }

    /// The records that have these mailboxes, found by reading the sources of `options` again; what was decided about a record earlier
    /// counts as its address.
    ///
    /// # Errors
    /// Where a source cannot be read, or somebody asked to stop.
    pub fn records(
        &self,
        options: &CleanOptions,
        earlier: &Answers,
        progress: &Progress,
    ) -> Result<MovedRecords> {
        let policy = &options.policy;
        let hasher = Hasher::with_key(options.hash_key);
        let hash = |key: &str| hasher.hash(key.as_bytes());
        let by_hash: HashMap<u128, &(String, String)> =
            self.by_key.iter().map(|(key, moved)| (hash(key), moved)).collect();
        let mut reading = Reading::open(&options.sources, &options.open)?;
        let plan = FieldPlan::settle(&mut reading, &options.fields, policy)?;
        let judging = Judging { plan: &plan, policy, hasher };
        let wanted = Wanted { duplicates: true, ..Wanted::default() };
        let mut found = MovedRecords::default();
        let mut unknown: Vec<&str> = self.by_key.values().map(|(_, old)| old.as_str()).collect();
        let mut record = 0;
        judge_all(&mut reading, judging, (&wanted, true), (options.threads, progress), |_, part| {
            for row in &part.rows {
                record += 1;
                let before = earlier.by_record.get(&record);
                if before.is_some_and(|before| before.kind == AnswerKind::Dropped) {
                    continue;
                }
                let decided = before.and_then(|answer| answer.address.as_ref());
                let decided =
                    decided.and_then(|address| examine(address.as_bytes(), policy).key(policy.same, policy));
                let key = decided.map_or(row.key, |key| hash(&key));
                let Some((new, old)) = by_hash.get(&key).filter(|_| key != 0) else { continue };
                unknown.retain(|other| other != old);
                // What somebody decided about the record holds on.
                let (kind, findings) = match before {
                    Some(before) if before.kind != AnswerKind::Moved => {
                        (AnswerKind::Typed, before.findings.clone())
                    }
                    _ => (AnswerKind::Moved, Vec::new()),
                };
                let answer = Answer { kind, address: Some(new.clone()), findings };
                found.answers.insert(record, answer);
            }
            Ok(())
        })?;
        found.unknown = unknown.into_iter().map(str::to_owned).collect();
        Ok(found)
    }
}
