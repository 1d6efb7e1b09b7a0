//! The encoded parts of mail, and how one with another text is encoded anew.

use std::ops::Range;

use data_encoding::{BASE64, BASE64_MIME_PERMISSIVE};
use encoding_rs::Encoding;
use quoted_printable::{InputMode, Options, ParseMode};

/// A part of a message that is sent encoded.
#[derive(Clone, Debug)]
pub struct EncodedPart {
    /// Its bytes in the piece.
    pub range: Range<usize>,
    coding: Coding,
}

#[derive(Clone, Copy, Debug)]
enum Coding {
    /// A body, with its character set where that is a known one (RFC 2045 §6.8).
    Base64(Option<&'static Encoding>),
    /// The same (RFC 2045 §6.7).
    QuotedPrintable(Option<&'static Encoding>),
    /// The value of a header that has encoded words (RFC 2047).
    Header,
    /// Encoded words with nothing but space between them.
    Words,
}

impl EncodedPart {
    pub(crate) fn body(range: Range<usize>, is_base64: bool, charset: &str) -> Self {
        let charset = Encoding::for_label(charset.as_bytes());
        let coding = if is_base64 { Coding::Base64(charset) } else { Coding::QuotedPrintable(charset) };
        EncodedPart { range, coding }
    }

    pub(crate) fn header(range: Range<usize>) -> Self {
        EncodedPart { range, coding: Coding::Header }
    }

    /// Whether it is the value of a header, which has other text beside what is encoded.
    pub fn is_header(&self) -> bool {
        matches!(self.coding, Coding::Header)
    }

    /// The stretches of it that can be encoded anew, with their texts: a body is one, a header has one for each run of encoded words.
    pub fn stretches(&self, piece: &[u8], text: &str) -> Vec<(EncodedPart, String)> {
        if !self.is_header() {
            return vec![(self.clone(), text.to_owned())];
        }
        let runs = runs_of_words(&piece[self.range.clone()]);
        let stretch = |run: Range<usize>| {
            let range = self.range.start + run.start..self.range.start + run.end;
            let text = words_decoded(&piece[range.clone()])?;
            Some((EncodedPart { range, coding: Coding::Words }, text))
        };
        runs.into_iter().filter_map(stretch).collect()
    }

    /// What has to stand in its place for its text to be `after` where it is `before` now. None where that cannot be said without a change
    /// to the rest of it: its character set is unknown or does not have a character, or its bytes are broken.
    pub fn encode(&self, piece: &[u8], before: &str, after: &str) -> Option<String> {
        let line_end = match memchr::memchr(b'\n', piece) {
            Some(at) if at > 0 && piece[at - 1] == b'\r' => "\r\n",
            _ => "\n",
        };
        let raw = &piece[self.range.clone()];
        match self.coding {
            Coding::Header => None,
            Coding::Words => {
                let encoded = words_of(after, line_end);
                (words_decoded(encoded.as_bytes())? == after).then_some(encoded)
            }
            Coding::Base64(charset) => {
                (base64_decoded(raw)? == bytes_in(charset?, before)?).then_some(())?;
                let encoded = BASE64.encode(&bytes_in(charset?, after)?);
                let lines: Vec<&str> = chunks(&encoded, 76).collect();
                let tail = &raw[raw.trim_ascii_end().len()..];
                Some(lines.join(line_end) + std::str::from_utf8(tail).ok()?)
            }
            Coding::QuotedPrintable(charset) => {
                (quoted_decoded(raw)? == bytes_in(charset?, before)?).then_some(())?;
                let after = bytes_in(charset?, after)?;
                let options = Options::default().input_mode(InputMode::Text);
                let encoded = quoted_printable::encode_with_options(&after, options);
                let encoded = encoded.replace("\r\n", "\n").replace('\n', line_end);
                (quoted_decoded(encoded.as_bytes())? == after).then_some(encoded)
            }
        }
    }
}

fn base64_decoded(raw: &[u8]) -> Option<Vec<u8>> {
    let digits: Vec<u8> = raw.iter().copied().filter(|b| !b.is_ascii_whitespace()).collect();
    BASE64_MIME_PERMISSIVE.decode(&digits).ok()
}

fn quoted_decoded(raw: &[u8]) -> Option<Vec<u8>> {
    quoted_printable::decode(raw, ParseMode::Robust).ok()
}

fn bytes_in(charset: &'static Encoding, text: &str) -> Option<Vec<u8>> {
    let (bytes, _, has_unknown) = charset.encode(text);
    (!has_unknown).then(|| bytes.into_owned())
}

/// Text of one byte a character in parts of that length.
fn chunks(text: &str, length: usize) -> impl Iterator<Item = &str> {
    (0..text.len()).step_by(length).map(move |start| &text[start..text.len().min(start + length)])
}

/// Where encoded words stand in the value of a header, those with nothing but space between them together.
fn runs_of_words(value: &[u8]) -> Vec<Range<usize>> {
    let mut runs: Vec<Range<usize>> = Vec::new();
    let mut at = 0;
    while let Some(start) = memchr::memmem::find(&value[at..], b"=?").map(|found| at + found) {
        let Some(end) = end_of_word(value, start) else {
            at = start + 2;
            continue;
        };
        match runs.last_mut() {
            Some(run) if value[run.end..start].trim_ascii().is_empty() => run.end = end,
            _ => runs.push(start..end),
        }
        at = end;
    }
    runs
}

/// Where the encoded word at `start` ends: `=?charset?encoding?text?=`.
fn end_of_word(value: &[u8], start: usize) -> Option<usize> {
    let mark = |from: usize| memchr::memchr(b'?', &value[from..]).map(|found| from + found + 1);
    let encoding = mark(start + 2)?;
    let text = mark(encoding)?;
    let end = text + memchr::memmem::find(&value[text..], b"?=")? + 2;
    (!value[start..end].iter().any(u8::is_ascii_whitespace)).then_some(end)
}

fn words_decoded(words: &[u8]) -> Option<String> {
    let line = [b"part: ", words].concat();
    Some(mailparse::parse_header(&line).ok()?.0.get_value())
}

/// Encoded words for a text, each within the 75 characters it may have.
fn words_of(text: &str, line_end: &str) -> String {
    let mut words: Vec<String> = Vec::new();
    let mut rest = text;
    while !rest.is_empty() {
        let end = (1..=rest.len().min(45)).rfind(|end| rest.is_char_boundary(*end)).unwrap_or(rest.len());
        let (word, behind) = rest.split_at(end);
        words.push(format!("=?UTF-8?B?{}?=", BASE64.encode(word.as_bytes())));
        rest = behind;
    }
    words.join(&format!("{line_end} "))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What is encoded anew has the new text when it is decoded, and nothing is written where the old one would not come back.
    #[test]
    fn parts_encoded_anew() {
        let long = "Grüße an ada@fernhollow.example, ".repeat(9);
        for (charset, before, can_be) in [
            ("utf-8", long.as_str(), true),
            ("iso-8859-1", long.as_str(), true),
            ("utf-16", "ada@fernhollow.example", false),
            ("no-such", "ada@fernhollow.example", false),
        ] {
            let after = before.replace("ada@fernhollow.example", "b = c");
            let bytes = match (Encoding::for_label(charset.as_bytes()), charset) {
                (_, "utf-16") => before.encode_utf16().flat_map(u16::to_le_bytes).collect(),
                (Some(set), _) => set.encode(before).0.into_owned(),
                (None, _) => Vec::new(),
            };
            let bodies = [BASE64.encode(&bytes) + "\r\n", quoted_printable::encode_to_str(&bytes) + "=\r\n"];
            for (body, is_base64) in bodies.iter().zip([true, false]) {
                let part = EncodedPart::body(0..body.len(), is_base64, charset);
                let anew = part.encode(body.as_bytes(), before, &after);
                assert_eq!(anew.is_some(), can_be, "{charset} {is_base64}");
                let Some(anew) = anew else { continue };
                assert!(anew.lines().all(|line| line.len() <= 76));
                let back =
                    if is_base64 { base64_decoded(anew.as_bytes()) } else { quoted_decoded(anew.as_bytes()) };
                assert_eq!(back, bytes_in(Encoding::for_label(charset.as_bytes()).unwrap(), &after));
            }
        }
        let value = b"=?utf-8?Q?Ada?=\r\n =?utf-8?Q?_Lovell?= <a@b.example>, =?utf-8?B?Qm8=?=";
        let header = EncodedPart::header(0..value.len());
        let stretches = header.stretches(value, "");
        let texts: Vec<&str> = stretches.iter().map(|(_, text)| text.as_str()).collect();
        assert_eq!(texts, ["Ada Lovell", "Bo"]);
        let anew = stretches[0].0.encode(value, "Ada Lovell", &long).unwrap();
        assert!(anew.lines().all(|word| word.trim().len() <= 75));
        assert_eq!(words_decoded(anew.as_bytes()).unwrap(), long);
    }
}
