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

/// How a table of separated values looks, beside its cells.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct TextLayout {
    /// The separator of cells.
    pub delimiter: u8,
    /// What ends a line.
    pub line_end: &'static [u8],
    /// The file starts with a byte-order mark.
    pub byte_order_mark: bool,
}

impl Default for TextLayout {
    fn default() -> Self {
        TextLayout { delimiter: b',', line_end: b"\n", byte_order_mark: false }
    }
}
