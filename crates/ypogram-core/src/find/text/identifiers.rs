//! Identifiers of messages and calendar entries, which look like addresses and are none.

use crate::characters::bytes::ends_ignoring_case;

/// How many lines of a folded header are looked at.
const LINES: usize = 64;

/// No name of a header is longer, with some blanks behind it.
const LONGEST_NAME: usize = 40;

/// How far back the start of a line is looked for.
const LONGEST_LINE: usize = 1024;

/// Whether the angle bracket at `open` stands in a header that names messages (RFC 5322 §3.6.4), with nothing in front of it there
/// but other identifiers; or the name of such a header stands directly in front of it, as in a log or where a message is cited.
pub(super) fn is_message_id(text: &[u8], open: usize) -> bool {
    const NAMED: [&[u8]; 6] =
        [b"message-id:", b"in-reply-to:", b"content-id:", b"message-id=", b"msgid=", b"messageid="];
    let before = &text[open.saturating_sub(LONGEST_NAME)..open];
    if NAMED.iter().any(|name| ends_ignoring_case(before.trim_ascii_end(), name)) {
        return true;
    }
    let (mut line_end, mut alone) = (open, true);
    for _ in 0..LINES {
        let start = line_start(text, line_end);
        let line = without_quote_marks(&text[start..line_end]);
        if let Some(colon) = memchr::memchr(b':', line)
            && names_messages(&line[..colon])
        {
            // ‘In-Reply-To: Your message of Monday <1@host>’, as it was once written: a mailbox there seldom has digits.
            let among_words = ends_ignoring_case(&line[..colon], b"in-reply-to")
                && text[open..].iter().take_while(|b| **b != b'@').any(u8::is_ascii_digit);
            return among_words || alone && is_only_identifiers(&line[colon + 1..]);
        }
        let continues = line.first().is_some_and(|b| matches!(b, b' ' | b'\t'));
        if !continues || start == 0 {
            return false;
        }
        alone &= is_only_identifiers(line);
        line_end = start - 1;
    }
    false
}

/// Whether a header of that name holds identifiers: `Message-ID` and its like, with or without `X-` and other words in front.
fn names_messages(header: &[u8]) -> bool {
    const NAMES: [&[u8]; 4] = [b"message-id", b"in-reply-to", b"references", b"content-id"];
    let is_name = header.iter().all(|&b| b.is_ascii_alphanumeric() || b == b'-');
    is_name
        && NAMES.iter().any(|name| {
            ends_ignoring_case(header, name)
                && matches!(header[..header.len() - name.len()].last(), None | Some(b'-'))
        })
}

/// Whether there is nothing but identifiers in angle brackets and white space, the bracket at the end left out. An address with a
/// name in front is none, and neither is a web address.
fn is_only_identifiers(value: &[u8]) -> bool {
    let mut rest = value.trim_ascii();
    while let [b'<', inside @ ..] = rest {
        let Some(close) = memchr::memchr(b'>', inside) else { return false };
        let (identifier, behind) = inside.split_at(close);
        if memchr::memchr(b'@', identifier).is_none() && memchr::memmem::find(identifier, b"://").is_some() {
            return false;
        }
        rest = behind[1..].trim_ascii_start();
    }
    rest.is_empty()
}

/// `> References: …` in an answer is still that header.
fn without_quote_marks(line: &[u8]) -> &[u8] {
    let quoted = line.iter().take_while(|b| matches!(b, b'>' | b' ')).count();
    if memchr::memchr(b'>', &line[..quoted]).is_some() { &line[quoted..] } else { line }
}

/// Whether what starts at `start` is the identifier of a calendar entry: `UID:` or `RELATED-TO:` of iCalendar (RFC 5545 §3.8.4)
/// at the start of its line.
pub(super) fn is_calendar_id(text: &[u8], start: usize) -> bool {
    let line = &text[line_start(text, start)..start];
    let is_of = |name: &[u8]| {
        line.strip_prefix(name).is_some_and(|rest| {
            rest == b":" || rest.starts_with(b";") && rest.ends_with(b":") && !rest.contains(&b' ')
        })
    };
    is_of(b"UID") || is_of(b"RELATED-TO")
}

/// Where the line starts in which `at` stands.
fn line_start(text: &[u8], at: usize) -> usize {
    let from = at.saturating_sub(LONGEST_LINE);
    memchr::memrchr(b'\n', &text[from..at]).map_or(from, |place| from + place + 1)
}
