//! The heart of Ypogram: parses, judges, finds and keys email addresses. Pure: bytes in, facts out; it knows no file,
//! terminal, clock or network.
//!
//! # One address
//!
//! [`examine`] says everything there is to say about one address: findings with their places, standard form, class.
//!
//! ```
//! use ypogram_core::{Code, Policy, Verdict, examine};
//! let policy = Policy::default();
//! let examined = examine(b"ada@gmial.com", &policy);
//! assert_eq!(examined.verdict, Verdict::Review);
//! assert_eq!(examined.findings[0].message, "The domain looks like a slip of ‘gmail.com’ (a known slip).");
//! assert_eq!(examine(b"ada..lovell@fernhollow.org", &policy).findings[0].code, Code::DoubleDot);
//! ```
//!
//! [`suggest`] gives what was probably meant, [`Parts`] the parts of an address and the name that it shows.
//!
//! # Many addresses
//!
//! A [`Judge`] remembers the domains it has seen, and puts together neither sentences nor places. One for each thread.
//!
//! ```
//! use ypogram_core::{Hasher, Judge, Policy, SameMailbox, Verdict};
//! let policy = Policy::default();
//! let mut judge = Judge::new(&policy, Hasher::with_key(1));
//! assert_eq!(judge.judge(b"Ada.Lovell@GMail.com").verdict, Verdict::Accept);
//! assert_eq!(judge.address(), b"ada.lovell@gmail.com");
//! let mut key = Vec::new();
//! judge.key(SameMailbox::Provider, &mut key);
//! assert_eq!(key, b"adalovell@gmail.com", "the provider ignores dots");
//! ```
//!
//! # Cells and texts
//!
//! [`cell::read`] recognises what stands in an address field as a whole, [`text::find`] finds addresses in running text.
//!
//! ```
//! use ypogram_core::{Policy, cell, text};
//! let policy = Policy::default();
//! let mut found = Vec::new();
//! cell::read(b"Ada Lovell <ada@fernhollow.org>", &policy, &mut found);
//! assert_eq!(&*found[0].text, b"ada@fernhollow.org");
//! let mut hits = 0;
//! text::find(b"Write to ada@fernhollow.org or bea@fernhollow.org.", &policy, |_| hits += 1);
//! assert_eq!(hits, 2);
//! ```
//!
//! # What a job wants
//!
//! A [`Policy`] says how: the [`Severity`] of each [`Code`], the [`Grammar`], trusted names, [`lists`], when two addresses are
//! [one mailbox](SameMailbox).
//!
//! ```
//! use ypogram_core::{Code, Policy, Severity, Verdict, examine};
//! let mut policy = Policy::default();
//! policy.set_severity(Code::RoleAccount, Severity::Review).unwrap();
//! assert_eq!(examine(b"info@fernhollow.org", &policy).verdict, Verdict::Review);
//! ```
//!
//! # What is known
//!
//! [`providers`], [`local_words`] and [`reserved`] have the reference data; [`shape`], [`value`] and [`CellKind`] tell what cells
//! of any kind hold; [`names`] reads and compares names of persons.
#![forbid(unsafe_code)]

mod characters;
mod data;
pub mod entry_rule;
mod find;
pub mod house_format;
mod judge;
mod model;
pub mod names;
mod phrases;
mod policy;
mod profile;
pub mod redact;
mod syntax;

pub use characters::hash::Hasher;
pub use characters::shown::shown;
pub use data::learned_typos::LearnedTypos;
pub use data::mail_hosts::tag_at_host;
pub use data::{REFERENCE_DATE, local_words, providers, reserved};
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
pub use policy::dns_answers::DnsAnswers;
pub use policy::job_policy::{LetterCase, Policy};
pub use policy::lists;
pub use policy::mailbox_domains::MailboxDomains;
pub use policy::pattern::{Pattern, PatternMatch};
pub use policy::pattern_description::PatternDescription;
pub use policy::pattern_miss::PatternMiss;
pub use policy::ready_patterns;
pub use policy::words::{WordOf, Words};
pub use profile::cell_kind::CellKind;
pub use profile::mask::masked;
pub use profile::{shape, value};
