//! Mails of people who want to be left alone.

use ypogram_io::MailMessage;

use crate::jobs::bounces::notice::{Notice, Said, as_evidence};
use crate::jobs::bounces::phrases::{self, NOT_A_WISH, WISH};
use crate::jobs::bounces::readable::{sender, text_of};
use crate::jobs::bounces::what::What;

/// A wish stands in the first lines of a mail; further down, such words stand below what is quoted.
const FIRST_LINES: usize = 8;

/// What `message` says, where somebody wants to be left alone.
pub(super) fn said_by(message: &MailMessage) -> Option<Said> {
    // Lists and mailings carry such words of their own.
    if !message.header("list-unsubscribe").is_empty() || !message.header("list-id").is_empty() {
        return None;
    }
    let subject = message.header("subject");
    let text = text_of(message);
    let is_reply = subject.get(..3).is_some_and(|start| start.eq_ignore_ascii_case("re:"));
    let subject_line = if is_reply { "" } else { subject };
    let own = text.lines().take_while(|line| !begins_quotation(line)).filter(|line| !line.trim().is_empty());
    let line = std::iter::once(subject_line).chain(own.take(FIRST_LINES)).find(|line| is_wish(line))?;
    let Some(recipient) = sender(message) else {
        return Some(Said::Unread("somebody wants to be left alone, and names no address"));
    };
    let (new_address, code) = Default::default();
    let evidence = as_evidence(line);
    Some(Said::Notices(vec![Notice { recipient, what: What::Withdrawn, new_address, code, evidence }]))
}

fn is_wish(line: &str) -> bool {
    let line = line.to_lowercase();
    phrases::first(&WISH, &line).is_some_and(|(at, _)| !phrases::any(&NOT_A_WISH, &line[..at]))
}

/// Whether what is quoted of another mail begins with this line.
fn begins_quotation(line: &str) -> bool {
    let line = line.trim();
    let lower = line.to_lowercase();
    line.starts_with('>')
        || ["-----original", "from:", "von:", "________"].iter().any(|start| lower.starts_with(start))
        || [" wrote:", " schrieb:", " a écrit :", " escribió:"].iter().any(|end| lower.ends_with(end))
}
