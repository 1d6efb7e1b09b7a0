//! Where records end, found without decoding them.

use memchr::{memchr, memrchr2};

use crate::input::borders::Border;

/// The end of the last whole record in `bytes`, which starts with a record.
pub(crate) fn last_border(bytes: &[u8], delimiter: u8, at_end: bool) -> Border {
    let mut border = 0;
    // Where the present stretch outside quotes starts.
    let mut stretch = 0;
    let mut from = 0;
    loop {
        let Some(quote) = memchr(b'"', &bytes[from..]).map(|i| from + i) else {
            border = last_line_end(bytes, stretch, bytes.len(), at_end).unwrap_or(border);
            return Border { end: border, open_quote: None };
        };
        let opens = quote == 0 || matches!(bytes[quote - 1], b'\n' | b'\r') || bytes[quote - 1] == delimiter;
        if !opens || quote < stretch {
            from = quote + 1;
            continue;
        }
        border = last_line_end(bytes, stretch, quote, true).unwrap_or(border);
        match closing_quote(bytes, quote, at_end) {
            Some(close) => {
                stretch = close + 1;
                from = close + 1;
            }
            None => return Border { end: border, open_quote: Some(quote) },
        }
    }
}

fn last_line_end(bytes: &[u8], from: usize, to: usize, at_end: bool) -> Option<usize> {
    let at = from + memrchr2(b'\n', b'\r', &bytes[from..to])?;
    if bytes[at] == b'\r' && at + 1 == bytes.len() && !at_end {
        // A line feed may follow in what was not read yet.
        return last_line_end(bytes, from, at, true);
    }
    Some(at + 1)
}

/// Where the quote that opens at `open` is closed. At the end of what was read a second quote may still follow.
pub(crate) fn closing_quote(bytes: &[u8], open: usize, at_end: bool) -> Option<usize> {
    let mut from = open + 1;
    loop {
        let quote = from + memchr(b'"', &bytes[from..])?;
        match bytes.get(quote + 1) {
            Some(b'"') => from = quote + 2,
            None if !at_end => return None,
            _ => return Some(quote),
        }
    }
}

/// Where the cell at `index` of the raw record `raw` ends.
pub(crate) fn end_of_cell(raw: &[u8], index: usize, delimiter: u8) -> usize {
    let mut start = 0;
    for cell in 0.. {
        let from = if raw.get(start) == Some(&b'"') {
            closing_quote(raw, start, true).map_or(raw.len(), |i| i + 1)
        } else {
            start
        };
        let end = memchr(delimiter, &raw[from..]).map_or(raw.len(), |i| from + i);
        if cell == index || end == raw.len() {
            return end;
        }
        start = end + 1;
    }
    unreachable!("the loop returns")
}
