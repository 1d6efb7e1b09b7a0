//! How a house builds its addresses: a notation, whether an address fits, which part of it does not, and what it should be.

mod align;
mod describe;
mod domain_fault;
mod error;
mod fast;
mod fits;
mod fold;
mod format;
mod learn;
mod notation;
mod part;
mod person;
mod propose;
mod sentence;
mod sequences;
mod short_names;
mod verdict;

pub use describe::Description;
pub use error::FormatError;
pub use fold::{Fold, folded};
pub use format::HouseFormat;
pub use learn::{HouseLearner, LearnedFormat};
pub use part::HousePart;
pub(crate) use part::{Count, Piece};
pub use person::HousePerson;
pub use verdict::{HouseFault, HouseVerdict};
