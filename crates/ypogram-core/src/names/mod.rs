//! Names of people for a mail merge: read out of a local part, and brought to proper capitals.

mod capitals;
mod derived;
mod differs;
mod particles;
mod titles;
mod whole;
mod words;

pub use capitals::{capitals, title_case};
pub use derived::{DerivedName, NameConfidence, NameOrder, derive};
pub use differs::differs;
pub(crate) use particles::{is_particle, stands_between_names};
pub use whole::{split_plain, split_whole};
pub(crate) use words::word_bits;
pub use words::{hash_of_words, words};
