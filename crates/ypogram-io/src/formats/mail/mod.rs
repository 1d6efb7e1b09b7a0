//! Mail as a table: the headers of each message, read with `mailparse`. What stands in the bodies is found by `extract`.

mod source;
mod whole;

pub(crate) use source::open;
pub use whole::{MailMessage, MailPart, UnreadMessage, each_message};
