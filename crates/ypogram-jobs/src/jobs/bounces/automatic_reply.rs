//! Replies that a program sends in place of a person (RFC 3834).

use aho_corasick::AhoCorasick;
use ypogram_io::MailMessage;

use crate::jobs::bounces::addresses::{addresses_in, is_same};
use crate::jobs::bounces::notice::{Notice, Said, as_evidence};
use crate::jobs::bounces::phrases::{self, LEFT, NEW_ADDRESS, RECEIVED, REPLY_SUBJECTS};
use crate::jobs::bounces::readable::{sender, text_of};
use crate::jobs::bounces::what::What;

/// What `message` says, where it is such a reply.
pub(super) fn said_by(message: &MailMessage) -> Option<Said> {
    let subject = message.header("subject");
    if !is_automatic(message, &subject.to_lowercase()) {
        return None;
    }
    let Some(recipient) = sender(message) else {
        return Some(Said::Unread("it is an automatic reply, and names no sender"));
    };
    let text = text_of(message);
    let (what, new_address, evidence) =
        match (new_address(&text, &recipient, message), line_with(&LEFT, &text)) {
            (Some((address, line)), _) => (What::Moved, address, line),
            (None, Some(line)) => (What::Gone, String::new(), line),
            (None, None) => {
                let told = format!("{subject}\n{text}").to_lowercase();
                if phrases::any(&RECEIVED, &told) && !phrases::any(&REPLY_SUBJECTS, &told) {
                    return Some(Said::Other);
                }
                (What::Away, String::new(), subject.to_owned())
            }
        };
    let evidence = as_evidence(&evidence);
    Some(Said::Notices(vec![Notice { recipient, what, new_address, code: String::new(), evidence }]))
}

/// By the field of RFC 3834 §5, those that were in use before it, or the subject.
fn is_automatic(message: &MailMessage, subject: &str) -> bool {
    let submitted = message.header("auto-submitted").trim().to_ascii_lowercase();
    submitted.starts_with("auto-replied")
        || ["x-autoreply", "x-autorespond"].iter().any(|name| !message.header(name).is_empty())
        || message.header("precedence").eq_ignore_ascii_case("auto_reply")
        || phrases::first(&REPLY_SUBJECTS, subject).is_some_and(|(at, _)| at == 0)
}

/// The first line of `text` that holds one of the phrases.
fn line_with(phrases: &AhoCorasick, text: &str) -> Option<String> {
    text.lines().find(|line| phrases::any(phrases, &line.to_lowercase())).map(str::to_owned)
}

/// The address that a text gives as the new one, and the words that give it: the first behind such words, in the same paragraph. An
/// address for urgent matters is none.
fn new_address(text: &str, recipient: &str, message: &MailMessage) -> Option<(String, String)> {
    let ours = addresses_in(message.header("to"));
    text.replace("\r\n", "\n").split("\n\n").find_map(|paragraph| {
        let lower = paragraph.to_lowercase();
        let (_, end) = phrases::first(&NEW_ADDRESS, &lower)?;
        let found = addresses_in(&lower[end..]).into_iter().find(|address| {
            !is_same(address, recipient) && !ours.iter().any(|ours| is_same(ours, address))
        })?;
        Some((found, paragraph.to_owned()))
    })
}
