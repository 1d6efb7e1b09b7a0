//! Bytes looked at, copied and looked up many at a time.
//!
//! What is fast and knows nothing of addresses or records is here, once for all other crates: registers of 16 and 32 bytes
//! behind one trait ([`Simd`]), masks of 64 bytes ([`ByteMasks`]), the places of a few bytes ([`BytePlaces`]), short copies of
//! fixed width ([`append_short`]), and a hash table whose look-ups wait for one place in memory ([`BucketTable`]).
//!
//! ```
//! let mut out = b"to ".to_vec();
//! ypogram_bytes::append_short::<8>(b"ada@fernhollow.example", 3, &mut out);
//! assert_eq!(out, b"to ada");
//! ```
#![forbid(unsafe_code)]

mod bucket_table;
mod byte_masks;
mod byte_places;
mod short_copy;
pub mod simd;

pub use bucket_table::{BUCKET_SLOT, BucketTable};
pub use byte_masks::{ByteMasks, low_bits};
pub use byte_places::BytePlaces;
pub use short_copy::{append_few, append_short};
pub use simd::{BLOCK, Kernel, SMALL, Simd};
