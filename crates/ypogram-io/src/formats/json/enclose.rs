//! JSON lines as the elements of one array.

use std::sync::Arc;

use crate::records::error::Result;
use crate::rows::{Enclose, MakeEnclosure, TakeBytes};

/// Puts a bracket before the first row, commas between them, and a bracket behind the last.
#[derive(Debug, Default)]
struct ArrayFile {
    has_rows: bool,
    buffer: Vec<u8>,
}

impl Enclose for ArrayFile {
    fn rows(&mut self, rows: &[u8], out: &mut dyn TakeBytes) -> Result<()> {
        self.buffer.clear();
        for row in rows.split(|&byte| byte == b'\n').filter(|row| !row.is_empty()) {
            self.buffer.extend_from_slice(if self.has_rows { b",\n" } else { b"[\n" });
            self.buffer.extend_from_slice(row);
            self.has_rows = true;
        }
        out.take(&self.buffer)
    }

    fn end(&mut self, out: &mut dyn TakeBytes) -> Result<()> {
        out.take(if self.has_rows { b"\n]\n" } else { b"[]\n" })
    }
}

/// What makes an array of JSON lines, for encoders that write these.
pub fn json_array() -> MakeEnclosure {
    Arc::new(|_| Ok(Box::<ArrayFile>::default()))
}
