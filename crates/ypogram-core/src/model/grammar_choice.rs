//! Which grammar an address is held against.

use serde::{Deserialize, Serialize};

/// Which grammar an address is held against.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Grammar {
    /// *Mailbox* of RFC 5321 §4.1.2, with the UTF-8 of RFC 6531.
    #[default]
    Smtp,
    /// *address* of RFC 5322 §3.4: with comments, folding white space, names, groups and the obsolete forms of §4.4, each
    /// recognised and named.
    Header,
    /// The valid e-mail address of the HTML standard, exactly.
    Html,
}
