//! Which record is a duplicate of which, and what the one that stays takes from the others. Here belongs the rule and what it needs to
//! know of the records; nothing here reads a source or judges an address.

pub(crate) mod decisions;
pub(crate) mod filled_cells;
pub(crate) mod first_records;
pub(crate) mod merge;
pub(crate) mod merged_rows;
pub(crate) mod partitions;
pub(crate) mod survivor;
