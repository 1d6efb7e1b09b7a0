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

mod characters;
mod data;
mod find;
mod judge;
mod model;
pub mod names;
mod phrases;
mod policy;
mod profile;
mod syntax;

pub use characters::hash::Hasher;
pub use characters::shown::shown;
pub use data::learned_typos::LearnedTypos;
pub use data::{local_words, providers, reserved};
pub use find::{cell, text};
pub use judge::cell_batch::CellBatch;
pub use judge::examination::{Examination, Standard};
pub use judge::examine::examine;
pub use judge::list_matches::{Decided, Exactness};
pub use judge::parts::{Part, Parts};
pub use judge::quick::{Judge, Plain};
pub use judge::suggest::{Confidence, Suggestion, mendable, suggest, suggest_found};
pub use judge::summary::Summary;
pub use judge::summary_key::SummaryKey;
pub use judge::well_formed::is_well_formed;
pub use model::class::Class;
pub use model::codes::{Code, CodeInfo, CodeSet};
pub use model::finding::Finding;
pub use model::found::{Form, Found, Meant};
pub use model::grammar_choice::Grammar;
pub use model::policy_error::PolicyError;
pub use model::repair::{Repair, Repairs};
pub use model::same_mailbox::SameMailbox;
pub use model::severity::{Kind, Severity, Verdict};
pub use model::span::Span;
pub use policy::job_policy::{LetterCase, Policy};
pub use policy::lists;
pub use policy::pattern::Pattern;
pub use profile::cell_kind::CellKind;
pub use profile::{shape, value};
