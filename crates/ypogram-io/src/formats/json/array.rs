//! A JSON array of objects, read as JSON lines: each element comes out on a line of its own.

use std::io::{self, BufRead, BufReader, Read};

/// Whether a document that starts so is an array.
pub(crate) fn begins_array(start: &[u8]) -> bool {
    start.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(start).trim_ascii_start().starts_with(b"[")
}

/// Gives the elements of an array, a line each; line breaks within them become spaces.
pub(crate) struct ArrayLines<R> {
    from: BufReader<R>,
    state: State,
    /// Elements that were begun.
    elements: u64,
    /// Brackets and braces that are open within the element.
    depth: usize,
    in_string: bool,
    after_backslash: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum State {
    /// Nothing but white space was read.
    Start,
    /// An element may begin.
    BeforeElement,
    Element,
    /// A comma or the end has to come.
    BehindElement,
    End,
}

impl<R: Read> ArrayLines<R> {
    /// Over an array that is read from `from`.
    pub(crate) fn new(from: R) -> Self {
        let (state, elements, depth) = (State::Start, 0, 0);
        ArrayLines {
            from: BufReader::new(from),
            state,
            elements,
            depth,
            in_string: false,
            after_backslash: false,
        }
    }

    /// Takes a byte; gives the one that comes out for it.
    fn step(&mut self, byte: u8) -> io::Result<Option<u8>> {
        if self.state == State::Element {
            return Ok(self.within(byte));
        }
        if byte.is_ascii_whitespace() {
            return Ok(None);
        }
        match (self.state, byte) {
            // A byte-order mark.
            (State::Start, b'\xEF' | b'\xBB' | b'\xBF') => {}
            (State::Start, b'[') => self.state = State::BeforeElement,
            (State::BeforeElement, b'{') => {
                (self.state, self.depth) = (State::Element, 1);
                self.elements += 1;
                return Ok(Some(byte));
            }
            (State::BeforeElement | State::BehindElement, b']') => self.state = State::End,
            (State::BehindElement, b',') => self.state = State::BeforeElement,
            (State::Start, _) => return Err(io::Error::other("it does not begin with an array")),
            (State::End, _) => return Err(io::Error::other("something stands behind the array")),
            (State::BeforeElement, _) => {
                let element = self.elements + 1;
                return Err(io::Error::other(format!("element {element} of the array is no object")));
            }
            _ => {
                let element = self.elements;
                return Err(io::Error::other(format!(
                    "neither a comma nor ‘]’ stands behind element {element}"
                )));
            }
        }
        Ok(None)
    }

    fn within(&mut self, byte: u8) -> Option<u8> {
        if self.in_string {
            match byte {
                _ if self.after_backslash => self.after_backslash = false,
                b'\\' => self.after_backslash = true,
                b'"' => self.in_string = false,
                _ => {}
            }
            return Some(byte);
        }
        match byte {
            b'"' => self.in_string = true,
            b'{' | b'[' => self.depth += 1,
            b'}' | b']' => self.depth -= 1,
            b'\r' | b'\n' => return Some(b' '),
            _ => {}
        }
        if self.depth == 0 {
            self.state = State::BehindElement;
        }
        Some(byte)
    }
}

impl<R: Read> Read for ArrayLines<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let mut written = 0;
        // The end of an element takes two bytes.
        while written + 1 < buffer.len() {
            let available = self.from.fill_buf()?;
            let Some(&byte) = available.first() else {
                return match self.state {
                    State::End => Ok(written),
                    _ if written > 0 => Ok(written),
                    State::Start => Err(io::Error::other("it does not begin with an array")),
                    _ => Err(io::ErrorKind::UnexpectedEof.into()),
                };
            };
            self.from.consume(1);
            let was_within = self.state == State::Element;
            if let Some(out) = self.step(byte)? {
                buffer[written] = out;
                written += 1;
            }
            if was_within && self.state != State::Element {
                buffer[written] = b'\n';
                written += 1;
            }
        }
        Ok(written)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn lines(text: &str) -> Result<String, String> {
        let mut out = String::new();
        let read = ArrayLines::new(text.as_bytes()).read_to_string(&mut out);
        read.map(|_| out).map_err(|error| error.to_string())
    }

    #[test]
    fn each_element_comes_out_on_a_line() {
        for (text, expected) in [
            ("[]", ""),
            (" [ {\"a\": 1},\n{\"b\":[1,\n{}]} ]\n", "{\"a\": 1}\n{\"b\":[1, {}]}\n"),
            ("[{\"a\":\"}\\\"]\"}]", "{\"a\":\"}\\\"]\"}\n"),
        ] {
            assert_eq!(lines(text).as_deref(), Ok(expected), "{text}");
        }
        for (text, why) in [
            ("{\"a\": 1}", "begin with an array"),
            ("[1]", "element 1 of the array is no object"),
            ("[{},\n{}{}]", "neither a comma nor ‘]’ stands behind element 2"),
            ("[{}] x", "behind the array"),
            ("[{}", "end of file"),
            ("", "begin with an array"),
        ] {
            assert!(lines(text).is_err_and(|error| error.contains(why)), "{text}: {:?}", lines(text));
        }
    }
}
