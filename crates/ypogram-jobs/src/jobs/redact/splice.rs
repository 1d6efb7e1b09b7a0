//! A source copied byte for byte, with other bytes in the place of some.

use std::io::Write;

use ypogram_io::{Error, Input, Result};

/// Bytes that are read at once.
const AT_ONCE: usize = 1 << 18;

/// Copies a source and replaces stretches of it, which come in their order.
pub(super) struct Splice<W> {
    input: Input,
    out: W,
    buffer: Vec<u8>,
    /// Where the buffer starts in the source.
    at: u64,
    /// Bytes that were written.
    written: u64,
}

impl<W: Write> Splice<W> {
    pub(super) fn new(input: Input, out: W) -> Self {
        Splice { input, out, buffer: Vec::new(), at: 0, written: 0 }
    }

    /// Copies up to `start`, and `instead` in the place of what stands from there to `end`; gives the bytes that stood there.
    ///
    /// # Errors
    /// Where the source cannot be read or became shorter, or the copy not be written.
    pub(super) fn replace(&mut self, start: u64, end: u64, instead: &[u8]) -> Result<Vec<u8>> {
        self.copy_to(start)?;
        let length = (end - start) as usize;
        while self.buffer.len() < length {
            self.fill()?;
        }
        let stood: Vec<u8> = self.buffer.drain(..length).collect();
        self.at = end;
        self.write(instead)?;
        Ok(stood)
    }

    fn copy_to(&mut self, start: u64) -> Result<()> {
        while self.at < start {
            if self.buffer.is_empty() {
                self.fill()?;
            }
            let some = self.buffer.len().min((start - self.at) as usize);
            let copied: Vec<u8> = self.buffer.drain(..some).collect();
            self.at += some as u64;
            self.write(&copied)?;
        }
        Ok(())
    }

    /// Reads on; there has to be more.
    fn fill(&mut self) -> Result<()> {
        match self.input.fill(&mut self.buffer, AT_ONCE)? {
            0 => Err(Error::unusable(
                format!("{}: the file became shorter while it was read", self.input.name),
                "run it again once nobody writes to the file",
            )),
            _ => Ok(()),
        }
    }

    /// Copies the rest; gives what was written to.
    ///
    /// # Errors
    /// Where the source cannot be read, or the copy not be written.
    pub(super) fn finish(mut self) -> Result<W> {
        loop {
            let rest = std::mem::take(&mut self.buffer);
            self.write(&rest)?;
            if self.input.fill(&mut self.buffer, AT_ONCE)? == 0 {
                break;
            }
        }
        self.out.flush().map_err(|error| failed(&error))?;
        Ok(self.out)
    }

    /// How long the copy is so far, in bytes.
    pub(super) fn written(&self) -> u64 {
        self.written
    }

    fn write(&mut self, bytes: &[u8]) -> Result<()> {
        self.written += bytes.len() as u64;
        self.out.write_all(bytes).map_err(|error| failed(&error))
    }
}

fn failed(error: &std::io::Error) -> Error {
    Error::temporary(&std::env::temp_dir(), error)
}
