//! Text as UTF-8, whatever it is in: the start of a source, decoded.

use std::io::{Cursor, Read as _};
use std::path::Path;
use std::sync::Arc;

use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE};

use crate::formats::begin::{Begun, SAMPLE};
use crate::formats::options::OpenOptions;
use crate::input::encoding::{Decoding, Guess, Guessed, utf16_without_mark};
use crate::input::file_input::Input;
use crate::records::error::{Error, Result};

/// An input of text, of which the start was read.
pub(crate) struct Text {
    pub(crate) input: Input,
    /// In UTF-8, without a byte-order mark.
    pub(crate) start: Vec<u8>,
    /// Bytes of the mark in front of that.
    pub(crate) mark: u64,
    /// The encoding, where one was given or marked.
    pub(crate) encoding: Option<&'static Encoding>,
    /// What was guessed, as soon as that is.
    pub(crate) guessed: Guessed,
}

impl Text {
    /// Decodes what was begun, as it is marked, as was asked for, or as it looks.
    ///
    /// # Errors
    /// Where there is nothing but line breaks, or it cannot be read.
    pub(crate) fn of(begun: Begun, path: &Path, options: &OpenOptions) -> Result<Self> {
        let Begun { mut input, mut start, .. } = begun;
        let guessed = Guessed::default();
        let marked = Encoding::for_bom(&start);
        let mark = marked.map_or(0, |(_, length)| length);
        start.drain(..mark);
        let asked = options.encoding_of(path).or(marked.map(|(encoding, _)| encoding));
        let encoding = asked.or_else(|| utf16_without_mark(&start)).filter(|encoding| *encoding != UTF_8);
        match encoding {
            Some(encoding) => (input, start) = decoded(input, start, encoding)?,
            None if asked.is_some() => {}
            None => match Guess::of_start(&start) {
                Some(guess) => {
                    if let Some(encoding) = guess.encoding {
                        (input, start) = decoded(input, start, encoding)?;
                    }
                    let _ = guessed.set(guess);
                }
                None => {
                    let lines = memchr::memchr_iter(b'\n', &start).count() as u64;
                    let guessed = Arc::clone(&guessed);
                    input = input.through(|rest| Box::new(Decoding::guessing(rest, lines, guessed)));
                }
            },
        }
        if start.iter().all(|b| matches!(b, b'\r' | b'\n')) {
            return Err(Error::empty(&input.name));
        }
        Ok(Text { input, start, mark: mark as u64, encoding, guessed })
    }

    /// Bytes in front of what is read, where it is read as it stands.
    pub(crate) fn offset(&self) -> u64 {
        if self.encoding.is_none() { self.mark } else { 0 }
    }

    /// The encoding that it is in, other than UTF-8, as far as that is known.
    pub(crate) fn known_encoding(&self) -> Option<&'static Encoding> {
        self.encoding.or_else(|| self.guessed.get()?.encoding)
    }
}

/// The rest of a text, decoded, and the start of that.
fn decoded(input: Input, start: Vec<u8>, encoding: &'static Encoding) -> Result<(Input, Vec<u8>)> {
    let mut input = input.through(|rest| Box::new(Decoding::known(Cursor::new(start).chain(rest), encoding)));
    let mut start = Vec::new();
    input.fill(&mut start, SAMPLE)?;
    Ok((input, start))
}

/// Whether text begins with a mark of UTF-16, and whether with the most significant byte first.
pub(crate) fn is_marked_utf16(start: &[u8]) -> Option<bool> {
    let (encoding, _) = Encoding::for_bom(start)?;
    [UTF_16LE, UTF_16BE].contains(&encoding).then_some(encoding == UTF_16BE)
}
