//! Whether domains exist and take mail: each is asked about once, and what was learnt is kept.

mod answer;
mod answers;
#[cfg(feature = "dns")]
mod asking;
mod names;
mod options;
#[cfg(feature = "dns")]
mod questions;
mod store;
#[cfg(feature = "dns")]
mod trust;

pub use answer::{Answer, AnswerKind};
pub use answers::{Answers, AskNow, Others};
#[cfg(feature = "dns")]
pub use asking::{AskProgress, Asked, OneByOne, ask};
pub use names::domains_of;
pub use options::DnsOptions;
pub use store::{Store, add_to, load, text};
