//! What `redact` is asked to do.

use ypogram_core::Policy;
use ypogram_core::redact::{Mask, RedactKey};
use ypogram_io::pieces::PieceOptions;

/// What `redact` is asked to do.
#[derive(Clone, Debug)]
pub struct RedactOptions {
    /// How to cut the source.
    pub pieces: PieceOptions,
    /// Fields whose values are hidden whole.
    pub hide: Vec<String>,
    /// What stands in the place of a value.
    pub by: RedactBy,
    /// How addresses are judged, and when two are one mailbox.
    pub policy: Policy,
    /// Worker threads.
    pub threads: usize,
    /// A number that differs from run to run.
    pub hash_key: u64,
}

/// What stands in the place of a value.
#[derive(Clone, Debug)]
pub enum RedactBy {
    /// A token under this key.
    Token(RedactKey),
    /// A mask.
    Mask(Mask),
    /// A hash.
    Hash,
}

impl RedactBy {
    /// The word on the command line.
    pub const fn word(&self) -> &'static str {
        match self {
            RedactBy::Token(_) => "token",
            RedactBy::Mask(_) => "mask",
            RedactBy::Hash => "hash",
        }
    }
}
