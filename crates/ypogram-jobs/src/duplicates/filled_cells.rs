//! The list of every cell that was filled from another record.

use ypogram_io::{Output, Result, RowSpec, Target};

use crate::duplicates::merged_rows::Filled;
use crate::engine::side_table::SideTable;

/// The list while it grows.
pub(crate) struct FilledCells {
    fields: Vec<String>,
    table: SideTable,
}

impl FilledCells {
    /// Opens one for records with these fields; of `spec` counts how rows are guarded.
    ///
    /// # Errors
    /// Where the file exists and is not to be replaced, or cannot be made.
    pub(crate) fn open(target: &Target, fields: &[String], spec: &RowSpec) -> Result<Self> {
        let columns = ["record", "field", "value", "from_record"];
        let table = SideTable::open(target, &columns, &["record", "from_record"], &spec.guard_alone())?;
        Ok(FilledCells { fields: fields.to_vec(), table })
    }

    /// Adds the cells of the record of that number.
    ///
    /// # Errors
    /// Where the file cannot be written.
    pub(crate) fn add(&mut self, record: u64, filled: &[Filled]) -> Result<()> {
        filled.iter().try_for_each(|Filled { field, value, from }| {
            let (record, from) = (record.to_string(), from.to_string());
            self.table.add([&*record, &self.fields[*field], &*String::from_utf8_lossy(value), &*from])
        })
    }

    /// The file, whole but not published yet.
    ///
    /// # Errors
    /// Where it cannot be written.
    pub(crate) fn finish(self) -> Result<Output> {
        self.table.finish()
    }
}
