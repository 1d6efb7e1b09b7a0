//! What a workbook of several sheets has besides its rows.

/// What is refused in the address columns of a sheet while it is typed, and what is then said.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct EntryRule {
    /// The own columns that hold addresses, by name.
    pub columns: Vec<String>,
    /// The title of what is said, at most 32 characters.
    pub title: String,
    /// What is said, at most 255 characters.
    pub message: String,
}

/// What the summary of a workbook says.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct BookSummary {
    /// Its first line.
    pub title: String,
    /// Names and counts, of which there is a chart.
    pub counts: Vec<(String, u64)>,
    /// What they add up to.
    pub sum: (String, u64),
    /// What else there is to say: what, and how it is.
    pub facts: Vec<(String, String)>,
}
