//! What the standards say of the parts of an address, each rule once.

pub(crate) mod domain;
pub(crate) mod idna_rules;
pub(crate) mod literal;
pub(crate) mod local_part;
pub(crate) mod sink;
pub(crate) mod wrapping;
