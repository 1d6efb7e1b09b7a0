//! JSON: every string of a document or of each line, keys with an @ included, under the path of keys that leads to it.

use serde_json::value::RawValue;

use crate::formats::pieces::{Counted, Places, Segment};
use crate::records::error::{Error, Result};

/// Levels of nesting that are held in memory at once; nobody's data has so many.
const DEEPEST: usize = 1 << 20;

/// Keys in a path; what is nested deeper goes by the path up to here, so that reading stays linear.
const LONGEST_PATH: usize = 128;

/// Calls `see` with every string of the document `bytes`.
pub(crate) fn document(bytes: &[u8], name: &str, see: &mut dyn FnMut(Segment<'_>)) -> Result<Counted> {
    let value: &RawValue =
        serde_json::from_slice(bytes).map_err(|error| no_json(name, &error, error.line() as u64))?;
    let unpaired = strings(bytes, value.get().as_bytes(), None, name, see)?;
    Ok(Counted { unpaired, ..Counted::default() })
}

/// Calls `see` with every string of each line of `bytes`, above which are so many lines.
pub(crate) fn lines(
    bytes: &[u8],
    lines_before: u64,
    name: &str,
    see: &mut dyn FnMut(Segment<'_>),
) -> Result<Counted> {
    let (mut records, mut blank_lines, mut unpaired) = (0, 0, 0);
    let lines = bytes.strip_suffix(b"\n").unwrap_or(bytes).split(|&b| b == b'\n');
    for (number, line) in lines.enumerate() {
        if line.trim_ascii().is_empty() {
            blank_lines += 1;
            continue;
        }
        let value: &RawValue = serde_json::from_slice(line)
            .map_err(|error| no_json(name, &error, lines_before + number as u64 + 1))?;
        unpaired += strings(bytes, value.get().as_bytes(), Some(records), name, see)?;
        records += 1;
    }
    Ok(Counted { unpaired, blank_lines, ..Counted::records(records) })
}

fn no_json(name: &str, error: &serde_json::Error, line: u64) -> Error {
    let text = error.to_string();
    let why = text.split(" at line ").next().unwrap_or_default();
    Error::unusable(
        format!("{name}, line {line}, column {}: this is not JSON: {why}", error.column()),
        "read it as plain text with --from text",
    )
}

/// Where a walk through a document is.
#[derive(Default)]
struct Walk {
    /// The objects and arrays that are open: how long the path to each is, and whether it is an object.
    open: Vec<(u32, bool)>,
    /// The keys that lead here.
    path: String,
    /// Whether the next string is a key.
    key_is_next: bool,
}

impl Walk {
    fn enter(&mut self, is_object: bool) {
        self.open.push((self.path.len() as u32, is_object));
        self.key_is_next = is_object;
    }

    fn leave(&mut self) {
        self.open.pop();
        self.key_is_next = false;
    }

    /// Back to the innermost of what is open, for its next member.
    fn next_member(&mut self) {
        let (length, is_object) = self.open.last().copied().unwrap_or_default();
        self.path.truncate(length as usize);
        self.key_is_next = is_object;
    }

    fn take_key(&mut self, key: &[u8]) {
        self.key_is_next = false;
        if self.open.len() > LONGEST_PATH {
            return;
        }
        if !self.path.is_empty() {
            self.path.push('.');
        }
        self.path.push_str(&String::from_utf8_lossy(key));
    }
}

/// Calls `see` with every string of `value`, which stands in `whole` and is JSON; gives how many surrogates without the
/// other half of their pair are in them.
fn strings(
    whole: &[u8],
    value: &[u8],
    record: Option<u64>,
    name: &str,
    see: &mut dyn FnMut(Segment<'_>),
) -> Result<u64> {
    let start = value.as_ptr() as usize - whole.as_ptr() as usize;
    let (mut walk, mut unpaired, mut at) = (Walk::default(), 0, 0);
    while at < value.len() {
        match value[at] {
            b'"' => {
                let end = end_of_string(value, at + 1);
                let (inner, place) = (&value[at + 1..end], start + at + 1);
                let decoded = memchr::memchr(b'\\', inner).map(|_| unescaped(inner, place));
                let segment = match &decoded {
                    None => Segment::plain(inner, place, &walk.path, record),
                    Some(decoded) => decoded.segment(&walk.path, record),
                };
                unpaired += decoded.as_ref().map_or(0, |decoded| decoded.unpaired);
                if !walk.key_is_next {
                    see(segment);
                } else {
                    let key = segment.text.to_vec();
                    if memchr::memchr(b'@', &key).is_some() {
                        see(segment);
                    }
                    walk.take_key(&key);
                }
                at = end;
            }
            b'{' | b'[' if walk.open.len() == DEEPEST => {
                return Err(Error::unusable(
                    format!("{name}: the JSON is nested deeper than {DEEPEST} levels"),
                    "read it as plain text with --from text",
                ));
            }
            open @ (b'{' | b'[') => walk.enter(open == b'{'),
            b'}' | b']' => walk.leave(),
            b',' => walk.next_member(),
            _ => {}
        }
        at += 1;
    }
    Ok(unpaired)
}

/// Where the string ends whose content starts at `at`: its quotation mark.
fn end_of_string(value: &[u8], mut at: usize) -> usize {
    while let Some(step) = memchr::memchr2(b'"', b'\\', &value[at..]) {
        at += step;
        if value[at] == b'"' {
            return at;
        }
        at += 2;
    }
    value.len()
}

/// A string without its escapes, and where its bytes stand.
#[derive(Default)]
struct Unescaped {
    text: Vec<u8>,
    places: Vec<usize>,
    /// Surrogates without the other half of their pair; they read as U+FFFD.
    unpaired: u64,
}

impl Unescaped {
    fn segment<'a>(&'a self, field: &'a str, record: Option<u64>) -> Segment<'a> {
        let places = Places::Each(&self.places);
        Segment { line: None, id: None, text: &self.text, body: 0..self.text.len(), places, field, record }
    }
}

fn unescaped(inner: &[u8], start: usize) -> Unescaped {
    let mut string = Unescaped::default();
    let mut i = 0;
    while i < inner.len() {
        // One character at a time, a pair of surrogates being one; the parser has made sure that escapes are whole.
        let width = match &inner[i..] {
            [b'\\', b'u', rest @ ..] if is_pair(rest) => 12,
            [b'\\', b'u', ..] => 6,
            [b'\\', ..] => 2,
            _ => 1,
        };
        let piece = &inner[i..inner.len().min(i + width)];
        let before = string.text.len();
        if width == 1 {
            string.text.push(piece[0]);
        } else {
            let quoted = [b"\"", piece, b"\""].concat();
            let decoded = serde_json::from_slice::<String>(&quoted);
            string.unpaired += u64::from(decoded.is_err());
            string.text.extend_from_slice(decoded.as_deref().unwrap_or("\u{FFFD}").as_bytes());
        }
        let added = string.text.len() - before;
        string.places.extend(std::iter::repeat_n(start + i, added));
        i += width;
    }
    string.places.push(start + inner.len());
    string
}

/// Whether four hexadecimal digits of a high surrogate come, and an escape for a low one.
fn is_pair(digits: &[u8]) -> bool {
    matches!(
        digits,
        [
            b'd' | b'D',
            b'8' | b'9' | b'a'..=b'b' | b'A'..=b'B',
            _,
            _,
            b'\\',
            b'u',
            b'd' | b'D',
            b'c'..=b'f' | b'C'..=b'F',
            ..,
        ]
    )
}
