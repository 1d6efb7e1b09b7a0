//! Every record that shares its mailbox, group by group, the largest groups first.

use ypogram_io::{Output, Result, SortedRows};

use crate::duplicates::decisions::Decision;
use crate::engine::packed_cells::{pack, unpack};
use crate::engine::side_table::SideTable;
use crate::jobs::dedupe::DedupeOptions;
use crate::jobs::dedupe::report::GroupMember;

/// The list while it grows.
pub(crate) struct GroupList {
    table: SideTable,
    /// By size, group and rank.
    rows: SortedRows,
    row: Vec<u8>,
    with_id: bool,
    /// The sources' names, where there are several.
    sources: Option<Vec<String>>,
}

impl GroupList {
    /// # Errors
    /// Where the file exists or cannot be made.
    pub(crate) fn open(options: &DedupeOptions, sources: &[String], with_id: bool) -> Result<Option<Self>> {
        let Some(target) = &options.groups else { return Ok(None) };
        let several = sources.len() > 1;
        let names = ["group", "count", "record", "line", "address", "as_found", "stays"].into_iter();
        let more = several.then_some("source").into_iter().chain(with_id.then_some("id"));
        Ok(Some(GroupList {
            table: SideTable::open(
                target,
                &names.chain(more).collect::<Vec<_>>(),
                &["group", "count", "record", "line"],
                &options.rows.guard_alone(),
            )?,
            rows: SortedRows::within(options.memory / 8),
            row: Vec::new(),
            with_id,
            sources: several.then(|| sources.to_vec()),
        }))
    }

    /// A record of a group.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn add(&mut self, decision: Decision, member: &GroupMember) -> Result<()> {
        let stays = match (decision.rank, decision.other_person) {
            (0, _) => "yes",
            (_, true) => "other-person",
            _ => "no",
        };
        let numbers = [decision.count, member.record, member.line].map(|number| number.to_string());
        let texts = [&*member.address, &*member.as_found, stays];
        let source = self.sources.as_ref().map(|sources| &*sources[member.source]);
        let id = self.with_id.then_some(&*member.id);
        self.row.clear();
        let cells = numbers.iter().map(String::as_str).chain(texts).chain(source).chain(id);
        cells.for_each(|cell| pack(cell.as_bytes(), &mut self.row));
        let key = [
            &(u64::MAX - decision.count).to_be_bytes()[..],
            &decision.group.to_be_bytes(),
            &decision.rank.to_be_bytes(),
        ];
        self.rows.add(&key.concat(), &self.row)
    }

    /// The file, whole but not published yet.
    ///
    /// # Errors
    /// Where it cannot be written, or the temporary folder cannot be used.
    pub(crate) fn finish(mut self) -> Result<Output> {
        let (mut number, mut group) = (0, Vec::new());
        let table = &mut self.table;
        self.rows.finish(&mut |key, row| {
            // The rank stands last.
            let of = &key[..16];
            if group != of {
                (number, group) = (number + 1, of.to_vec());
            }
            table.add(std::iter::once(number.to_string().as_bytes()).chain(unpack(row)))
        })?;
        self.table.finish()
    }
}
