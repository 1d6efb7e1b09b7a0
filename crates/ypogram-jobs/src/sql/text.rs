//! Names and texts as SQL has them.

/// A name, in quotes.
pub(crate) fn name(name: &str) -> String {
    format!("\"{}\"", name.replace('"', "\"\""))
}

/// A text, in quotes.
pub(crate) fn text(text: &str) -> String {
    format!("'{}'", text.replace('\'', "''"))
}
