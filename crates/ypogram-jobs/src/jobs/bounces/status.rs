//! What a status code and the words beside it say (RFC 3463 §3, RFC 5321 §4.2.3).

use crate::jobs::bounces::phrases::{self, ABOUT_SENDER, FULL, GONE, POLICY};
use crate::jobs::bounces::what::What;

/// An enhanced status code: its class, subject and detail.
pub(super) type Status = (u16, u16, u16);

/// What a failure was, by its code and its words; nothing where neither says anything. Where it is not sure that the mailbox is at
/// fault, it is only deferred, so that no recipient is struck off a list for what somebody else did.
pub(super) fn what(status: Option<Status>, words: &str) -> Option<What> {
    let words = words.to_lowercase();
    if let Some(sure) = status.and_then(by_status) {
        return Some(sure);
    }
    let told = [
        (&ABOUT_SENDER, What::Deferred),
        (&FULL, What::Full),
        (&GONE, What::Gone),
        (&POLICY, What::Deferred),
    ]
    .into_iter()
    .find(|(phrases, _)| phrases::any(phrases, &words));
    match (told, status, reply_code(&words)) {
        (Some((_, what)), ..) => Some(what),
        (None, Some((5, 1, _) | (5, 2, 0)), _) => Some(What::Gone),
        (None, _, Some(551)) => Some(What::Moved),
        (None, _, Some(552)) => Some(What::Full),
        (None, Some((5, 0, _)) | None, Some(550 | 553)) => Some(What::Gone),
        (None, Some(_), _) | (None, _, Some(_)) => Some(What::Deferred),
        (None, None, None) => None,
    }
}

/// What a code says by itself.
fn by_status(status: Status) -> Option<What> {
    match status {
        (4 | 5, 2, 2) => Some(What::Full),
        (4, ..) => Some(What::Deferred),
        (5, 1, 6) => Some(What::Moved),
        // The sender's address, and relays on the way.
        (5, 1, 7..=9) => Some(What::Deferred),
        (5, 1, 1..=4 | 10) | (5, 2, 1) => Some(What::Gone),
        (5, 2, 3 | 4) | (5, 3 | 6, 1..) => Some(What::Deferred),
        _ => None,
    }
}

/// The first enhanced status code in `text`.
pub(super) fn enhanced_code(text: &str) -> Option<Status> {
    text.split(|c: char| !c.is_ascii_digit() && c != '.').find_map(|token| {
        let mut parts = token.trim_end_matches('.').split('.').map(|part| {
            let number = part.parse::<u16>().ok()?;
            (part.len() <= 3).then_some(number)
        });
        match (parts.next()??, parts.next()??, parts.next()??, parts.next()) {
            (class @ (2 | 4 | 5), subject @ 0..=7, detail, None) => Some((class, subject, detail)),
            _ => None,
        }
    })
}

/// The first reply code of SMTP in `text` that tells of a failure.
pub(super) fn reply_code(text: &str) -> Option<u16> {
    let is_part = |c: char| c.is_alphanumeric() || matches!(c, '.' | '@' | '_');
    text.split(|c: char| !is_part(c)).find_map(|token| match token.parse() {
        Ok(code @ (421 | 450..=452 | 455 | 550..=556)) if token.len() == 3 => Some(code),
        _ => None,
    })
}

/// A code as it is written.
pub(super) fn written((class, subject, detail): Status) -> String {
    format!("{class}.{subject}.{detail}")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn codes_and_words_say_what_a_failure_was() {
        for (words, expected) in [
            (
                "550 5.1.1 <zeno@quarryfarm.example>: Recipient address rejected: User unknown",
                Some(What::Gone),
            ),
            ("550 5.7.1 no such user here", Some(What::Gone)),
            ("550 5.7.1 message refused", Some(What::Deferred)),
            ("550 5.7.26 the message does not pass DMARC", Some(What::Deferred)),
            ("550 Requested action not taken", Some(What::Gone)),
            ("550 blocked, the sending address 192.0.2.5 has a bad reputation", Some(What::Deferred)),
            ("553 5.3.0 No such user here", Some(What::Gone)),
            ("host relay.example said: 550 no such user", Some(What::Gone)),
            ("554 5.7.1 <ada@hill.example>: Relay access denied", Some(What::Deferred)),
            ("553 5.1.8 Sender address rejected: Domain not found", Some(What::Deferred)),
            ("450 Sender address rejected: Domain not found", Some(What::Deferred)),
            ("552 5.2.2 over quota", Some(What::Full)),
            ("452 4.2.2 the mailbox is full", Some(What::Full)),
            ("552 5.2.3 message too large", Some(What::Deferred)),
            ("551 User not local; please try <zeno@hilltop.example>", Some(What::Moved)),
            ("421 4.4.2 connection dropped", Some(What::Deferred)),
            ("554 5.4.4 Host or domain name not found", Some(What::Gone)),
            ("Sorry, no mailbox here by that name. (#5.1.1)", Some(What::Gone)),
            ("connected to 203.0.113.9 port 25", None),
            ("mailed by version 4.99.5550", None),
        ] {
            assert_eq!(what(enhanced_code(words), words), expected, "{words}");
        }
    }
}
