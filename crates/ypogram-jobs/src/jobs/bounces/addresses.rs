//! Addresses in the texts of messages.

use std::sync::LazyLock;

use ypogram_core::text::{Options, Seen, look};
use ypogram_core::{Policy, SameMailbox, examine};

/// How addresses are brought to their standard form: by no rulebook, since what came back says nothing of one.
static POLICY: LazyLock<Policy> = LazyLock::new(Policy::default);

/// The addresses in `text`, in order, each in its standard form; whatever their top-level domain, since they were written to.
pub(super) fn addresses_in(text: &str) -> Vec<String> {
    let mut found = Vec::new();
    let options = Options { any_tld: true, ..Options::default() };
    look(text.as_bytes(), 0..text.len(), &POLICY, options, |seen| {
        if let Seen::Match(hit) = seen {
            found.push(standard(&String::from_utf8_lossy(&hit.text)));
        }
    });
    found
}

/// The standard form of an address; where it has none, as it stands.
pub(super) fn standard(address: &str) -> String {
    let examined = examine(address.as_bytes(), &POLICY);
    examined.standard.map_or_else(|| address.to_owned(), |standard| standard.address)
}

/// Whether two addresses are one recipient: letter case aside.
pub(super) fn is_same(one: &str, other: &str) -> bool {
    key(one) == key(other)
}

/// What the addresses of one recipient have in common.
pub(super) fn key(address: &str) -> String {
    let examined = examine(address.as_bytes(), &POLICY);
    examined.key(SameMailbox::Case, &POLICY).unwrap_or_else(|| address.to_lowercase())
}

/// Whether an address is that of a mail system rather than of a recipient.
pub(super) fn is_of_mail_system(address: &str) -> bool {
    let local = address.rsplit_once('@').map_or(address, |(local, _)| local);
    ["mailer-daemon", "postmaster", "abuse", "bounce", "bounces"]
        .iter()
        .any(|name| local.eq_ignore_ascii_case(name))
}
