//! How the cells of a table are separated.

/// How cells are separated.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Dialect {
    /// The separator of cells.
    pub delimiter: u8,
}

impl Dialect {
    /// What people call it.
    pub fn described(self) -> &'static str {
        match self.delimiter {
            b',' => "comma-separated",
            b';' => "semicolon-separated",
            b'\t' => "tab-separated",
            b'|' => "bar-separated",
            _ => "separated values",
        }
    }
}
