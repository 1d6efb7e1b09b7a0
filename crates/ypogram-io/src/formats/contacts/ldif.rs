//! Entries of a directory: their attributes, decoded.

use crate::formats::contacts::vcard::from_base64;

/// An attribute of an entry.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Attribute {
    /// In lower case, with its options.
    pub(super) name: String,
    /// None where it is no text, such as a picture.
    pub(super) value: Option<String>,
}

/// The attribute in a line; none where it is none.
pub(super) fn attribute(line: &[u8]) -> Option<Attribute> {
    let colon = line.iter().position(|&byte| byte == b':')?;
    let name = std::str::from_utf8(&line[..colon]).ok()?.trim().to_ascii_lowercase();
    let is_name = |byte: u8| byte.is_ascii_alphanumeric() || b"-;._".contains(&byte);
    if name.is_empty() || !name.bytes().all(is_name) {
        return None;
    }
    let value = match &line[colon + 1..] {
        [b':', base64 @ ..] => {
            from_base64(base64.trim_ascii()).and_then(|bytes| String::from_utf8(bytes).ok())
        }
        text => Some(String::from_utf8_lossy(text.trim_ascii_start()).into_owned()),
    };
    Some(Attribute { name, value })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn attributes_are_decoded() {
        for (line, name, value) in [
            ("mail: ada@fernhollow.example", "mail", Some("ada@fernhollow.example")),
            ("cn;lang-de:: TcO8w59pZw==", "cn;lang-de", Some("Müßig")),
            ("description:", "description", Some("")),
            ("jpegPhoto:: /9j/4AA=", "jpegphoto", None),
            ("homePage:< file:///x", "homepage", Some("< file:///x")),
        ] {
            let expected = Attribute { name: name.into(), value: value.map(str::to_owned) };
            assert_eq!(attribute(line.as_bytes()), Some(expected), "{line}");
        }
        assert_eq!(attribute(b"no attribute"), None);
        assert_eq!(attribute(b"two words: x"), None);
    }
}
