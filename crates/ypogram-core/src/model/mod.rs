//! The words of the trade as types: findings, severities, classes, repairs, places. Data without rules; nothing here reads a text.

pub(crate) mod class;
pub(crate) mod codes;
pub(crate) mod finding;
pub(crate) mod found;
pub(crate) mod grammar_choice;
pub(crate) mod own_words;
pub(crate) mod policy_error;
pub(crate) mod repair;
pub(crate) mod same_mailbox;
pub(crate) mod severity;
pub(crate) mod span;
