//! What was read, so that it can be known again.

/// What was read: how much, and its hash.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fingerprint {
    /// Bytes read.
    pub bytes: u64,
    /// BLAKE3 of them, in hexadecimal.
    pub blake3: String,
}
