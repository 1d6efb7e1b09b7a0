//! What mail systems send back in plain words.

use ypogram_io::MailMessage;

use crate::jobs::bounces::addresses::{addresses_in, is_of_mail_system, is_same};
use crate::jobs::bounces::notice::{Notice, Said, as_evidence};
use crate::jobs::bounces::phrases::{self, BOUNCE_SUBJECTS};
use crate::jobs::bounces::readable::{sender, text_of};
use crate::jobs::bounces::status::{enhanced_code, reply_code, what, written};
use crate::jobs::bounces::what::What;

/// What `message` says, where a mail system has sent it.
pub(super) fn said_by(message: &MailMessage) -> Option<Said> {
    let failed = addresses_in(message.header("x-failed-recipients"));
    let from = sender(message).unwrap_or_else(|| message.header("from").to_lowercase());
    let is_daemon =
        from.to_lowercase().contains("mailer-daemon") || message.header("return-path").trim() == "<>";
    let subject = message.header("subject").to_lowercase();
    let is_bounce = !failed.is_empty()
        || phrases::any(&BOUNCE_SUBJECTS, &subject) && (is_daemon || is_of_mail_system(&from))
        || from.to_lowercase().starts_with("mailer-daemon");
    if !is_bounce {
        return None;
    }
    let text = text_of(message);
    let text = before_copy(&text);
    let ours: Vec<String> = ["to", "cc", "delivered-to", "from"]
        .iter()
        .flat_map(|name| addresses_in(message.header(name)))
        .filter(|address| !failed.iter().any(|failed| is_same(failed, address)))
        .collect();
    let mut named = by_recipient(text, &failed, &ours);
    let whole = told_in(text, &subject);
    if named.is_empty() {
        named = failed.into_iter().map(|recipient| (recipient, String::new())).collect();
    }
    if named.is_empty() {
        return Some(Said::Unread("it came back, and names no recipient"));
    }
    let notices: Option<Vec<Notice>> = named
        .into_iter()
        .map(|(recipient, words)| {
            let (what, code, evidence) = told_in(&words, "").or_else(|| whole.clone())?;
            let moved_to = match what {
                What::Moved => addresses_in(&words).into_iter().find(|address| !is_same(address, &recipient)),
                _ => None,
            };
            Some(Notice { recipient, what, new_address: moved_to.unwrap_or_default(), code, evidence })
        })
        .collect();
    Some(notices.map_or(Said::Unread("it came back, and gives no reason that is known"), Said::Notices))
}

/// Lines that start so begin the copy of what was sent.
const COPY: &[&str] = &[
    "return-path:",
    "received:",
    "message-id:",
    "------ this is a copy",
    "--- below this line",
    "-----original message",
    "----- original message",
    "----- message header",
    "--- undelivered message",
];

/// `text` without the copy of what was sent: its addresses are not those that failed.
fn before_copy(text: &str) -> &str {
    let mut at = 0;
    for line in text.split_inclusive('\n') {
        let lower = line.trim_start().to_lowercase();
        if COPY.iter().any(|start| lower.starts_with(start)) {
            return &text[..at];
        }
        at += line.len();
    }
    text
}

/// The recipients that a text names, each with the words about it: those from the line that names it to that which names the next.
fn by_recipient(text: &str, failed: &[String], ours: &[String]) -> Vec<(String, String)> {
    let mut named: Vec<(String, String)> = Vec::new();
    let mut current = None;
    for line in text.lines() {
        let named_here = addresses_in(line).into_iter().find(|address| {
            let is_failed = failed.is_empty() || failed.iter().any(|failed| is_same(failed, address));
            is_failed && !is_of_mail_system(address) && !ours.iter().any(|ours| is_same(ours, address))
        });
        if let Some(address) = named_here {
            let at = named.iter().position(|(known, _)| is_same(known, &address));
            // The new address of a mailbox that has moved stands in words about the old one.
            let is_of_current = at.is_none() && reply_code(line) == Some(551) && current.is_some();
            if !is_of_current {
                current = at.or(Some(named.len()));
            }
            if at.is_none() && !is_of_current {
                named.push((address, String::new()));
            }
        }
        if let Some(at) = current {
            named[at].1.push_str(line);
            named[at].1.push('\n');
        }
    }
    named
}

/// What words say: what happened, the code, and the line that says it. Of several the first that has a code is the best evidence.
fn told_in(words: &str, subject: &str) -> Option<(What, String, String)> {
    let tells = |line: &&str| what(enhanced_code(line), line).is_some();
    let codes = |line: &str| (enhanced_code(line).is_some(), reply_code(line).is_some());
    let most = words.lines().filter(tells).map(codes).max();
    let line = match most {
        Some(most) => words.lines().filter(tells).find(|line| codes(line) == most)?,
        None => subject,
    };
    let what = what(enhanced_code(line), line)?;
    let code = enhanced_code(line).map(written).or_else(|| reply_code(line).map(|code| code.to_string()));
    Some((what, code.unwrap_or_default(), as_evidence(line)))
}
