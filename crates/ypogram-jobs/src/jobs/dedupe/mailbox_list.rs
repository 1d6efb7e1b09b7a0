//! Each mailbox once, with how many records have it, the most first.

use ypogram_io::{Output, Result, RowSpec, SortBy};

use crate::engine::side_table::SideTable;

use crate::jobs::dedupe::DedupeOptions;
use crate::jobs::dedupe::spelling::{Spelling, text};
use crate::plan::date_order::day_first_key;

/// The list while it grows.
pub(crate) struct MailboxList {
    table: SideTable,
    with_id: bool,
    /// The sources' names, where there are several.
    sources: Option<Vec<String>>,
}

impl MailboxList {
    /// # Errors
    /// Where the file exists or cannot be made.
    pub(crate) fn open(options: &DedupeOptions, sources: &[String], with_id: bool) -> Result<Option<Self>> {
        let Some(target) = &options.report else { return Ok(None) };
        let several = sources.len() > 1;
        let more = several.then_some("source").into_iter().chain(with_id.then_some("id"));
        let names = ["address", "count", "record", "line"].into_iter().chain(more);
        let by_count = SortBy { column: "count".into(), downwards: true, key: day_first_key };
        let spec =
            RowSpec { sort_by: vec![by_count], memory: options.memory / 8, ..options.rows.guard_alone() };
        let numbers = ["count", "record", "line"];
        Ok(Some(MailboxList {
            table: SideTable::open(target, &names.collect::<Vec<_>>(), &numbers, &spec)?,
            with_id,
            sources: several.then(|| sources.to_vec()),
        }))
    }

    /// A mailbox with the record that is preferred of those which have it.
    ///
    /// # Errors
    /// Where it cannot be written.
    pub(crate) fn add(
        &mut self,
        count: u64,
        record: u64,
        source: usize,
        line: u64,
        spelling: &[u8],
    ) -> Result<()> {
        let Spelling { address, id, .. } = Spelling::read(spelling);
        let numbers = [count, record, line].map(|number| number.to_string());
        let (address, id) = (text(address), text(id));
        let source = self.sources.as_ref().map(|sources| &*sources[source]);
        let cells = std::iter::once(&*address).chain(numbers.iter().map(String::as_str));
        self.table.add(cells.chain(source).chain(self.with_id.then_some(&*id)))
    }

    /// The file, whole but not published yet.
    ///
    /// # Errors
    /// Where it cannot be written.
    pub(crate) fn finish(self) -> Result<Output> {
        self.table.finish()
    }
}
