//! What the record of a cell says beside it.

/// What is known of the record in which a cell stands.
#[derive(Clone, Copy, Debug, Default)]
pub struct Beside<'r> {
    /// What stands in the fields that name the record's person: words beside an address are a name where they are here.
    pub names: &'r [&'r [u8]],
}
