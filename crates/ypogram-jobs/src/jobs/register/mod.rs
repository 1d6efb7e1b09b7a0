//! A register of mailboxes, which admits each of them once.

mod add;
mod ask;
mod list;
mod store;
mod verify;

pub use add::{Act, RegisterOptions, RegisterReport, add};
pub use ask::{AskOptions, ask};
pub use list::list;
pub use store::{Admission, Answer, Entry, Store};
pub use verify::{VerifyReport, verify};
