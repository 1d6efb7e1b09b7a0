//! Takes the decisions somebody made about the records of an output folder of `clean`: what is kept there is opened, what came back is
//! read and held against it, and the answers are what [`clean`](crate::clean) then goes by.

mod folder;
mod moved;
mod questions;
mod resolve;
mod returned;

pub use folder::SettleFolder;
pub use moved::{Moved, MovedRecords};
pub use questions::{Question, Questions};
pub use resolve::{Asked, answers_to, suggestions_as_sure};
pub use returned::Returned;
