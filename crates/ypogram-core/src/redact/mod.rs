//! What stands in the place of an address or another personal value in a copy that is handed on: a token, a mask, or a hash.
//!
//! A token tells nothing without the key and is the same wherever the mailbox is, so that tables can still be joined by it:
//!
//! ```
//! use ypogram_core::redact::RedactKey;
//! let key = RedactKey::from_text("00112233445566778899aabbccddeeff00112233445566778899aabbccddeeff").unwrap();
//! let token = key.token_of_mailbox(b"ada@fernhollow.org");
//! assert_eq!(token, key.token_of_mailbox(b"ada@fernhollow.org"));
//! assert!(token.starts_with('t') && token.ends_with("@token.invalid"));
//! ```

mod key;
mod mask;

pub use key::{RedactKey, hash_of};
pub use mask::{Mask, MaskDomain};
