//! What a message says of one recipient, and which of the ways to say it a message uses.

use ypogram_io::MailMessage;

use crate::jobs::bounces::addresses::addresses_in;
use crate::jobs::bounces::what::What;
use crate::jobs::bounces::{automatic_reply, delivery_status, feedback, plain_bounce, wish};

/// What a message says of one recipient.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Notice {
    /// The address that the mail was sent to.
    pub(super) recipient: String,
    pub(super) what: What,
    /// The address to use from now on; empty where none is given.
    pub(super) new_address: String,
    /// The enhanced status code (RFC 3463), or the reply code of SMTP; empty where there is none.
    pub(super) code: String,
    /// The words by which it was told.
    pub(super) evidence: String,
}

/// What a message says.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Said {
    Notices(Vec<Notice>),
    /// It is about nothing of this.
    Other,
    /// It came back, and what it says was not understood.
    Unread(&'static str),
}

/// What `message` says.
pub(super) fn said_by(message: &MailMessage) -> Said {
    delivery_status::said_by(message)
        .or_else(|| feedback::said_by(message))
        .or_else(|| plain_bounce::said_by(message))
        .or_else(|| automatic_reply::said_by(message))
        .or_else(|| wish::said_by(message))
        .unwrap_or(Said::Other)
}

/// The address of whoever wrote it; one that a display name holds is none.
pub(super) fn sender(message: &MailMessage) -> Option<String> {
    addresses_in(message.header("from")).pop()
}

/// The text of a message that people read: its plain text, or its page where there is none.
pub(super) fn text_of(message: &MailMessage) -> String {
    let plain: Vec<&str> = message.texts("text/plain").collect();
    match plain.is_empty() {
        false => plain.join("\n"),
        true => message.texts("text/html").map(without_tags).collect::<Vec<_>>().join("\n"),
    }
}

/// A page's words, a line for each piece between tags.
fn without_tags(page: &str) -> String {
    let mut text = String::with_capacity(page.len());
    let mut rest = page;
    while let Some((before, after)) = rest.split_once('<') {
        text.push_str(before);
        let is_break = ["br", "p", "/p", "div", "/div", "tr", "li"]
            .iter()
            .any(|tag| after.get(..tag.len()).is_some_and(|start| start.eq_ignore_ascii_case(tag)));
        text.push(if is_break { '\n' } else { ' ' });
        rest = after.split_once('>').map_or("", |(_, rest)| rest);
    }
    text.push_str(rest);
    text.replace("&nbsp;", " ").replace("&lt;", "<").replace("&gt;", ">").replace("&amp;", "&")
}

/// Evidence is so many characters long at most.
const MOST_EVIDENCE: usize = 200;

/// `text` in one line, and not too long.
pub(super) fn as_evidence(text: &str) -> String {
    let line = text.split_whitespace().collect::<Vec<_>>().join(" ");
    match line.char_indices().nth(MOST_EVIDENCE) {
        Some((end, _)) => format!("{}…", &line[..end]),
        None => line,
    }
}
