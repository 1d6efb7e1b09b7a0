//! Rows as text, as COPY of PostgreSQL and LOAD DATA of MariaDB have them: a line a row, tabs between cells, `\N` for nothing.

/// How a cell without anything stands in a line.
pub(super) const NULL: &[u8] = b"\\N";

/// The raw cells of a line without its end.
pub(super) fn raw_cells(line: &[u8]) -> impl Iterator<Item = &[u8]> {
    let ends = memchr::memchr_iter(b'\t', line).chain([line.len()]);
    let mut start = 0;
    ends.map(move |end| &line[std::mem::replace(&mut start, end + 1)..end])
}

/// What a raw cell says, with its escapes resolved in `scratch` where it has some; none for nothing.
pub(super) fn cell<'c>(raw: &'c [u8], scratch: &'c mut Vec<u8>) -> Option<&'c [u8]> {
    match raw {
        NULL => None,
        _ if memchr::memchr(b'\\', raw).is_none() => Some(raw),
        _ => {
            scratch.clear();
            resolve(raw, scratch);
            Some(scratch)
        }
    }
}

fn resolve(mut cell: &[u8], out: &mut Vec<u8>) {
    while let Some(at) = memchr::memchr(b'\\', cell) {
        out.extend_from_slice(&cell[..at]);
        let escaped = cell.get(at + 1).copied().unwrap_or(b'\\');
        out.push(match escaped {
            b'b' => 8,
            b'f' => 12,
            b'n' => b'\n',
            b'r' => b'\r',
            b't' => b'\t',
            b'v' => 11,
            other => other,
        });
        cell = cell.get(at + 2..).unwrap_or_default();
    }
    out.extend_from_slice(cell);
}

/// Appends a cell as it stands in a line; bytes that are not UTF-8 become U+FFFD.
pub(super) fn write_text(text: &[u8], out: &mut Vec<u8>) {
    match std::str::from_utf8(text) {
        Ok(_) => escape(text, out),
        Err(_) => escape(String::from_utf8_lossy(text).as_bytes(), out),
    }
}

/// Appends what may stand in a cell.
pub(super) fn escape(mut cell: &[u8], out: &mut Vec<u8>) {
    while let Some(at) = cell.iter().position(|byte| matches!(byte, b'\\' | b'\t' | b'\n' | b'\r')) {
        out.extend_from_slice(&cell[..at]);
        out.extend_from_slice(match cell[at] {
            b'\\' => b"\\\\",
            b'\t' => b"\\t",
            b'\n' => b"\\n",
            _ => b"\\r",
        });
        cell = &cell[at + 1..];
    }
    out.extend_from_slice(cell);
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn rows_come_back(row in prop::collection::vec(prop::option::of("[\\PC\\\\\t\n\r]{0,12}"), 1..6)) {
            let mut line = Vec::new();
            for (nth, cell) in row.iter().enumerate() {
                if nth > 0 {
                    line.push(b'\t');
                }
                match cell {
                    Some(cell) => escape(cell.as_bytes(), &mut line),
                    None => line.extend_from_slice(b"\\N"),
                }
            }
            prop_assert!(!line.contains(&b'\n'));
            let read: Vec<Option<Vec<u8>>> =
                raw_cells(&line).map(|raw| cell(raw, &mut Vec::new()).map(<[u8]>::to_vec)).collect();
            let expected: Vec<Option<Vec<u8>>> = row.iter().map(|cell| cell.clone().map(String::into_bytes)).collect();
            prop_assert_eq!(read, expected);
        }
    }
}
