//! Address books: vCard (2.1, RFC 2426, RFC 6350) and LDIF (RFC 2849). Each card or entry is a record, each of its properties a field, and
//! what it is written as is kept for outputs in the same format.

mod ldif;
mod ldif_rows;
mod lines;
mod source;
mod vcard;
mod vcard_rows;

pub(crate) use ldif_rows::LdifRows;
pub(crate) use source::open;
pub(crate) use vcard_rows::VcardRows;
