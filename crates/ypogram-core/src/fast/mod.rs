//! Blocks of bytes at a time, and the table whose look-ups wait for one place in memory: no addresses, no characters.

pub(crate) mod lanes;
pub(crate) mod masks;
pub(crate) mod slots;
