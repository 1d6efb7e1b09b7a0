//! The heart of Ypogram: parses, judges, finds and keys email addresses. Pure: bytes in, facts out; it knows no file,
//! terminal, clock or network.
//!
//! Judge one address and see everything there is to tell:
//!
//! ```
//! use ypogram_core::{Policy, Verdict, examine};
//! let examined = examine(b"ada@gmial.com", &Policy::default());
//! assert_eq!(examined.verdict, Verdict::Review);
//! assert_eq!(examined.findings[0].message, "The domain looks like a slip of ‘gmail.com’ (a known slip).");
//! ```
//!
//! Judge a million, each domain once, with [`Judge`]. Read what stands in a cell with [`cell::read`].
#![forbid(unsafe_code)]

mod ahead;
mod alike;
mod bytes;
pub mod cell;
mod cell_kind;
mod class;
mod codes;
mod decoded;
mod domain;
mod domain_cache;
mod edit_distance;
mod ending_slips;
mod examine;
mod examined;
mod facts;
mod finding;
mod fold;
mod found;
mod grammar;
mod grammar_choice;
mod hash;
mod idna_form;
mod idna_rules;
mod judge;
mod judged;
mod key;
mod known_slips;
mod labels;
mod lanes;
mod learnt;
mod list_matches;
pub mod lists;
mod literal;
mod local_part;
mod local_traits;
pub mod local_words;
mod mark;
mod masks;
mod meaning;
pub mod names;
mod no_address;
mod own_names;
mod own_words;
mod parts;
mod pattern;
mod policy;
mod policy_error;
pub mod providers;
mod repair;
pub mod reserved;
mod same_mailbox;
mod scan;
mod severity;
pub mod shape;
mod shown;
mod simple_wrapping;
mod slips;
mod slots;
mod span;
mod standard_form;
mod suggest;
pub mod text;
pub mod value;
mod web_prefix;
mod well_formed;
mod wrapping;

pub use ahead::Ahead;
pub use alike::Alike;
pub use cell_kind::CellKind;
pub use class::Class;
pub use codes::{Code, CodeInfo, CodeSet};
pub use examine::examine;
pub use examined::{Examined, Standard};
pub use finding::Finding;
pub use found::{Form, Found, Meant};
pub use grammar_choice::Grammar;
pub use hash::Hasher;
pub use judge::{Judge, Plain};
pub use judged::Judged;
pub use learnt::Learnt;
pub use list_matches::{Decided, Exactness};
pub use parts::{Part, Parts};
pub use pattern::Pattern;
pub use policy::{LetterCase, Policy};
pub use policy_error::PolicyError;
pub use repair::{Repair, Repairs};
pub use same_mailbox::SameMailbox;
pub use severity::{Kind, Severity, Verdict};
pub use shown::shown;
pub use slots::{SLOT, Slots};
pub use span::Span;
pub use suggest::{Confidence, Suggestion, mendable, suggest, suggest_found};
pub use well_formed::is_well_formed;
