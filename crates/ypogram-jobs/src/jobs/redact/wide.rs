//! Texts as they stand in files of UTF-16, whose characters are two bytes each.

/// The order of the two bytes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Wide {
    Little,
    Big,
}

impl Wide {
    /// What a byte-order mark at the start of a file tells.
    pub(super) fn of(bytes: &[u8]) -> Option<Self> {
        match bytes {
            [0xFF, 0xFE, ..] => Some(Wide::Little),
            [0xFE, 0xFF, ..] => Some(Wide::Big),
            _ => None,
        }
    }
}

/// `text` in bytes as they stand in such a file, or in one whose characters of ASCII are a byte each.
pub(super) fn bytes_of(text: &str, wide: Option<Wide>) -> Vec<u8> {
    let units = text.encode_utf16();
    match wide {
        None => text.as_bytes().to_vec(),
        Some(Wide::Little) => units.flat_map(u16::to_le_bytes).collect(),
        Some(Wide::Big) => units.flat_map(u16::to_be_bytes).collect(),
    }
}
