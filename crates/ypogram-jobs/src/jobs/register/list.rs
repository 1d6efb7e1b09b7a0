//! Every mailbox of a register as a table.

use ypogram_io::{Result, RowSpec, Target};

use crate::engine::side_table::SideTable;
use crate::jobs::register::store::Store;

/// Writes every mailbox, the address first; gives how many there are.
///
/// # Errors
/// Where the register cannot be read, or the file exists or cannot be written.
pub fn list(store: &Store, target: &Target) -> Result<u64> {
    let columns = ["address", "state", "since", "source", "key"];
    let mut table = SideTable::open(target, &columns, &[], &RowSpec::default())?;
    let mut count = 0;
    store.each(|entry| {
        count += 1;
        table.add([&entry.address, &entry.state, &entry.since, &entry.source, &entry.key])
    })?;
    table.finish()?.finish()?;
    Ok(count)
}
