//! What a workbook of several sheets has besides its rows.

/// What is refused in the address columns of a sheet while it is typed, and what is then said.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct EntryRefusal {
    /// The own columns that hold addresses, by name.
    pub columns: Vec<String>,
    /// The title of what is said, at most 32 characters.
    pub title: String,
    /// What is said, at most 255 characters.
    pub message: String,
    /// Characters that an entry may have at most.
    pub longest: usize,
}

impl Default for EntryRefusal {
    fn default() -> Self {
        EntryRefusal { columns: Vec::new(), title: String::new(), message: String::new(), longest: 254 }
    }
}

/// The formula of a custom rule on `cell`, at most 255 characters long: true where its text may be an address, with one @ and up to 64
/// characters before it, a dot in the domain, no space, no dot at an end or beside another, and `longest` characters at most.
///
/// ```
/// let formula = ypogram_io::entry_formula("A2", 254);
/// assert!(formula.starts_with("=AND(LEN(A2)<255,") && formula.len() <= 255);
/// ```
pub fn entry_formula(cell: &str, longest: usize) -> String {
    let has = |text: &str| format!("COUNTIF({cell},\"{text}\")");
    let none = ["* *", "*..*", ".*", "*.@*", "*@.*", "*.", "*@*@*"].map(has).join("+");
    let shorter = longest + 1;
    format!("=AND(LEN({cell})<{shorter},FIND(\"@\",{cell}&\"@\")<66,{}=1,{none}=0)", has("?*@?*.?*"))
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
