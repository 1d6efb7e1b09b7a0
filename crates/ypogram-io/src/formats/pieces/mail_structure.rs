//! How deep and in how many parts a mail message is, found in one pass before it is decoded: to decode parts within parts takes stack
//! and time for each level.

use std::collections::HashMap;

use memchr::memmem;

use crate::formats::pieces::Limits;

/// Whether a message keeps to the limits.
///
/// A boundary that a header names opens a level, its delimiters (RFC 2046 §5.1.1) start the parts, and that of a level further out ends
/// those inside. What only looks like a boundary counts too, so that there are never more levels than this sees.
pub(crate) fn keeps_to(limits: Limits, message: &[u8]) -> bool {
    let mut levels: Vec<&[u8]> = Vec::new();
    let mut level_of: HashMap<&[u8], usize> = HashMap::new();
    let mut parts = 0;
    for line in message.split(|&b| b == b'\n') {
        if let Some(delimiter) = line.strip_prefix(b"--") {
            let delimiter = delimiter.trim_ascii_end();
            let closed = delimiter.strip_suffix(b"--").and_then(|boundary| level_of.get(boundary));
            let left = match (level_of.get(delimiter), closed) {
                (Some(level), _) => {
                    parts += 1;
                    Some(level + 1)
                }
                (None, Some(level)) => Some(*level),
                (None, None) => None,
            };
            for boundary in levels.drain(left.unwrap_or(levels.len())..) {
                level_of.remove(boundary);
            }
        }
        for boundary in boundaries(line) {
            level_of.entry(boundary).or_insert(levels.len());
            levels.push(boundary);
        }
        if levels.len() > limits.deepest || parts > limits.most_parts {
            return false;
        }
    }
    true
}

/// The values of all parameters `boundary` in a line, in whatever letter case, RFC 2231 included.
fn boundaries(line: &[u8]) -> impl Iterator<Item = &[u8]> {
    memmem::find_iter(line, b"=").filter_map(|sign| {
        let name = line[..sign].trim_ascii_end();
        let name = name.split(|&b| matches!(b, b';' | b' ' | b'\t')).next_back()?;
        let named = name.get(..8).is_some_and(|start| start.eq_ignore_ascii_case(b"boundary"));
        let value = line[sign + 1..].trim_ascii();
        let value = match value.strip_prefix(b"\"") {
            Some(quoted) => &quoted[..memchr::memchr(b'"', quoted).unwrap_or(quoted.len())],
            None => value.split(|&b| matches!(b, b';' | b' ' | b'\t')).next().unwrap_or_default(),
        };
        (named && matches!(name.get(8), None | Some(b'*'))).then_some(value)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn nested(levels: usize) -> String {
        let mut message = "Content-Type: text/plain\n\nada@fernhollow.org\n".to_owned();
        for level in 0..levels {
            let start = if level % 2 == 0 { "boundary=b" } else { "Boundary = \"b" };
            let end = if level % 2 == 0 { "" } else { "\"" };
            message = format!(
                "Content-Type: multipart/mixed;\n {start}{level}{end}; x=y\n\n--b{level}\n{message}\n--b{level}--\n"
            );
        }
        message
    }

    #[test]
    fn levels_and_parts_are_counted() {
        let limits = |deepest, most_parts| Limits { deepest, most_parts };
        for levels in 0..5 {
            let message = nested(levels);
            assert!(keeps_to(limits(levels, levels), &message.clone().into_bytes()), "{message}");
            assert!(levels == 0 || !keeps_to(limits(levels - 1, 99), message.as_bytes()), "{message}");
            assert!(levels == 0 || !keeps_to(limits(99, levels - 1), message.as_bytes()), "{message}");
            // Side by side they are no deeper.
            let sides = format!(
                "Content-Type: multipart/mixed; boundary=\"all\"\n\n--all\n{message}\n--all\n{message}\n--all--\n"
            );
            assert!(keeps_to(limits(levels + 1, 2 * levels + 2), sides.as_bytes()), "{sides}");
            assert!(!keeps_to(limits(levels, 99), sides.as_bytes()), "{sides}");
        }
    }
}
