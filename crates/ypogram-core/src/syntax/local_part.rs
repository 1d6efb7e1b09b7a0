//! The part before the @: RFC 5321 §4.1.2 *Local-part*, with the UTF-8 of RFC 6531 §3.3.

use crate::characters::bytes::{self, ATEXT, CONTROL};
use crate::characters::fold::is_dot_string;
use crate::model::codes::Code;
use crate::syntax::sink::FindingSink;

/// What a local part says.
#[derive(Debug, Default)]
pub(crate) struct LocalContent {
    /// Its text, quotes and quoted pairs undone.
    pub(crate) text: Vec<u8>,
    /// It is written in quotes.
    pub(crate) quoted: bool,
}

impl LocalContent {
    /// That of the local part `text`, whatever is at fault with it.
    pub(crate) fn of(text: &[u8]) -> Self {
        if !is_quoted(text) {
            return LocalContent { text: text.to_vec(), quoted: false };
        }
        let (mut content, mut inside) = (Vec::with_capacity(text.len()), text[1..text.len() - 1].iter());
        while let Some(&byte) = inside.next() {
            content.push(if byte == b'\\' { inside.next().copied().unwrap_or(byte) } else { byte });
        }
        LocalContent { text: content, quoted: true }
    }
}

/// Reports every fault of the local part `text`, which starts at byte `at` of the address, and gives what it says.
pub(crate) fn read(text: &[u8], at: usize, sink: &mut impl FindingSink) -> LocalContent {
    check(text, at, sink);
    LocalContent::of(text)
}

fn is_quoted(text: &[u8]) -> bool {
    text.len() > 1 && text[0] == b'"' && closing_quote(text) == Some(text.len() - 1)
}

/// Reports every fault of the local part `text`, which starts at byte `at` of the address, but for its length.
pub(crate) fn check(text: &[u8], at: usize, sink: &mut impl FindingSink) {
    if text.is_empty() {
        sink.report_plain(Code::EmptyLocalPart, at..at + 1);
    } else if is_quoted(text) {
        check_quoted(text, at, sink);
    } else {
        check_dot_string(text, at, sink);
    }
}

/// Where the quoted string that `text` starts with is closed.
pub(crate) fn closing_quote(text: &[u8]) -> Option<usize> {
    let mut i = 1;
    while i < text.len() {
        match text[i] {
            b'\\' => i += 2,
            b'"' => return Some(i),
            _ => i += 1,
        }
    }
    None
}

fn check_dot_string(text: &[u8], at: usize, sink: &mut impl FindingSink) {
    let edges = [(0, text.first()), (text.len() - 1, text.last())];
    for (i, _) in edges.into_iter().filter(|&(i, b)| b == Some(&b'.') && (i > 0 || text.len() > 1)) {
        sink.report_plain(Code::DotAtEdge, at + i..at + i + 1);
    }
    if text == b"." {
        sink.report_plain(Code::DotAtEdge, at..at + 1);
    }
    let mut quotes = false;
    let mut i = 0;
    while i < text.len() {
        let b = text[i];
        if b == b'.' {
            let run = text[i..].iter().take_while(|&&b| b == b'.').count();
            if run > 1 {
                sink.report(Code::DoubleDot, at + i..at + i + run, || match run {
                    2 => "Two dots follow one another.".into(),
                    _ => format!("{run} dots follow one another.").into(),
                });
            }
            i += run;
        } else if bytes::is(b, ATEXT) {
            i += 1;
        } else if b == b'"' {
            if !quotes {
                sink.report_plain(Code::UnbalancedQuote, at + i..at + i + 1);
            }
            quotes = true;
            i += 1;
        } else {
            i += check_character(&text[i..], at + i, false, sink);
        }
    }
}

fn check_quoted(text: &[u8], at: usize, sink: &mut impl FindingSink) {
    let mut i = 1;
    while i < text.len() - 1 {
        if text[i] == b'\\' {
            i += 1;
        }
        i += check_character(&text[i..text.len() - 1], at + i, true, sink);
    }
}

/// Reports what is wrong with the character at the start of `rest`, if anything; gives its width in bytes.
fn check_character(rest: &[u8], at: usize, in_quotes: bool, sink: &mut impl FindingSink) -> usize {
    let Some((c, width)) = bytes::first_char(rest) else {
        let run = rest.iter().take_while(|&&b| b >= 0x80).count().max(1);
        let width = (1..=run).find(|&i| i == run || bytes::first_char(&rest[i..]).is_some()).unwrap_or(1);
        sink.report(Code::NotUtf8, at..at + width, || {
            format!("{width} {} not UTF-8.", if width == 1 { "byte is" } else { "bytes are" }).into()
        });
        return width;
    };
    let code = match c {
        c if bytes::is_bidi_control(c) => Some(Code::BidiControl),
        ' ' if in_quotes => None,
        c if bytes::is_space_char(c) => {
            Some(if in_quotes { Code::ControlCharacter } else { Code::SpaceInside })
        }
        c if c.is_control() => Some(Code::ControlCharacter),
        c if c.is_ascii() && !in_quotes && !bytes::is(c as u8, ATEXT) => Some(Code::CharacterNotAllowed),
        c if c.is_ascii() && bytes::is(c as u8, CONTROL) => Some(Code::ControlCharacter),
        c if is_no_letter(c) => Some(Code::CharacterNotAllowed),
        _ => None,
    };
    if let Some(code) = code {
        sink.report(code, at..at + width, || match code {
            Code::CharacterNotAllowed => {
                format!("{} is not allowed in a local part.", capital(&bytes::shown(c))).into()
            }
            Code::SpaceInside => match c {
                ' ' => "There is a space inside.".into(),
                c => format!("There is {} inside.", bytes::shown(c)).into(),
            },
            code => format!("{} ({}).", code.info().sentence.trim_end_matches('.'), bytes::shown(c)).into(),
        });
    }
    width
}

/// Characters that no keyboard has for a name: of private use, of no use at all, invisible tags; and the quotation marks that word
/// processors put for straight ones.
fn is_no_letter(c: char) -> bool {
    let is_noncharacter = c as u32 & 0xFFFE == 0xFFFE || ('\u{FDD0}'..='\u{FDEF}').contains(&c);
    let is_private = matches!(c, '\u{E000}'..='\u{F8FF}' | '\u{F0000}'..='\u{10FFFF}');
    let is_tag = ('\u{E0000}'..='\u{E007F}').contains(&c);
    is_noncharacter || is_private || is_tag || ('\u{2018}'..='\u{201F}').contains(&c)
}

fn capital(text: &str) -> String {
    let mut chars = text.chars();
    chars.next().map_or_else(String::new, |first| first.to_uppercase().chain(chars).collect())
}

/// A local part that says `content`, written with the quotes it needs and no others.
pub(crate) fn written(content: &[u8]) -> Vec<u8> {
    if is_dot_string(content) {
        return content.to_vec();
    }
    let mut out = vec![b'"'];
    for &b in content {
        if matches!(b, b'"' | b'\\') {
            out.push(b'\\');
        }
        out.push(b);
    }
    out.push(b'"');
    out
}
