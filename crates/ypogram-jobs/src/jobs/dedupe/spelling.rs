//! What the first pass writes of a record that will be named: its address, what tells it apart, and how the address stood.

/// The pieces of a spelling.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Spelling<'s> {
    /// In standard form; empty where it is rejected.
    pub(crate) address: &'s [u8],
    /// What the record says in the field that distinguishes records; empty where none was named.
    pub(crate) id: &'s [u8],
    pub(crate) as_found: &'s [u8],
}

impl<'s> Spelling<'s> {
    /// Reads what the worker wrote: the three with a zero between.
    pub(crate) fn read(written: &'s [u8]) -> Self {
        let mut pieces = written.splitn(3, |&b| b == 0);
        let mut next = || pieces.next().unwrap_or_default();
        Spelling { address: next(), id: next(), as_found: next() }
    }
}

/// Bytes as text, those that are not UTF-8 shown as U+FFFD.
pub(crate) fn text(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}
