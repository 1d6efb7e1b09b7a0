//! Whole messages, one after the other: their headers, and the text of their parts.

use std::path::Path;

use mailparse::{MailHeaderMap as _, ParsedMail};

use crate::formats::pieces::{Limits, mail_structure};
use crate::input::file_input::Input;
use crate::records::error::Result;

/// A message.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct MailMessage {
    /// Its number in the file, from 1.
    pub number: u64,
    /// Its headers in order: the name in lower case, and the text, its encoded words decoded.
    pub headers: Vec<(String, String)>,
    /// Its parts that hold text, in order.
    pub parts: Vec<MailPart>,
}

/// A part of a message.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct MailPart {
    /// Its type in lower case, such as `message/delivery-status`.
    pub content_type: String,
    /// Its text, decoded.
    pub text: String,
}

impl MailMessage {
    /// The text of the first header of that name, in lower case; empty where there is none.
    pub fn header(&self, name: &str) -> &str {
        self.headers.iter().find(|(key, _)| key == name).map_or("", |(_, value)| value)
    }

    /// The texts of the parts of that type.
    pub fn texts<'m>(&'m self, content_type: &'m str) -> impl Iterator<Item = &'m str> {
        self.parts.iter().filter(move |part| part.content_type == content_type).map(|part| &*part.text)
    }
}

/// What could not be read of a file of messages.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct UnreadMessage {
    /// The message's number in the file, from 1.
    pub number: u64,
    /// Why.
    pub why: &'static str,
}

/// A message has one of these headers at least (RFC 5322 §3.6; what comes back may lack most).
const MESSAGE_HEADERS: [&str; 6] = ["from", "to", "subject", "received", "return-path", "message-id"];

/// A message may have so many bytes.
const MOST_BYTES: usize = 64 << 20;

/// Bytes by which the end of a message is known: two ends of lines, and `From `.
const SEPARATOR: usize = 9;

/// Calls `see` with every message of the file at `path`, be it one message or a mailbox of them, packed or not; gives those that could
/// not be read.
///
/// # Errors
/// Where the file cannot be read, or breaks off, and those of `see`.
pub fn each_message(
    path: &Path,
    limits: Limits,
    see: &mut dyn FnMut(MailMessage) -> Result<()>,
) -> Result<Vec<UnreadMessage>> {
    let mut input = Input::open(path, false, false)?;
    let (mut bytes, mut unread, mut number) = (Vec::new(), Vec::new(), 0);
    let (mut is_mailbox, mut is_too_large) = (None, false);
    loop {
        let is_at_end = input.fill(&mut bytes, 1 << 20)? == 0;
        if is_mailbox.is_none() {
            // What editors leave in front: a byte-order mark, and empty lines.
            let mark = if bytes.starts_with(b"\xEF\xBB\xBF") { 3 } else { 0 };
            let front = bytes.len() - bytes[mark..].trim_ascii_start().len();
            bytes.drain(..front);
        }
        let is_mailbox = *is_mailbox.get_or_insert_with(|| bytes.starts_with(b"From "));
        let mut start = 0;
        while is_mailbox && let Some(end) = next_message(&bytes, start) {
            if !std::mem::take(&mut is_too_large) {
                number += 1;
                tell(&bytes[start..end], number, limits, &mut unread, see)?;
            }
            start = end;
        }
        bytes.drain(..start);
        if bytes.len() > MOST_BYTES || is_too_large {
            if !std::mem::replace(&mut is_too_large, true) {
                number += 1;
                unread.push(UnreadMessage { number, why: "it is larger than 64 MiB" });
            }
            // What is left may be the start of the line that begins the next.
            bytes.drain(..bytes.len().saturating_sub(SEPARATOR));
        }
        if is_at_end {
            break;
        }
    }
    if !is_too_large && !bytes.trim_ascii().is_empty() {
        tell(&bytes, number + 1, limits, &mut unread, see)?;
    }
    Ok(unread)
}

/// Where the message ends that starts at `start`: where the next begins, with a line that starts with `From ` behind an empty one.
fn next_message(bytes: &[u8], start: usize) -> Option<usize> {
    let mut from = start + 1;
    loop {
        let at = from + memchr::memmem::find(bytes.get(from..)?, b"\nFrom ")?;
        if bytes[..at].ends_with(b"\n") || bytes[..at].ends_with(b"\n\r") {
            return Some(at + 1);
        }
        from = at + 1;
    }
}

fn tell(
    bytes: &[u8],
    number: u64,
    limits: Limits,
    unread: &mut Vec<UnreadMessage>,
    see: &mut dyn FnMut(MailMessage) -> Result<()>,
) -> Result<()> {
    let separator = bytes.starts_with(b"From ").then(|| memchr::memchr(b'\n', bytes)).flatten();
    let bytes = &bytes[separator.map_or(0, |end| end + 1)..];
    if !mail_structure::keeps_to(limits, bytes) {
        unread.push(UnreadMessage { number, why: "it has too many parts, or parts within parts" });
        return Ok(());
    }
    let why = match mailparse::parse_mail(bytes) {
        Ok(mail) if MESSAGE_HEADERS.iter().any(|name| mail.headers.get_first_header(name).is_some()) => {
            return see(message(&mail, number));
        }
        Ok(_) => "it is no mail message",
        Err(_) => "its structure is broken",
    };
    unread.push(UnreadMessage { number, why });
    Ok(())
}

fn message(mail: &ParsedMail<'_>, number: u64) -> MailMessage {
    let header =
        |header: &mailparse::MailHeader<'_>| (header.get_key().to_ascii_lowercase(), header.get_value());
    let mut parts = Vec::new();
    gather(mail, &mut parts);
    MailMessage { number, headers: mail.get_headers().into_iter().map(header).collect(), parts }
}

fn gather(mail: &ParsedMail<'_>, parts: &mut Vec<MailPart>) {
    let content_type = mail.ctype.mimetype.to_ascii_lowercase();
    let is_text = content_type.starts_with("text/") || content_type.starts_with("message/");
    if mail.subparts.is_empty() && is_text {
        let is_attached = mail.headers.get_first_value("content-disposition").is_some_and(|value| {
            value.trim_start().to_ascii_lowercase().starts_with("attachment")
                && content_type.starts_with("text/")
        });
        if let (false, Ok(text)) = (is_attached, mail.get_body()) {
            parts.push(MailPart { content_type, text });
        }
    }
    mail.subparts.iter().for_each(|part| gather(part, parts));
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// The subjects and texts of what is read, and the numbers of what is not.
    fn read(content: &[u8]) -> (Vec<(u64, String, String)>, Vec<u64>) {
        let file = tempfile::NamedTempFile::new().unwrap();
        std::fs::write(file.path(), content).unwrap();
        let mut seen = Vec::new();
        let unread = each_message(file.path(), Limits::default(), &mut |message| {
            let text: String = message.texts("text/plain").collect();
            seen.push((message.number, message.header("subject").to_owned(), text.trim().to_owned()));
            Ok(())
        });
        (seen, unread.unwrap().iter().map(|unread| unread.number).collect())
    }

    proptest! {
        /// A line that starts with `From ` begins a message only behind an empty one, whatever ends the lines.
        #[test]
        fn a_mailbox_holds_the_messages_that_were_put_in(
            texts in prop::collection::vec("([a-z]{0,6}|x\nFrom here|>From|\n\n){0,6}", 1..6),
            ends_in_crlf in any::<bool>(),
            in_front in "[\n ]{0,2}",
        ) {
            let (mut mailbox, mut expected) = (in_front, Vec::new());
            for (number, text) in (1..).zip(&texts) {
                // Such a line in a text is quoted where it would begin a message.
                let text = format!("x{text}").replace("\n\nFrom ", "\n\n>From ");
                mailbox.push_str(&format!("From a@b.example\nSubject: s{number}\n\n{text}\n\n"));
                expected.push((number, format!("s{number}"), text.trim().to_owned()));
            }
            let end = if ends_in_crlf { "\r\n" } else { "\n" };
            let (seen, unread) = read(mailbox.replace('\n', end).as_bytes());
            let seen: Vec<_> =
                seen.into_iter().map(|(number, subject, text)| (number, subject, text.replace("\r\n", "\n"))).collect();
            prop_assert_eq!((seen, unread), (expected, Vec::new()));
        }

        #[test]
        fn any_bytes_are_read_or_counted(bytes in prop::collection::vec(any::<u8>(), 0..300), is_mailbox in any::<bool>()) {
            let start: &[u8] = if is_mailbox { b"From x\n" } else { b"" };
            let (seen, unread) = read(&[start, &bytes].concat());
            prop_assert!(seen.len() + unread.len() <= 1 + bytes.len() / 6);
        }
    }
}
