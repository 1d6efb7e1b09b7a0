//! How far a local part reaches back from its @.

use crate::characters::bytes::ends_ignoring_case;
use crate::characters::bytes::{self, ATEXT, CLASS, DOT, HIGH, SEPARATES};
use crate::find::text::local::Local;
use crate::find::text::tld_lookup::TldLookup;
use crate::find::text::word_after::{is_hidden_inside, is_mark, word_after};
use crate::find::text::{glued, scripts, template};
use crate::syntax::local_part;

#[inline]
pub(super) fn local_before(text: &[u8], at: usize, least: usize, tlds: &mut impl TldLookup) -> Local {
    if at > least && text[at - 1] == b'"' {
        let start = quoted_before(text, at, least).unwrap_or(at);
        return Local { start, double_dot: false, seen: 0, run: start, behind_script: None, template: false };
    }
    let floor = at.saturating_sub(257).max(least);
    let (mut start, mut seen, mut double, mut after) = (at, 0, 0, 0);
    loop {
        while start > floor {
            let class = CLASS[usize::from(text[start - 1])];
            if class & (ATEXT | DOT) == 0 {
                break;
            }
            double |= class & after;
            seen |= class;
            after = class;
            start -= 1;
        }
        let Some(width) = wide_letter_before(&text[floor..start]) else { break };
        start -= width;
        (seen, after) = (seen | HIGH, HIGH);
    }
    if seen & HIGH != 0 {
        start += marks_in_front(&text[start..at]);
    }
    let run = start;
    let mut double_dot = double & DOT != 0;
    let before = text[least..start].last().copied();
    // In an address of that scheme escapes stand for characters of its own (RFC 6068 §2).
    let is_uri = seen & SEPARATES != 0 && ends_ignoring_case(&text[least..start], b"mailto:");
    let mut template = false;
    if seen & SEPARATES != 0
        || double_dot
        || matches!(before, Some(b'\\' | b')'))
        || text[start..at].starts_with(b"__")
    {
        template = !is_uri && template::is_one(&text[least..at], start - least);
        start += glued::in_front(&text[start..at], before, is_uri, tlds);
        double_dot = double_dot && memchr::memmem::find(&text[start..at], b"..").is_some();
    }
    let is_joining = |b: u8| matches!(b, b'.' | b'-' | b'+' | b'\'' | b'&' | b'%') && !(is_uri && b == b'%');
    start += text[start..at].iter().take_while(|&&b| is_joining(b)).count();
    // ‘_ada@host.org_’ is emphasis.
    if text.get(start) == Some(&b'_') && !text[start..at].contains(&b'.') && emphasis_closes(text, at) {
        start += 1;
    }
    let behind_script = if seen & HIGH != 0 { scripts::last_change_to_ascii(&text[start..at]) } else { None };
    let behind_script = behind_script.map(|change| {
        let from = start + change;
        from + text[from..at].iter().take_while(|&&b| is_joining(b)).count()
    });
    Local { start, double_dot, seen, run, behind_script, template }
}

/// How many bytes the letter outside ASCII at the end of `text` has; none where there is none.
#[inline]
fn wide_letter_before(text: &[u8]) -> Option<usize> {
    if !bytes::is(*text.last()?, HIGH) {
        return None;
    }
    let (c, width) = bytes::last_char(text)?;
    let is_of_word = c.is_alphanumeric() || is_hidden_inside(c) || is_mark(c);
    let before = &text[..text.len() - width];
    (is_of_word || is_misread(before, c) || c == '’' && ends_in_an_o(before)).then_some(width)
}

/// Whether an apostrophe behind `before` is that of O’Neil.
fn ends_in_an_o(before: &[u8]) -> bool {
    matches!(before, [b'o' | b'O'] | [.., 0..=b'/' | b':'..=b'@' | b'['..=b'`', b'o' | b'O'])
}

/// Whether `c` behind `before` is the second byte of a letter that was read in another encoding: `Ã¶` for `ö`.
fn is_misread(before: &[u8], c: char) -> bool {
    let starts_one = matches!(bytes::last_char(before), Some(('Ã' | 'Ä' | 'Å', _)));
    starts_one
        && (matches!(c, '\u{80}'..='\u{BF}')
            || matches!(c, '\u{192}' | '\u{2C6}' | '\u{2DC}' | '\u{2013}'..='\u{2122}'))
}

/// How many bytes at the start of `run` are marks without a letter that they belong to.
fn marks_in_front(run: &[u8]) -> usize {
    let mut marks = 0;
    while let Some((c, width)) = bytes::first_char(&run[marks..])
        && is_mark(c)
    {
        marks += width;
    }
    marks
}

fn emphasis_closes(text: &[u8], at: usize) -> bool {
    text.get(word_after(text, at + 1).end) == Some(&b'_')
}

/// Where the quoted local part before `at` starts.
fn quoted_before(text: &[u8], at: usize, least: usize) -> Option<usize> {
    let from = at.saturating_sub(70).max(least);
    let open = text[from..at - 1].iter().rposition(|&b| b == b'"').map(|i| from + i)?;
    let quoted = &text[open..at];
    let border = open == 0
        || bytes::is(text[open - 1], bytes::SPACE)
        || matches!(text[open - 1], b'<' | b'(' | b',' | b';' | b':');
    let whole = local_part::closing_quote(quoted) == Some(quoted.len() - 1);
    let printing = quoted.iter().all(|b| !b.is_ascii_control());
    (border && whole && quoted.len() > 2 && printing).then_some(open)
}
