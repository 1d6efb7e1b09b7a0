//! Cards: their properties, decoded.

use data_encoding::BASE64_MIME_PERMISSIVE;
use encoding_rs::Encoding;

/// A property of a card.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Property {
    /// In lower case, without its group.
    pub(super) name: String,
    pub(super) value: String,
}

/// The property in a line of a card; none where it is none, or a picture, a sound or a key.
pub(super) fn property(line: &[u8]) -> Option<Property> {
    let colon = colon_outside_quotes(line)?;
    let (head, value) = (String::from_utf8_lossy(&line[..colon]), &line[colon + 1..]);
    let mut parts = head.split(';');
    let name = parts.next()?.rsplit('.').next()?.trim().to_ascii_lowercase();
    if name.is_empty() || !name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'-') {
        return None;
    }
    let parameters: Vec<(String, String)> = parts.map(parameter).collect();
    let of = |name: &str| parameters.iter().find(|(found, _)| found == name).map(|(_, value)| &**value);
    let encoding = of("encoding").unwrap_or_default();
    // Of vCard 2.1 the name of the parameter may be left out.
    let has = |word: &str| encoding == word || parameters.iter().any(|(name, _)| name == word);
    if has("base64") || has("b") || value.starts_with(b"data:") {
        return None;
    }
    let decoded = match has("quoted-printable") {
        true => quoted_printable(value),
        false => value.to_vec(),
    };
    let charset = of("charset").and_then(|label| Encoding::for_label(label.as_bytes()));
    let text = match charset {
        Some(charset) => charset.decode_without_bom_handling(&decoded).0.into_owned(),
        None => String::from_utf8_lossy(&decoded).into_owned(),
    };
    Some(Property { name, value: unescaped(&text) })
}

/// Whether a line of quoted-printable goes on with the next one.
pub(super) fn goes_on(line: &[u8]) -> bool {
    line.ends_with(b"=")
        && colon_outside_quotes(line).is_some_and(|colon| {
            String::from_utf8_lossy(&line[..colon]).to_ascii_lowercase().contains("quoted-printable")
        })
}

fn colon_outside_quotes(line: &[u8]) -> Option<usize> {
    let mut in_quotes = false;
    line.iter().position(|&byte| {
        in_quotes ^= byte == b'"';
        byte == b':' && !in_quotes
    })
}

/// Name and value in lower case; of one without a value the name is its word.
fn parameter(text: &str) -> (String, String) {
    let (name, value) = text.split_once('=').unwrap_or((text, ""));
    (name.trim().to_ascii_lowercase(), value.trim_matches('"').to_ascii_lowercase())
}

fn quoted_printable(text: &[u8]) -> Vec<u8> {
    let mut out = Vec::with_capacity(text.len());
    let mut at = 0;
    while at < text.len() {
        let digits = text.get(at + 1..at + 3).and_then(|digits| std::str::from_utf8(digits).ok());
        let byte = digits.and_then(|digits| u8::from_str_radix(digits, 16).ok());
        match byte.filter(|_| text[at] == b'=') {
            Some(byte) => {
                out.push(byte);
                at += 3;
            }
            None => {
                out.push(text[at]);
                at += 1;
            }
        }
    }
    out
}

/// Commas, semicolons and line breaks behind a backslash are themselves.
fn unescaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut chars = text.chars();
    while let Some(c) = chars.next() {
        match c {
            '\\' => match chars.next() {
                Some('n' | 'N') => out.push('\n'),
                Some(c @ ('\\' | ',' | ';' | ':')) => out.push(c),
                Some(c) => out.extend(['\\', c]),
                None => out.push('\\'),
            },
            c => out.push(c),
        }
    }
    out
}

/// A value of LDIF in base64; none where it is not.
pub(super) fn from_base64(text: &[u8]) -> Option<Vec<u8>> {
    BASE64_MIME_PERMISSIVE.decode(text).ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn properties_of_all_versions() {
        for (line, expected) in [
            ("EMAIL:ada@fernhollow.example", Some(("email", "ada@fernhollow.example"))),
            ("item1.EMAIL;type=INTERNET:ada@x.example", Some(("email", "ada@x.example"))),
            ("email;PREF=1;TYPE=\"work:home\":a@b.example", Some(("email", "a@b.example"))),
            ("FN:Lovell\\, Ada\\nMember", Some(("fn", "Lovell, Ada\nMember"))),
            ("N:Lovell;Ada;;;", Some(("n", "Lovell;Ada;;;"))),
            (
                "N;CHARSET=ISO-8859-1;ENCODING=QUOTED-PRINTABLE:M=FC=DFig;J=FCrgen",
                Some(("n", "Müßig;Jürgen")),
            ),
            ("NOTE;QUOTED-PRINTABLE;CHARSET=UTF-8:gr=C3=BCn =3D 1", Some(("note", "grün = 1"))),
            ("PHOTO;ENCODING=b;TYPE=JPEG:/9j/4AAQ", None),
            ("PHOTO:data:image/png;base64,AAAA", None),
            ("no property", None),
            ("two words:x", None),
        ] {
            let found = property(line.as_bytes());
            let found = found.as_ref().map(|property| (&*property.name, &*property.value));
            assert_eq!(found, expected, "{line}");
        }
        assert!(goes_on(b"NOTE;ENCODING=QUOTED-PRINTABLE:a=") && !goes_on(b"NOTE:a="));
    }
}
