//! Rows that are shown on a terminal, which must not take a byte of them for a command.

use std::io::{self, IsTerminal as _, Write};

/// Standard output: rows as they are for a pipe or file, and for a terminal with everything written out that could garble it or
/// mislead the eye.
pub(super) fn standard_output() -> Box<dyn Write + Send + Sync> {
    let out = io::stdout();
    if out.is_terminal() { Box::new(Shown(out)) } else { Box::new(out) }
}

/// Whole rows, with what is no text to look at as `\u{…}`, and U+FFFD for bytes that are not UTF-8.
struct Shown<W>(W);

impl<W: Write> Write for Shown<W> {
    fn write(&mut self, rows: &[u8]) -> io::Result<usize> {
        let mut out = String::with_capacity(rows.len());
        let text = String::from_utf8_lossy(rows);
        let mut characters = text.chars().peekable();
        while let Some(c) = characters.next() {
            match c {
                // The line ends of Windows.
                '\r' if characters.peek() == Some(&'\n') => {}
                '\n' | '\t' => out.push(c),
                c if c.is_control() || changes_direction(c) => out.extend(c.escape_unicode()),
                c => out.push(c),
            }
        }
        self.0.write_all(out.as_bytes())?;
        Ok(rows.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.0.flush()
    }
}

/// Whether what follows may be shown in another order (Unicode Standard Annex #9).
fn changes_direction(c: char) -> bool {
    matches!(c, '\u{61C}' | '\u{200E}' | '\u{200F}' | '\u{202A}'..='\u{202E}' | '\u{2066}'..='\u{2069}')
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_byte_commands_a_terminal() {
        let mut shown = Shown(Vec::new());
        shown.write_all("Bo\u{1b}[2J,\u{9b}31m\u{202E}x\té\n".as_bytes()).unwrap();
        shown.write_all(b"a\xffb\rc\r\n").unwrap();
        let expected = "Bo\\u{1b}[2J,\\u{9b}31m\\u{202e}x\té\na\u{FFFD}b\\u{d}c\n";
        assert_eq!(String::from_utf8(shown.0).unwrap(), expected);
    }
}
