//! One entry of a list, brought to the form in which it is looked up.

use crate::characters::bytes::{self, LDH, UPPER};
use crate::characters::fold::folded;
use crate::characters::fold::is_dot_string;
use crate::characters::idna_form;

/// What the entries of a list are.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Of {
    /// Each is an address or a domain, as it is written.
    #[default]
    Contacts,
    /// Whole addresses; letter case does not count.
    Addresses,
    /// Domains.
    Domains,
    /// Keys, or addresses that stand for their key under the rule of the job; a domain stands for all of its mailboxes.
    Keys,
    /// Local parts, without their tag.
    LocalParts,
    /// Values of a field; letter case does not count.
    Values,
}

impl Of {
    /// All there are.
    pub const ALL: [Of; 6] = [Of::Contacts, Of::Addresses, Of::Domains, Of::Keys, Of::LocalParts, Of::Values];

    /// The word in the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            Of::Contacts => "addresses-and-domains",
            Of::Addresses => "addresses",
            Of::Domains => "domains",
            Of::Keys => "keys",
            Of::LocalParts => "local-parts",
            Of::Values => "values",
        }
    }
}

/// What kind of thing an entry turned out to be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum EntryKind {
    /// An address.
    Address,
    /// A domain, and whether the entry counts for every domain below it as well.
    Domain {
        /// `.host.example` or `*.host.example`.
        below: bool,
    },
    /// Anything else that is looked up as it stands.
    Text,
}

/// Brings addresses to the form in which lists hold them; whatever judges addresses can.
pub trait Standardize {
    /// Appends the standard form of `entry`, its local part in lower case, to `out`.
    ///
    /// # Errors
    /// Why it is no address.
    fn address(&mut self, entry: &[u8], out: &mut Vec<u8>) -> Result<(), String>;

    /// Appends the key of its mailbox.
    ///
    /// # Errors
    /// Why it is no address.
    fn key(&mut self, entry: &[u8], out: &mut Vec<u8>) -> Result<(), String>;
}

/// Writes `entry` to `out` as it is looked up.
///
/// A domain may have `@` in front, or `*.` or a dot where it counts for the domains below it as well; it may be in its own
/// letters.
///
/// # Errors
/// A sentence, where it is not what the list is of.
pub(crate) fn read(
    entry: &[u8],
    of: Of,
    standardize: &mut impl Standardize,
    out: &mut Vec<u8>,
) -> Result<EntryKind, String> {
    let entry = entry.trim_ascii();
    match of {
        Of::Values => lower_case(entry, out).map(|()| EntryKind::Text),
        Of::LocalParts => {
            let bare = entry.strip_suffix(b"@").unwrap_or(entry);
            if bare.contains(&b'@') {
                return Err("it is a whole address; give the part before the @".into());
            }
            lower_case(bare, out).map(|()| EntryKind::Text)
        }
        Of::Domains => match entry.iter().position(|&b| b == b'@') {
            Some(at) if at > 0 => {
                Err("it is a whole address where domains are expected; leave the part behind the @, or say \
                     of = \"addresses\""
                    .into())
            }
            _ => domain(entry, out),
        },
        Of::Contacts | Of::Keys if !matches!(entry.iter().position(|&b| b == b'@'), Some(at) if at > 0) => {
            domain(entry, out)
        }
        Of::Addresses | Of::Contacts if is_plain_address(entry) => {
            lower_case(entry, out).map(|()| EntryKind::Address)
        }
        Of::Addresses | Of::Contacts | Of::Keys => {
            match of {
                Of::Keys => standardize.key(entry, out)?,
                _ => standardize.address(entry, out)?,
            }
            Ok(EntryKind::Address)
        }
    }
}

fn lower_case(entry: &[u8], out: &mut Vec<u8>) -> Result<(), String> {
    if entry.is_ascii() {
        out.extend(entry.iter().map(u8::to_ascii_lowercase));
        return Ok(());
    }
    let text = std::str::from_utf8(entry).map_err(|_| "it is not UTF-8".to_owned())?;
    out.extend_from_slice(folded(text).as_bytes());
    Ok(())
}

fn domain(entry: &[u8], out: &mut Vec<u8>) -> Result<EntryKind, String> {
    let bare = entry.strip_prefix(b"@").unwrap_or(entry);
    let host = bare.strip_prefix(b"*.").or_else(|| bare.strip_prefix(b".")).unwrap_or(bare);
    let kind = EntryKind::Domain { below: host.len() < bare.len() };
    let no_domain = || format!("‘{}’ is not a domain", String::from_utf8_lossy(entry));
    if is_plain(host) {
        if !labels_fit(host) {
            return Err(no_domain());
        }
        let start = out.len();
        out.extend_from_slice(host);
        if host.iter().any(|&b| bytes::is(b, UPPER)) {
            out[start..].make_ascii_lowercase();
        }
        return Ok(kind);
    }
    match idna_form::ascii_of(host).filter(|ascii| labels_fit(ascii.as_bytes())) {
        Some(ascii) => {
            out.extend_from_slice(ascii.as_bytes());
            Ok(kind)
        }
        None => Err(no_domain()),
    }
}

/// Whether the domain is of letters, digits, hyphens and dots, without an A-label.
fn is_plain(host: &[u8]) -> bool {
    host.iter().all(|&b| b == b'.' || bytes::is(b, LDH)) && memchr::memmem::find(host, b"--").is_none()
}

fn labels_fit(host: &[u8]) -> bool {
    let fits =
        |label: &[u8]| (1..=63).contains(&label.len()) && label[0] != b'-' && label[label.len() - 1] != b'-';
    host.len() <= 253 && host.split(|&b| b == b'.').all(fits)
}

/// Whether nothing has to be looked at closely: most entries of long lists.
fn is_plain_address(entry: &[u8]) -> bool {
    let Some(at) = memchr::memchr(b'@', entry) else { return false };
    let (local, host) = (&entry[..at], &entry[at + 1..]);
    let lengths_fit = entry.len() <= 254 && local.len() <= 64;
    lengths_fit && local.is_ascii() && is_dot_string(local) && is_plain(host) && labels_fit(host)
}
