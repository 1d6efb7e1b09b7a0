//! Lines of address books: unfolded, with the number of the first of them.

use std::io::{self, BufRead};

/// A line as it is meant, and the lines that it stands in.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Unfolded {
    /// Without line ends, and without the space that a line is continued with.
    pub(super) text: Vec<u8>,
    /// As it is written, line ends included.
    pub(super) original: Vec<u8>,
    /// The number of its first line, from 0.
    pub(super) line: u64,
}

/// Reads lines that may be continued on the next one behind a space.
pub(super) struct UnfoldedLines<R> {
    from: R,
    next: Vec<u8>,
    line: u64,
    /// Bytes that one may have.
    longest: usize,
}

impl<R: BufRead> UnfoldedLines<R> {
    /// Over `from`; a line may have `longest` bytes, its continuations included.
    pub(super) fn new(from: R, longest: usize) -> Self {
        UnfoldedLines { from, next: Vec::new(), line: 0, longest }
    }

    /// The next line; none at the end. `joins` tells whether the next physical line belongs to it beyond folding.
    ///
    /// # Errors
    /// Where it cannot be read, or is too long.
    pub(super) fn next(&mut self, joins: impl Fn(&[u8]) -> bool) -> io::Result<Option<Unfolded>> {
        if self.next.is_empty() && !self.fill()? {
            return Ok(None);
        }
        let mut unfolded = Unfolded { line: self.line, ..Unfolded::default() };
        self.take(&mut unfolded, 0);
        loop {
            let is_joined = joins(&unfolded.text);
            let more = self.fill()?;
            let is_folded = matches!(self.next.first(), Some(b' ' | b'\t')) && !unfolded.text.is_empty();
            if !more || !(is_folded || is_joined) {
                return Ok(Some(unfolded));
            }
            if unfolded.original.len() + self.next.len() > self.longest {
                return Err(io::Error::other(format!("line {} is too long", unfolded.line + 1)));
            }
            if is_joined && !is_folded {
                // The equals sign at the end of a line of quoted-printable.
                unfolded.text.pop();
            }
            self.take(&mut unfolded, usize::from(is_folded));
        }
    }

    /// Reads the next physical line.
    fn fill(&mut self) -> io::Result<bool> {
        let mut limited = io::Read::take(&mut self.from, self.longest as u64 + 1);
        limited.read_until(b'\n', &mut self.next)?;
        if self.next.len() > self.longest {
            return Err(io::Error::other(format!("line {} is too long", self.line + 1)));
        }
        Ok(!self.next.is_empty())
    }

    fn take(&mut self, unfolded: &mut Unfolded, skip: usize) {
        let bare = self.next.strip_suffix(b"\n").unwrap_or(&self.next);
        let bare = bare.strip_suffix(b"\r").unwrap_or(bare);
        unfolded.text.extend_from_slice(&bare[skip..]);
        unfolded.original.append(&mut self.next);
        self.line += 1;
    }
}

/// Appends a line of at most 75 bytes, and what it is continued with on the next ones; characters stay whole.
pub(super) fn write_folded(line: &str, line_end: &str, out: &mut Vec<u8>) {
    let (mut rest, mut room) = (line, 75);
    while rest.len() > room {
        let cut = (0..=room).rev().find(|&at| rest.is_char_boundary(at)).unwrap_or(room);
        out.extend_from_slice(&rest.as_bytes()[..cut]);
        out.extend_from_slice(line_end.as_bytes());
        out.push(b' ');
        (rest, room) = (&rest[cut..], 74);
    }
    out.extend_from_slice(rest.as_bytes());
    out.extend_from_slice(line_end.as_bytes());
}
