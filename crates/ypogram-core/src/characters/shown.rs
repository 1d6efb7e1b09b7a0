//! Text from outside, made safe to show on a terminal.

use crate::characters::bytes;

/// `text` with everything written out that could garble a terminal or mislead the eye: control characters and escape
/// sequences, marks of direction, characters that show nothing. Bytes that are not UTF-8 show as U+FFFD.
///
/// ```
/// assert_eq!(ypogram_core::shown(b"a\x1b[31m@\xE2\x80\xAEb"), "a\\u{1b}[31m@\\u{202e}b");
/// ```
pub fn shown(text: &[u8]) -> String {
    let mut out = String::with_capacity(text.len());
    for c in String::from_utf8_lossy(text).chars() {
        match c {
            '\n' => out.push_str("\\n"),
            '\r' => out.push_str("\\r"),
            '\t' => out.push_str("\\t"),
            c if c.is_control() || bytes::is_bidi_control(c) || bytes::is_invisible(c) => {
                out.extend(c.escape_unicode())
            }
            c => out.push(c),
        }
    }
    out
}
