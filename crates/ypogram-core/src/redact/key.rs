//! Tokens under a key, and plain hashes.

use data_encoding::{BASE32_NOPAD, HEXLOWER, HEXLOWER_PERMISSIVE};
use hmac::{Hmac, KeyInit as _, Mac as _};
use sha2::{Digest as _, Sha256};

use crate::data::reserved::TOKEN_DOMAIN;

/// Bytes of a token: 80 bits, sixteen characters in base32.
const TOKEN: usize = 10;

/// The key under which tokens are made: whoever has it can tell whether a token is that of an address.
#[derive(Clone)]
pub struct RedactKey([u8; 32]);

impl std::fmt::Debug for RedactKey {
    fn fmt(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        formatter.write_str("RedactKey(…)")
    }
}

impl RedactKey {
    /// The key that these bytes are.
    pub fn new(bytes: [u8; 32]) -> Self {
        RedactKey(bytes)
    }

    /// The key of a key file: 64 hexadecimal digits on a line; none where the text is no such line.
    pub fn from_text(text: &str) -> Option<Self> {
        let bytes = HEXLOWER_PERMISSIVE.decode(text.trim().as_bytes()).ok()?;
        bytes.try_into().ok().map(RedactKey)
    }

    /// The line of a key file.
    pub fn to_text(&self) -> String {
        HEXLOWER.encode(&self.0) + "\n"
    }

    /// What stands for the mailbox with that key: `t`, 80 bits of HMAC-SHA-256 in base32, and a domain of its own.
    pub fn token_of_mailbox(&self, key: &[u8]) -> String {
        format!("t{}@{TOKEN_DOMAIN}", self.code(key))
    }

    /// What stands for another value: `w` and the same without a domain.
    ///
    /// ```
    /// use ypogram_core::redact::RedactKey;
    /// let key = RedactKey::new([7; 32]);
    /// assert_eq!(key.token_of_value(b"017").len(), 17);
    /// assert_ne!(key.token_of_value(b"017"), key.token_of_value(b"018"));
    /// ```
    pub fn token_of_value(&self, value: &[u8]) -> String {
        format!("w{}", self.code(value))
    }

    fn code(&self, text: &[u8]) -> String {
        let mut mac = Hmac::<Sha256>::new_from_slice(&self.0).expect("a key of any length is one");
        mac.update(text);
        BASE32_NOPAD.encode(&mac.finalize().into_bytes()[..TOKEN]).to_lowercase()
    }
}

/// SHA-256 of a value in lower case, in hexadecimal: the common form for lists that are matched with others. It can be guessed by trying
/// addresses.
///
/// ```
/// use ypogram_core::redact::hash_of;
/// assert_eq!(hash_of("Ada@Fernhollow.org"), hash_of("ada@fernhollow.org"));
/// assert_eq!(hash_of("").len(), 64);
/// ```
pub fn hash_of(value: &str) -> String {
    HEXLOWER.encode(&Sha256::digest(value.to_lowercase().as_bytes()))
}
