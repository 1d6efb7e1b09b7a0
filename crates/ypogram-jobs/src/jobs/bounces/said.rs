//! Which of the ways to say something of recipients a message uses.

use ypogram_io::MailMessage;

use crate::jobs::bounces::notice::Said;
use crate::jobs::bounces::{automatic_reply, delivery_status, feedback, plain_bounce, wish};

/// What `message` says. That a mail was read (RFC 8098) is told by programs as well, and nothing of this.
pub(super) fn said_by(message: &MailMessage) -> Said {
    if message.texts("message/disposition-notification").next().is_some() {
        return Said::Other;
    }
    delivery_status::said_by(message)
        .or_else(|| feedback::said_by(message))
        .or_else(|| plain_bounce::said_by(message))
        .or_else(|| automatic_reply::said_by(message))
        .or_else(|| wish::said_by(message))
        .unwrap_or(Said::Other)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use ypogram_io::MailPart;

    use super::*;

    proptest! {
        #[test]
        fn no_message_is_too_odd(
            headers in prop::collection::vec(("(from|to|subject|auto-submitted|x-failed-recipients)", ".{0,40}"), 0..5),
            parts in prop::collection::vec(
                ("(text/plain|text/html|message/delivery-status|message/feedback-report)",
                 r"(([a-zA-Zß-]{0,9}:|\PC{0,9}|a@b\.example|5[0-9.]{0,6}|utf-8;|new address|\\x\{|<|é|user unknown)[ \n]?){0,30}"),
                0..4,
            ),
        ) {
            let parts = parts.into_iter().map(|(content_type, text)| MailPart { content_type, text }).collect();
            if let Said::Notices(notices) = said_by(&MailMessage { number: 1, headers, parts }) {
                prop_assert!(!notices.is_empty());
                for notice in notices {
                    prop_assert!(notice.recipient.contains('@') && notice.new_address != notice.recipient);
                }
            }
        }
    }
}
