//! The encoding of an output of text.

use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE};

use crate::records::error::{Error, Result};
use crate::rows::{OutputPlace, TakeBytes};

/// The encoding of an output of text, and whether it begins with a byte-order mark.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct TextEncoding {
    /// UTF-8 where none is asked for.
    pub encoding: Option<&'static Encoding>,
    /// It begins with a mark, as spreadsheet programs like it; UTF-16 always does.
    pub marked: bool,
}

/// U+FEFF in UTF-8.
const MARK: &[u8] = "\u{FEFF}".as_bytes();

impl TextEncoding {
    /// Whether it is the plain UTF-8 that outputs are in anyway.
    pub fn is_plain(self) -> bool {
        self == TextEncoding::default()
    }

    /// What an output that starts with `start` starts with in this encoding, still in UTF-8.
    pub(crate) fn start(self, start: &[u8]) -> Vec<u8> {
        let encoding = self.encoding.unwrap_or(UTF_8);
        let bare = start.strip_prefix(MARK).unwrap_or(start);
        let was_marked = bare.len() < start.len();
        let is_utf16 = [UTF_16LE, UTF_16BE].contains(&encoding);
        let marked = is_utf16 || encoding == UTF_8 && (self.marked || was_marked);
        if marked { [MARK, bare].concat() } else { bare.to_vec() }
    }
}

/// Takes text in UTF-8, and passes it on in another encoding.
pub(crate) struct Encoded<'o> {
    pub(crate) out: &'o mut dyn TakeBytes,
    pub(crate) encoding: &'static Encoding,
}

impl TakeBytes for Encoded<'_> {
    fn take(&mut self, bytes: &[u8]) -> Result<()> {
        let text = String::from_utf8_lossy(bytes);
        let units =
            |to_bytes: fn(u16) -> [u8; 2]| text.encode_utf16().flat_map(to_bytes).collect::<Vec<u8>>();
        if self.encoding == UTF_16LE {
            return self.out.take(&units(u16::to_le_bytes));
        }
        if self.encoding == UTF_16BE {
            return self.out.take(&units(u16::to_be_bytes));
        }
        let (encoded, encoding, is_lossy) = self.encoding.encode(&text);
        if is_lossy {
            let lacking = text.chars().find(|c| encoding.encode(c.encode_utf8(&mut [0; 4])).2);
            let lacking = lacking.unwrap_or(char::REPLACEMENT_CHARACTER);
            return Err(Error::output(
                format!(
                    "{} has no ‘{lacking}’ (U+{:04X}), which is in the rows",
                    encoding.name(),
                    u32::from(lacking)
                ),
                "choose another with --output-encoding; utf-8 has all characters",
            ));
        }
        self.out.take(&encoded)
    }

    fn place(&self) -> OutputPlace {
        self.out.place()
    }
}
