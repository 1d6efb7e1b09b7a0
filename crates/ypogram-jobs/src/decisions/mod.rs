//! What somebody decided about records for review: for the records of one run, and remembered for later ones.

mod answers;
mod decision;
mod idle;
mod memory;

pub(crate) use answers::PlacedAnswers;
pub use answers::{Answer, AnswerKind, Answers};
pub use decision::Decision;
pub use idle::IdleDecision;
pub(crate) use memory::never_from_memory;
pub use memory::{Memory, Remembered};
