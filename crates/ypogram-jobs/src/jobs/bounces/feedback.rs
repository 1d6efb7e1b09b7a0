//! Reports of a provider that a recipient wants no more of such mails (RFC 5965).

use ypogram_io::MailMessage;

use crate::jobs::bounces::addresses::addresses_in;
use crate::jobs::bounces::notice::{Notice, Said};
use crate::jobs::bounces::what::What;

/// What `message` says, where it holds such a report.
pub(super) fn said_by(message: &MailMessage) -> Option<Said> {
    let report = message.texts("message/feedback-report").next()?;
    let field = |name: &str| {
        let lines = report.lines().filter_map(|line| line.split_once(':'));
        lines.filter(|(key, _)| key.trim().eq_ignore_ascii_case(name)).map(|(_, value)| value.trim()).next()
    };
    let kind = field("feedback-type").unwrap_or_default().to_ascii_lowercase();
    if kind == "not-spam" || kind == "auth-failure" {
        return Some(Said::Other);
    }
    let named = field("original-rcpt-to").and_then(|value| addresses_in(value).into_iter().next());
    let Some(recipient) = named.or_else(|| of_original(message)) else {
        return Some(Said::Unread("the provider's report names no recipient"));
    };
    let evidence = format!("a provider's report of the kind ‘{kind}’");
    let (new_address, code) = Default::default();
    Some(Said::Notices(vec![Notice { recipient, what: What::Withdrawn, new_address, code, evidence }]))
}

/// Whom the mail was sent to that the report is about, where it was one.
fn of_original(message: &MailMessage) -> Option<String> {
    let original = message.texts("message/rfc822").chain(message.texts("text/rfc822-headers")).next()?;
    let headers = original.split("\n\n").next()?;
    let to =
        headers.lines().find(|line| line.get(..3).is_some_and(|name| name.eq_ignore_ascii_case("to:")))?;
    let mut addresses = addresses_in(to);
    if addresses.len() == 1 { addresses.pop() } else { None }
}
