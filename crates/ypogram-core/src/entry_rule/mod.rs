//! What an entry has to be, written out for places where this program does not run: a form, a database, a spreadsheet, an API.
//!
//! An [`EntryRule`] is a list of [conditions](Condition), each a regular expression, a length or a list of domains, that refuse what a
//! [`Policy`](crate::Policy) rejects in a value as it was typed. [`Flavour`] writes expressions in the words of other engines, and
//! [`EntryRule::expression`] puts all conditions into one.
//!
//! The conditions say less than the program does: no expression knows which letters a domain name of another script may have. What they
//! let pass is [told](EntryRule::lets_pass) code by code.

mod alternatives;
mod characters;
mod condition;
mod differences;
mod domains;
mod expression;
mod flavour;
mod house;
mod local_words;
mod matcher;
mod rule;
mod syntax;
mod wanted;

pub use characters::Characters;
pub use condition::{Condition, Demand, Length, ListedDomain};
pub use differences::{LetsPass, RefusesToo};
pub use expression::{Expression, Extent};
pub use flavour::Flavour;
pub use matcher::EntryMatcher;
pub use rule::EntryRule;
pub use wanted::Wanted;
