//! What people read of a message: who wrote it, and its words.

use ypogram_io::MailMessage;

use crate::jobs::bounces::addresses::addresses_in;

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
