//! Records judged: which address counts, what is reported about it, and what is counted. Nothing here opens a source or a file.

pub(crate) mod added_cells;
pub(crate) mod annotate;
pub(crate) mod by_summary_key;
pub(crate) mod cell_addresses;
pub(crate) mod checked_fields;
pub(crate) mod compared;
pub(crate) mod conditions;
pub(crate) mod contact_values;
pub(crate) mod decided;
pub(crate) mod elsewhere;
pub(crate) mod further;
pub(crate) mod house_clashes;
pub(crate) mod judge_all;
pub(crate) mod judged_address;
pub(crate) mod kinds;
pub(crate) mod repeated_values;
pub(crate) mod rule_counts;
pub(crate) mod select_address;
pub(crate) mod selection;
pub(crate) mod tally;
