//! What of the records is in a page: none, and examples masked, unless the page is to have them.

use std::collections::BTreeMap;

use ypogram_core::{Code, Policy, examine, masked, shown};
use ypogram_jobs::ShownRecord;

use crate::render::page::parts::Records;
use crate::render::words::number;

/// As many records open behind a figure.
pub(crate) const MOST_RECORDS: usize = 50;

/// A value that fewer records share may be somebody's.
const SHARED_BY: u64 = 5;

/// What of the records is in a page.
#[derive(Debug, Default)]
pub(crate) struct Examples {
    /// The first records behind each figure, by its name; none where the page is to have no records.
    records: Option<BTreeMap<String, Vec<ShownRecord>>>,
    /// The names of their columns.
    columns: Vec<String>,
    /// The names of the sources, where there are several.
    sources: Vec<String>,
}

impl Examples {
    /// Those records, with the cells of these fields.
    pub(crate) fn of(
        records: BTreeMap<String, Vec<ShownRecord>>,
        fields: &[String],
        sources: Vec<String>,
    ) -> Self {
        let source = (sources.len() > 1).then(|| "source".to_owned());
        let columns =
            source.into_iter().chain(["line".to_owned()]).chain(fields.iter().map(|f| shown(f.as_bytes())));
        Examples { records: Some(records), columns: columns.collect(), sources }
    }

    /// A cell, as it may be shown.
    pub(crate) fn cell(&self, cell: &str) -> String {
        let shown = shown(cell.as_bytes());
        if self.records.is_some() { shown } else { masked(&shown) }
    }

    /// A value of a field that so many records share, as it may be shown.
    pub(crate) fn value(&self, value: &str, count: u64) -> String {
        let digits = value.chars().filter(char::is_ascii_digit).count();
        let is_personal = count < SHARED_BY || value.contains('@') || digits > 5;
        if is_personal { self.cell(value) } else { shown(value.as_bytes()) }
    }

    /// A local part: that of a role is nobody's.
    pub(crate) fn local_part(&self, local_part: &str) -> String {
        let examined = examine(format!("{local_part}@fernhollow.org").as_bytes(), &Policy::default());
        if examined.codes.contains(Code::RoleAccount) {
            shown(local_part.as_bytes())
        } else {
            self.cell(local_part)
        }
    }

    /// The first records behind the figure of that name, of so many.
    pub(crate) fn behind(&self, name: &str, count: u64) -> Option<Records> {
        let records = self.records.as_ref()?.get(name).filter(|records| !records.is_empty())?;
        let row = |record: &ShownRecord| {
            let source = self.sources.get(record.source).filter(|_| self.sources.len() > 1).cloned();
            let cells = record.cells.iter().map(|cell| shown(cell.as_bytes()));
            source.into_iter().chain([number(record.line)]).chain(cells).collect()
        };
        let of = match (records.len() as u64, count) {
            (all, count) if all == count && all == 1 => "the record".to_owned(),
            (all, count) if all == count => format!("the {} records", number(all)),
            (first, count) => format!("the first {} of {} records", number(first), number(count)),
        };
        Some(Records { columns: self.columns.clone(), rows: records.iter().map(row).collect(), of })
    }
}
