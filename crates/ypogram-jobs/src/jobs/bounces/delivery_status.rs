//! Delivery status notifications (RFC 3464; addresses in UTF-8 by RFC 6533).

use ypogram_io::MailMessage;

use crate::jobs::bounces::addresses::{addresses_in, is_same, standard};
use crate::jobs::bounces::notice::{Notice, Said, as_evidence};
use crate::jobs::bounces::status::{enhanced_code, reply_code, what, written};
use crate::jobs::bounces::what::What;

/// What `message` says, where it holds such a notification.
pub(super) fn said_by(message: &MailMessage) -> Option<Said> {
    let mut texts = message
        .texts("message/delivery-status")
        .chain(message.texts("message/global-delivery-status"))
        .peekable();
    texts.peek()?;
    let (mut notices, mut is_good_news, mut names_nobody) = (Vec::new(), false, false);
    for group in texts.flat_map(groups) {
        if !group.iter().any(|(name, _)| name.ends_with("-recipient") || name == "action") {
            // It is of the message as a whole (§2.2).
            continue;
        }
        let action = field(&group, "action").to_ascii_lowercase();
        let action = action.split_whitespace().next().unwrap_or_default();
        if matches!(action, "delivered" | "relayed" | "expanded") {
            is_good_news = true;
            continue;
        }
        match notice(&group, action) {
            Some(notice) => notices.push(notice),
            None => names_nobody = true,
        }
    }
    Some(match (notices.is_empty(), is_good_news && !names_nobody) {
        (false, _) => Said::Notices(notices),
        (true, true) => Said::Other,
        (true, false) => Said::Unread("its delivery status names no recipient"),
    })
}

type Fields = Vec<(String, String)>;

/// The groups of fields between empty lines, their folded lines put together.
fn groups(text: &str) -> Vec<Fields> {
    let mut groups: Vec<Fields> = vec![Vec::new()];
    for line in text.lines() {
        let group = groups.last_mut().expect("there is one from the start");
        if line.trim().is_empty() {
            groups.push(Vec::new());
        } else if let (true, Some((_, value))) = (line.starts_with([' ', '\t']), group.last_mut()) {
            value.push(' ');
            value.push_str(line.trim());
        } else if let Some((name, value)) = line.split_once(':') {
            group.push((name.trim().to_ascii_lowercase(), value.trim().to_owned()));
        }
    }
    groups
}

fn field<'g>(group: &'g Fields, name: &str) -> &'g str {
    group.iter().find(|(key, _)| key == name).map_or("", |(_, value)| value)
}

fn notice(group: &Fields, action: &str) -> Option<Notice> {
    let recipient = ["original-recipient", "final-recipient"]
        .into_iter()
        .find_map(|name| recipient(field(group, name)))?;
    let diagnostic = field(group, "diagnostic-code");
    let words = diagnostic.split_once(';').map_or(diagnostic, |(_, words)| words).trim();
    let given = enhanced_code(field(group, "status"));
    // A system that knows no more says x.0.0, and repeats what it was told beside it.
    let status = match given {
        Some((_, 0, 0)) | None => enhanced_code(words).or(given),
        given => given,
    };
    let told = match action {
        "delayed" => what(status, words).filter(|what| *what == What::Full).unwrap_or(What::Deferred),
        _ => what(status, words).unwrap_or(What::Deferred),
    };
    let moved_to = match told {
        What::Moved => addresses_in(words).into_iter().find(|address| !is_same(address, &recipient)),
        _ => None,
    };
    let code = status.map(written).or_else(|| reply_code(words).map(|code| code.to_string()));
    let evidence =
        if words.is_empty() { format!("{action} {}", field(group, "status")) } else { words.to_owned() };
    Some(Notice {
        recipient,
        what: told,
        new_address: moved_to.unwrap_or_default(),
        code: code.unwrap_or_default(),
        evidence: as_evidence(&evidence),
    })
}

/// The address in a field such as `rfc822; zeno@quarryfarm.example`.
fn recipient(value: &str) -> Option<String> {
    let (kind, address) = value.split_once(';').unwrap_or(("rfc822", value));
    let address = address.trim().trim_start_matches('<').trim_end_matches('>').trim();
    let address = match kind.trim().eq_ignore_ascii_case("utf-8") {
        true => unescaped(address),
        false => address.to_owned(),
    };
    address.contains('@').then(|| standard(&address))
}

/// Characters that are written as `\x{E4}` (RFC 6533 §3).
fn unescaped(address: &str) -> String {
    let mut out = String::new();
    let mut rest = address;
    while let Some((before, after)) = rest.split_once("\\x{") {
        out.push_str(before);
        let character = after
            .split_once('}')
            .and_then(|(digits, rest)| Some((char::from_u32(u32::from_str_radix(digits, 16).ok()?)?, rest)));
        let Some((character, behind)) = character else {
            out.push_str("\\x{");
            rest = after;
            continue;
        };
        out.push(character);
        rest = behind;
    }
    out + rest
}
