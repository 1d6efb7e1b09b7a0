//! Characters, and forms of writing them: classes of bytes, letter case, encodings, labels, IDNA. Nothing here knows a mailbox.

pub(crate) mod bytes;
pub(crate) mod decoded;
pub(crate) mod fold;
pub(crate) mod hash;
pub(crate) mod idna_form;
pub(crate) mod labels;
pub(crate) mod shown;
pub(crate) mod web_prefix;
