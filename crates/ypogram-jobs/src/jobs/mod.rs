//! The jobs themselves: one folder or file each.

pub mod book;
pub mod bounces;
pub mod check;
mod checked_fields;
pub mod clean;
pub mod compare;
pub mod dedupe;
pub mod dns;
pub mod domains;
pub mod each;
pub mod export;
pub mod extract;
#[cfg(feature = "sqlite")]
pub mod guard;
pub mod learn_house;
pub mod links;
pub(crate) mod receipt;
pub mod redact;
#[cfg(feature = "sqlite")]
pub mod register;
pub mod settle;
pub mod survey;
#[cfg(feature = "worker")]
pub mod worker;
