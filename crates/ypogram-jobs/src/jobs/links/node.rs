//! What a node of the graph is.

use serde::Serialize;

/// What a node is.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(tag = "kind", content = "field", rename_all = "kebab-case")]
pub enum NodeKind {
    /// An address in standard form.
    Address,
    /// A local part.
    LocalPart,
    /// A domain.
    Domain,
    /// A value of this field.
    Field(String),
}

impl NodeKind {
    /// As people call it: a field by its name.
    pub fn word(&self) -> &str {
        match self {
            NodeKind::Address => "address",
            NodeKind::LocalPart => "local part",
            NodeKind::Domain => "domain",
            NodeKind::Field(name) => name,
        }
    }
}
