//! Mail as a table: the headers of each message, read with `mailparse`. What stands in the bodies is found by `extract`.

mod source;

pub(crate) use source::open;
