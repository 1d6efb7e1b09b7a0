//! Cuts a stream of bytes into chunks of whole records.

use crate::input::file_input::Input;
use crate::records::chunk::{Chunk, Unclosed};
use crate::records::error::{Error, Result};
use crate::records::fingerprint::Fingerprint;

/// Where the last whole record of some bytes ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Border {
    /// Offset behind the last whole record; 0 where there is none.
    pub(crate) end: usize,
    /// Where a quote stands that is not closed.
    pub(crate) open_quote: Option<usize>,
}

/// How a format finds the end of the last whole record. `bytes` starts with a record; `at_end` tells that nothing follows.
pub(crate) type FindBorder = Box<dyn Fn(&[u8], bool) -> Border + Send>;

/// The error of a record at a byte of a source, by its name, that is longer than it may be.
pub(crate) type TooLong = fn(&str, u64, usize) -> Error;

/// A record of a table is at most this long, unless told otherwise.
pub(crate) const LONGEST_RECORD: usize = 16 << 20;

/// The chunks of an input.
pub(crate) struct Chunks {
    input: Input,
    find: FindBorder,
    /// How many bytes a chunk should have.
    size: usize,
    /// How long a record may be, and the error of a longer one.
    longest: usize,
    too_long: TooLong,
    /// Read, but not yet handed out.
    rest: Vec<u8>,
    at_end: bool,
    number: u64,
    offset: u64,
}

impl Chunks {
    /// Chunks of about `size` bytes from `input`, of which `rest` was read already, up to `offset` for other use; a record may have
    /// `longest` bytes.
    pub(crate) fn new(
        input: Input,
        find: FindBorder,
        (size, longest): (usize, usize),
        rest: Vec<u8>,
        offset: u64,
    ) -> Self {
        Chunks {
            input,
            find,
            size: size.max(1),
            longest,
            too_long: record_too_long,
            rest,
            at_end: false,
            number: 0,
            offset,
        }
    }

    /// Another error of records that are too long.
    pub(crate) fn refuse_longer_as(&mut self, too_long: TooLong) {
        self.too_long = too_long;
    }

    pub(crate) fn name(&self) -> &str {
        &self.input.name
    }

    pub(crate) fn broken_off(&self) -> Option<String> {
        self.input.broken_off().map(str::to_owned)
    }

    pub(crate) fn fingerprint(&self) -> Fingerprint {
        self.input.fingerprint()
    }

    /// Fills `into`; false at the end.
    pub(crate) fn next(&mut self, into: &mut Chunk) -> Result<bool> {
        into.unclosed = None;
        let mut kept = self.take_rest(&mut into.bytes);
        // Read in whole blocks, whatever is left from before: a hash is taken quickest of bytes from even places on.
        let mut wanted = kept + self.size;
        loop {
            if kept < wanted && !self.at_end {
                let missing = wanted - kept;
                self.at_end = self.input.fill_over(&mut into.bytes, kept, missing)? < missing;
            } else {
                into.bytes.truncate(kept);
            }
            kept = into.bytes.len();
            if into.bytes.is_empty() {
                return Ok(false);
            }
            let window = into.bytes.len().min(wanted);
            let last = self.at_end && window == into.bytes.len();
            let border = (self.find)(&into.bytes[..window], last);
            if last {
                if let Some(quote) = border.open_quote {
                    let lines_before = memchr::memchr_iter(b'\n', &into.bytes[..quote]).count() as u64;
                    into.unclosed = Some(Unclosed { lines_before });
                }
                break;
            }
            if border.end > 0 {
                self.rest.extend_from_slice(&into.bytes[border.end..]);
                into.bytes.truncate(border.end);
                break;
            }
            if wanted >= self.longest {
                return Err((self.too_long)(self.name(), self.offset, self.longest));
            }
            wanted = (wanted * 2).min(self.longest);
        }
        into.number = self.number;
        into.offset = self.offset;
        self.number += 1;
        self.offset += into.bytes.len() as u64;
        Ok(true)
    }

    /// Puts what was read already in front of `bytes`, over what stands there; tells how much it is. What stands behind is left, to be
    /// read over.
    fn take_rest(&mut self, bytes: &mut Vec<u8>) -> usize {
        match bytes.get_mut(..self.rest.len()) {
            Some(place) => place.copy_from_slice(&self.rest),
            None => bytes.clone_from(&self.rest),
        }
        let kept = self.rest.len();
        self.rest.clear();
        kept
    }
}

/// The error of a record that has more than `longest` bytes.
pub(crate) fn record_too_long(name: &str, offset: u64, longest: usize) -> Error {
    Error::unusable(
        format!("{name}: the record at byte {offset} is longer than {}", size(longest)),
        format!(
            "see whether a quotation mark there is never closed, or whether this is a table at all (--from text); --longest-record {}M reads longer ones",
            longest.saturating_mul(16).div_ceil(1 << 20)
        ),
    )
}

/// Bytes in a unit of which they are a whole number, or bytes.
pub(crate) fn size(bytes: usize) -> String {
    match bytes {
        bytes if bytes > 0 && bytes % (1 << 20) == 0 => format!("{} MiB", bytes >> 20),
        bytes if bytes > 0 && bytes % (1 << 10) == 0 => format!("{} KiB", bytes >> 10),
        bytes => format!("{bytes} bytes"),
    }
}
