//! What the first bytes of a file show, whatever its name says.

use crate::input::encoding::utf16_without_mark;
use crate::records::format::Format;

/// What the first bytes show.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Content {
    /// A format that is read.
    Known(Format),
    /// A packed archive, in which there may be a workbook.
    Zip,
    /// Something that is not read.
    Foreign(Foreign),
    /// No text, by a zero byte there.
    Binary(usize),
    /// Nothing that text could not be.
    Text,
}

/// A kind of files that is not read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Foreign {
    /// What people call it.
    pub(crate) called: &'static str,
    /// What to do in order to read what is in it.
    pub(crate) hint: &'static str,
}

const UNPACK: &str = "unpack it, and give the files in it";
const NO_TEXT: &str = "there is no text in it to read";
const COPY: &str = "copy its text into a file";

/// First bytes, where they start, and what they are of.
static SIGNATURES: &[(usize, &[u8], &str, &str)] = &[
    (0, b"%PDF-", "a PDF document", COPY),
    (0, b"{\\rtf", "a rich-text document", "save it as plain text"),
    (0, b"\x89PNG", "a picture (PNG)", NO_TEXT),
    (0, b"\xFF\xD8\xFF", "a picture (JPEG)", NO_TEXT),
    (0, b"GIF8", "a picture (GIF)", NO_TEXT),
    (0, b"II*\0", "a picture (TIFF)", NO_TEXT),
    (0, b"MM\0*", "a picture (TIFF)", NO_TEXT),
    (8, b"WEBP", "a picture (WebP)", NO_TEXT),
    (4, b"ftyp", "a film or a picture", NO_TEXT),
    (0, b"OggS", "a sound recording", NO_TEXT),
    (0, b"ID3", "a sound recording", NO_TEXT),
    (0, b"fLaC", "a sound recording", NO_TEXT),
    (0, b"7z\xBC\xAF\x27\x1C", "an archive (7z)", UNPACK),
    (0, b"Rar!\x1A\x07", "an archive (RAR)", UNPACK),
    (0, b"BZh", "a file compressed with bzip2", "unpack it; gzip and zstd are read as they are"),
    (0, b"\xFD7zXZ\0", "a file compressed with xz", "unpack it; gzip and zstd are read as they are"),
    (257, b"ustar", "an archive (tar)", UNPACK),
    (0, b"!<arch>\n", "an archive (ar)", UNPACK),
    (0, b"\x7FELF", "a program", NO_TEXT),
    (0, b"MZ\x90", "a program", NO_TEXT),
    (0, b"\xCA\xFE\xBA\xBE", "a program", NO_TEXT),
    (0, b"\xCF\xFA\xED\xFE", "a program", NO_TEXT),
    (0, b"\0asm", "a program", NO_TEXT),
    (0, b"!BDN", "a mail folder of a mail program (PST)", "export its messages as mbox or eml"),
    (0, b"wOFF", "a font", NO_TEXT),
    (0, b"wOF2", "a font", NO_TEXT),
];

/// What a file that starts with `start` is.
///
/// Text formats are told by the name of a file and by [`text_format`].
pub(crate) fn content(start: &[u8]) -> Content {
    let known = [
        (&b"SQLite format 3\0"[..], Format::Sqlite),
        (b"PAR1", Format::Parquet),
        (b"ARROW1", Format::Arrow),
        (b"\xFF\xFF\xFF\xFF", Format::ArrowStream),
        // An old workbook, or whatever else lies in such a compound file; its reader tells.
        (b"\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1", Format::Xls),
    ];
    if let Some((_, format)) = known.iter().find(|(signature, _)| start.starts_with(signature)) {
        return Content::Known(*format);
    }
    if start.starts_with(b"PK\x03\x04") || start.starts_with(b"PK\x05\x06") {
        return Content::Zip;
    }
    let is_at = |at: usize, signature: &[u8]| start.get(at..).is_some_and(|rest| rest.starts_with(signature));
    let foreign = SIGNATURES.iter().find(|(at, signature, ..)| is_at(*at, signature));
    if let Some(&(_, _, called, hint)) = foreign {
        return Content::Foreign(Foreign { called, hint });
    }
    let is_marked = start.starts_with(b"\xFF\xFE") || start.starts_with(b"\xFE\xFF");
    if is_marked || utf16_without_mark(start).is_some() {
        return Content::Text;
    }
    match memchr::memchr(0, start) {
        Some(zero) => Content::Binary(zero),
        None => Content::Text,
    }
}

/// The format of a text whose name does not tell it, where its start leaves no doubt.
pub(crate) fn text_format(start: &[u8]) -> Option<Format> {
    let start = start.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(start).trim_ascii_start();
    let begins =
        |words: &str| start.get(..words.len()).is_some_and(|s| s.eq_ignore_ascii_case(words.as_bytes()));
    if begins("<!doctype html") || begins("<html") {
        return Some(Format::Html);
    }
    if begins("begin:vcard") {
        return Some(Format::Vcard);
    }
    let entry = start.strip_prefix(b"version: 1").map_or(start, <[u8]>::trim_ascii_start);
    if entry.get(..4).is_some_and(|start| start.eq_ignore_ascii_case(b"dn: ")) {
        return Some(Format::Ldif);
    }
    let line = start.split(|&byte| byte == b'\n').next().unwrap_or_default().trim_ascii();
    let is_object = line.starts_with(b"{") && line.ends_with(b"}") && line.contains(&b':');
    if is_object && serde_json::from_slice::<serde::de::IgnoredAny>(line).is_ok() {
        return Some(Format::JsonLines);
    }
    let behind = start.strip_prefix(b"[").map(<[u8]>::trim_ascii_start);
    behind
        .is_some_and(|behind| behind.starts_with(b"{\"") || behind.starts_with(b"{\n"))
        .then_some(Format::Json)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_first_bytes_show() {
        let foreign = |start: &[u8]| match content(start) {
            Content::Foreign(foreign) => foreign.called,
            _ => "",
        };
        assert_eq!(foreign(b"%PDF-1.7\n"), "a PDF document");
        assert_eq!(foreign(b"\x89PNG\r\n\x1A\n\0\0\0"), "a picture (PNG)");
        assert_eq!(content(b"SQLite format 3\0\x10\0"), Content::Known(Format::Sqlite));
        assert_eq!(content(b"PK\x03\x04\x14"), Content::Zip);
        assert_eq!(content(b"name,email\na\0b"), Content::Binary(12));
        assert_eq!(content("näme\n".as_bytes()), Content::Text);
        for (start, format) in [
            ("<!DOCTYPE HTML>\n", Some(Format::Html)),
            ("{\"a\": 1}\n{\"a\": 2}\n", Some(Format::JsonLines)),
            ("[\n  {\"a\": 1}]", Some(Format::Json)),
            ("BEGIN:VCARD\r\nVERSION:3.0", Some(Format::Vcard)),
            ("dn: cn=Ada,dc=fernhollow,dc=example\n", Some(Format::Ldif)),
            ("{name}: hello\n", None),
            ("[1, 2]", None),
            ("name,email\n", None),
        ] {
            assert_eq!(text_format(start.as_bytes()), format, "{start}");
        }
    }
}
