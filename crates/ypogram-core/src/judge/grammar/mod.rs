//! Grammars beside that of RFC 5321.

pub(crate) mod header;
pub(crate) mod html;
pub(crate) mod smtp;
