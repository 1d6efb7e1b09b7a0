//! Which record is a duplicate of which. Here belongs the rule and what it needs to know of earlier records; nothing here reads a
//! source or knows what a record looks like.

pub(crate) mod first_records;
