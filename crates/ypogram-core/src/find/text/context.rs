//! What stands beside a word with an @ and shows that it is no address.

use crate::characters::bytes::{self, BORDER};
use crate::find::text::skip_reason::SkipReason;
use crate::find::text::{identifiers, remote};

/// Why what stands in `text` from `start` to `end` is no address, as far as what stands beside it shows.
pub(super) fn context(text: &[u8], start: usize, end: usize) -> Option<SkipReason> {
    let before = if start > 0 { text[start - 1] } else { b' ' };
    if matches!(before, b':' | b'/')
        && let Some(reason) = scheme_before(text, start)
    {
        return Some(reason);
    }
    if before == b':' && identifiers::is_calendar_id(text, start) {
        return Some(SkipReason::CalendarId);
    }
    if before == b':' && remote::is_password(text, start, end) {
        return Some(SkipReason::UserInfo);
    }
    if remote::is_user_on_host(text, start, end) {
        return Some(SkipReason::Remote);
    }
    if before == b'<' && text.get(end) == Some(&b'>') && identifiers::is_message_id(text, start - 1) {
        return Some(SkipReason::MessageId);
    }
    None
}

/// A web address or another scheme that what stands before `start` belongs to.
fn scheme_before(text: &[u8], start: usize) -> Option<SkipReason> {
    const OTHERS: [&[u8]; 9] = [b"sip", b"sips", b"xmpp", b"im", b"acct", b"ssh", b"cid", b"mid", b"tel"];
    let before = &text[start.saturating_sub(256)..start];
    let (mut from, mut scheme) = (before.len(), None);
    while from > 0 && !bytes::is(before[from - 1], BORDER) {
        from -= 1;
        if before[from] == b':' && scheme.is_none() && before[from..].starts_with(b"://") {
            scheme = Some(&before[from + 3..]);
        }
    }
    let token = &before[from..];
    if scheme.is_some_and(|behind| memchr::memchr3(b'/', b'?', b'#', behind).is_none()) {
        return Some(SkipReason::UserInfo);
    }
    let [name @ .., b':'] = token else { return None };
    let name = &name[name.iter().rposition(|b| !b.is_ascii_alphanumeric()).map_or(0, |at| at + 1)..];
    let is_other = name.len() <= 4 && OTHERS.iter().any(|other| name.eq_ignore_ascii_case(other));
    is_other.then_some(SkipReason::OtherUri)
}
