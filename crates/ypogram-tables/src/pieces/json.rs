//! JSON: every string of a document or of each line, under the path of keys that leads to it.

use serde_json::value::RawValue;

use crate::error::{Error, Result};
use crate::pieces::{Places, Segment};

/// Deeper nesting than this is refused by the parser anyway.
const DEEPEST: usize = 128;

/// Calls `see` with every string of the document `bytes`.
pub(crate) fn document(bytes: &[u8], name: &str, see: &mut dyn FnMut(Segment<'_>)) -> Result<()> {
    let value: &RawValue =
        serde_json::from_slice(bytes).map_err(|error| no_json(name, &error, error.line() as u64))?;
    Walk { whole: bytes, record: None, name, see }.value(value, &mut String::new(), 0)
}

/// Calls `see` with every string of each line of `bytes`; gives how many lines there are.
pub(crate) fn lines(bytes: &[u8], name: &str, see: &mut dyn FnMut(Segment<'_>)) -> Result<u64> {
    for (number, line) in bytes.split(|&b| b == b'\n').enumerate() {
        if line.trim_ascii().is_empty() {
            continue;
        }
        let value: &RawValue =
            serde_json::from_slice(line).map_err(|error| no_json(name, &error, number as u64 + 1))?;
        Walk { whole: bytes, record: Some(number as u64), name, see }.value(value, &mut String::new(), 0)?;
    }
    Ok(memchr::memchr_iter(b'\n', bytes).count() as u64)
}

fn no_json(name: &str, error: &serde_json::Error, line: u64) -> Error {
    Error::unusable(
        format!("{name}: this is no JSON: {error} (line {line} of the part)"),
        "read it as plain text with --from text",
    )
}

struct Walk<'w, 's> {
    whole: &'w [u8],
    record: Option<u64>,
    name: &'w str,
    see: &'s mut dyn FnMut(Segment<'_>),
}

impl Walk<'_, '_> {
    fn value(&mut self, value: &RawValue, path: &mut String, depth: usize) -> Result<()> {
        let text = value.get();
        match text.as_bytes().first() {
            Some(b'"') => self.string(text.as_bytes(), path),
            Some(b'{') if depth < DEEPEST => {
                let members: Members<'_> = self.parsed(text)?;
                for (key, member) in members.0 {
                    let length = path.len();
                    if !path.is_empty() {
                        path.push('.');
                    }
                    path.push_str(&key);
                    self.value(member, path, depth + 1)?;
                    path.truncate(length);
                }
            }
            Some(b'[') if depth < DEEPEST => {
                let items: Vec<&RawValue> = self.parsed(text)?;
                for item in items {
                    self.value(item, path, depth + 1)?;
                }
            }
            _ => {}
        }
        Ok(())
    }

    fn parsed<'t, T: serde::Deserialize<'t>>(&self, text: &'t str) -> Result<T> {
        serde_json::from_str(text).map_err(|error| no_json(self.name, &error, error.line() as u64))
    }

    fn string(&mut self, raw: &[u8], path: &str) {
        let start = raw.as_ptr() as usize - self.whole.as_ptr() as usize + 1;
        let inner = &raw[1..raw.len() - 1];
        if !inner.contains(&b'\\') {
            return (self.see)(Segment::plain(inner, start, path, self.record));
        }
        let (text, places) = unescaped(inner, start);
        (self.see)(Segment {
            id: None,
            text: &text,
            body: 0..text.len(),
            places: Places::Each(&places),
            field: path,
            record: self.record,
        });
    }
}

/// A string without its escapes, and where its bytes stand.
fn unescaped(inner: &[u8], start: usize) -> (Vec<u8>, Vec<usize>) {
    let (mut text, mut places) = (Vec::with_capacity(inner.len()), Vec::with_capacity(inner.len() + 1));
    let mut i = 0;
    while i < inner.len() {
        // One character at a time, a pair of surrogates being one; the parser has made sure that escapes are whole.
        let width = match &inner[i..] {
            [b'\\', b'u', rest @ ..] if is_high_surrogate(rest) => 12,
            [b'\\', b'u', ..] => 6,
            [b'\\', ..] => 2,
            _ => 1,
        };
        let piece = &inner[i..inner.len().min(i + width)];
        let before = text.len();
        if width == 1 {
            text.push(piece[0]);
        } else {
            let quoted = [b"\"", piece, b"\""].concat();
            let decoded: String = serde_json::from_slice(&quoted).unwrap_or_else(|_| "\u{FFFD}".into());
            text.extend_from_slice(decoded.as_bytes());
        }
        places.extend(std::iter::repeat_n(start + i, text.len() - before));
        i += width;
    }
    places.push(start + inner.len());
    (text, places)
}

fn is_high_surrogate(rest: &[u8]) -> bool {
    matches!(rest, [b'd' | b'D', b'8' | b'9' | b'a'..=b'b' | b'A'..=b'B', ..])
}

/// An object's members in order, a key that comes twice included.
struct Members<'a>(Vec<(String, &'a RawValue)>);

impl<'a> serde::Deserialize<'a> for Members<'a> {
    fn deserialize<D: serde::Deserializer<'a>>(deserializer: D) -> std::result::Result<Self, D::Error> {
        struct Visitor;
        impl<'a> serde::de::Visitor<'a> for Visitor {
            type Value = Members<'a>;

            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("an object")
            }

            fn visit_map<A: serde::de::MapAccess<'a>>(
                self,
                mut map: A,
            ) -> std::result::Result<Self::Value, A::Error> {
                let mut members = Vec::new();
                while let Some(member) = map.next_entry()? {
                    members.push(member);
                }
                Ok(Members(members))
            }
        }
        deserializer.deserialize_map(Visitor)
    }
}
