//! Blocks of bytes at a time, and the table whose look-ups wait for one place in memory: no addresses, no characters.

pub(crate) mod masks;
pub(crate) mod simd;
pub(crate) mod slots;
