//! Numbers and names as people write them.

/// `1234567` as `1,234,567`.
pub(crate) fn number(count: u64) -> String {
    let digits = count.to_string();
    let mut out = String::new();
    for (i, digit) in digits.chars().enumerate() {
        if i > 0 && (digits.len() - i).is_multiple_of(3) {
            out.push(',');
        }
        out.push(digit);
    }
    out
}

/// `3 records`, `1 record`.
pub(crate) fn counted(count: u64, one: &str, many: &str) -> String {
    format!("{} {}", number(count), if count == 1 { one } else { many })
}

/// A share as `12.3 %`; what is less than the last digit shows as such.
pub(crate) fn share(part: u64, whole: u64) -> String {
    if whole == 0 {
        return String::new();
    }
    let share = part as f64 * 100.0 / whole as f64;
    match part {
        0 => "0 %".into(),
        _ if share < 0.1 => "<0.1 %".into(),
        _ => format!("{share:.1} %"),
    }
}

/// A word as it can be copied into a shell.
pub(crate) fn for_shell(word: &str) -> String {
    let plain = word
        .chars()
        .all(|c| c.is_alphanumeric() || matches!(c, '_' | '-' | '.' | '/' | '@' | '+' | ',' | '='));
    if plain && !word.is_empty() {
        word.to_owned()
    } else if ypogram_core::shown(word.as_bytes()) == word {
        format!("'{}'", word.replace('\'', r"'\''"))
    } else {
        escaped_for_shell(word)
    }
}

/// A word with characters that no terminal should be given, in the `$'…'` of POSIX shells (IEEE Std 1003.1-2024, 2.2.4).
fn escaped_for_shell(word: &str) -> String {
    let mut out = String::from("$'");
    for c in word.chars() {
        let text = c.to_string();
        match u32::from(c) {
            _ if matches!(c, '\'' | '\\') => out.extend(['\\', c]),
            _ if ypogram_core::shown(text.as_bytes()) == text => out.push(c),
            code @ ..0x80 => out.push_str(&format!("\\x{code:02x}")),
            code @ ..0x1_0000 => out.push_str(&format!("\\u{code:04x}")),
            code => out.push_str(&format!("\\U{code:08x}")),
        }
    }
    out.push('\'');
    out
}
