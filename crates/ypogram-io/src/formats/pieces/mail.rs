//! Mail messages: headers, and the decoded text parts. The place of something found in an encoded part is that of the part.

use mailparse::body::Body;
use mailparse::{MailHeader, ParsedMail};

use crate::formats::pieces::mail_part::EncodedPart;
use crate::formats::pieces::{Counted, Limits, Places, Segment, mail_structure};
use crate::input::borders::Border;

/// Where the last message of an mbox starts in `bytes`, behind the first: lines that start with `From `.
pub(crate) fn last_message_start(bytes: &[u8], _at_end: bool) -> Border {
    Border { end: memchr::memmem::rfind(bytes, b"\nFrom ").map_or(0, |i| i + 1), open_quote: None }
}

/// Calls `see` with the texts of every message in `bytes`; gives how many there are.
pub(crate) fn messages(bytes: &[u8], limits: Limits, see: &mut dyn FnMut(Segment<'_>)) -> Counted {
    let (mut start, mut undecoded) = (0, 0);
    for number in 0.. {
        let end = memchr::memmem::find(&bytes[start..], b"\nFrom ").map_or(bytes.len(), |i| start + i + 1);
        // The separator line itself names the envelope's sender.
        let line_end = match bytes[start..end].starts_with(b"From ") {
            true => memchr::memchr(b'\n', &bytes[start..end]).map_or(end, |i| start + i + 1),
            false => start,
        };
        if line_end > start {
            see(Segment::plain(&bytes[start..line_end], start, "envelope", Some(number)));
        }
        undecoded += u64::from(!message(&bytes[line_end..end], line_end, number, limits, see));
        start = end;
        if start >= bytes.len() {
            return Counted { undecoded, ..Counted::records(number + 1) };
        }
    }
    unreachable!("every message ends")
}

/// Calls `see` with the headers and text parts of one message, which starts at `start` of the piece; with all of it as it stands where
/// it is past the limits, and tells whether it is not.
pub(crate) fn message(
    bytes: &[u8],
    start: usize,
    record: u64,
    limits: Limits,
    see: &mut dyn FnMut(Segment<'_>),
) -> bool {
    let record = Some(record);
    if !mail_structure::keeps_to(limits, bytes) {
        see(Segment::plain(bytes, start, "message", record));
        return false;
    }
    match mailparse::parse_mail(bytes) {
        Ok(mail) => part(&mail, &Message { bytes, start, record }, "", see),
        // Broken MIME is still text.
        Err(_) => see(Segment::plain(bytes, start, "message", record)),
    }
    true
}

/// A message, and where it starts in its piece.
struct Message<'b> {
    bytes: &'b [u8],
    start: usize,
    record: Option<u64>,
}

fn part(mail: &ParsedMail<'_>, message: &Message<'_>, path: &str, see: &mut dyn FnMut(Segment<'_>)) {
    let &Message { bytes: whole, start, record } = message;
    let place = |bytes: &[u8]| {
        start + (bytes.as_ptr() as usize).saturating_sub(whole.as_ptr() as usize).min(whole.len())
    };
    for header in mail.get_headers() {
        let raw = header.get_value_raw();
        let name = header.get_key().to_ascii_lowercase();
        // Identifiers of messages look like addresses and are none; their header says so.
        let is_identifier = matches!(
            name.as_str(),
            "message-id" | "in-reply-to" | "references" | "content-id" | "resent-message-id"
        );
        if is_identifier {
            let line = [name.as_bytes(), b": ", raw].concat();
            let skipped = name.len() + 2;
            let places: Vec<usize> =
                (0..=line.len()).map(|i| place(raw) + i.saturating_sub(skipped)).collect();
            see(Segment {
                line: None,
                id: None,
                text: &line,
                body: 0..line.len(),
                places: Places::Each(&places),
                field: &name,
                record,
            });
        } else if memchr::memmem::find(raw, b"=?").is_some() {
            let value = decoded(header);
            see(Segment {
                line: None,
                id: None,
                text: value.as_bytes(),
                body: 0..value.len(),
                places: Places::Part(EncodedPart::header(place(raw)..place(raw) + raw.len())),
                field: &name,
                record,
            });
        } else {
            see(Segment::plain(raw, place(raw), &name, record));
        }
    }
    if mail.subparts.is_empty() {
        text_part(mail, &place, record, path, see);
    }
    for (index, sub) in mail.subparts.iter().enumerate() {
        let path =
            if path.is_empty() { format!("part {}", index + 1) } else { format!("{path}.{}", index + 1) };
        part(sub, message, &path, see);
    }
}

/// The value of a header with encoded words (RFC 2047) as text. A long one is decoded in parts, since decoding takes the square of its
/// length.
fn decoded(header: &MailHeader<'_>) -> String {
    const AT_ONCE: usize = 8 << 10;
    let mut rest = header.get_value_raw();
    if rest.len() <= AT_ONCE {
        return header.get_value();
    }
    let mut value = String::new();
    while !rest.is_empty() {
        let within = &rest[..rest.len().min(AT_ONCE)];
        let at_space = within.iter().rposition(u8::is_ascii_whitespace).filter(|_| rest.len() > AT_ONCE);
        let (part, behind) = rest.split_at(at_space.map_or(within.len(), |at| at + 1));
        match mailparse::parse_header(&[b"part: ", part].concat()) {
            Ok((header, _)) => value.push_str(&header.get_value()),
            Err(_) => value.push_str(&String::from_utf8_lossy(part)),
        }
        // Space between two encoded words is none of the text.
        if !(part.trim_ascii_end().ends_with(b"?=") && behind.trim_ascii_start().starts_with(b"=?")) {
            value.push(' ');
        }
        rest = behind;
    }
    value
}

fn text_part(
    mail: &ParsedMail<'_>,
    place: &dyn Fn(&[u8]) -> usize,
    record: Option<u64>,
    path: &str,
    see: &mut dyn FnMut(Segment<'_>),
) {
    let field = if path.is_empty() { "body" } else { path };
    let kind = mail.ctype.mimetype.to_ascii_lowercase();
    if !kind.starts_with("text/") && !kind.starts_with("message/") && kind != "application/json" {
        return;
    }
    let raw = mail.get_body_encoded();
    let (sent, is_base64) = match &raw {
        Body::Base64(body) => (body.get_raw(), true),
        Body::QuotedPrintable(body) => (body.get_raw(), false),
        Body::SevenBit(body) | Body::EightBit(body) => {
            return see(Segment::plain(body.get_raw(), place(body.get_raw()), field, record));
        }
        Body::Binary(body) => {
            return see(Segment::plain(body.get_raw(), place(body.get_raw()), field, record));
        }
    };
    let Ok(text) = mail.get_body() else { return };
    let range = place(sent)..place(sent) + sent.len();
    see(Segment {
        line: None,
        id: None,
        text: text.as_bytes(),
        body: 0..text.len(),
        places: Places::Part(EncodedPart::body(range, is_base64, &mail.ctype.charset)),
        field,
        record,
    });
}
