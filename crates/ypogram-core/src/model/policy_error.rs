//! What a policy cannot be.

/// A reason why a policy cannot be made as asked.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PolicyError(pub String);
