//! Domains that give people mailboxes, who runs them, and how they deliver.
//!
//! The facts are plain text files, `data/providers.tsv`, `data/free-listed.tsv` and `data/mailbox-rules.tsv`, compiled into tables.

use std::borrow::Cow;

use serde::{Deserialize, Serialize, Serializer};

use crate::characters::bytes;
use crate::characters::labels::Labels;
use crate::data::mark::mark_of;
use crate::model::class::Class;

include!(concat!(env!("OUT_DIR"), "/providers.rs"));

/// What is known of a domain that gives people mailboxes.
#[derive(Clone, Copy, Debug)]
pub struct Provider {
    /// What kind of mailbox it gives.
    pub class: Class,
    /// Who runs it; country variants of one service have one operator.
    pub operator: Operator,
    pub(crate) rule: u8,
    /// Its name space is one with the operator's other joined domains.
    pub(crate) joined: bool,
    /// The entry counts for the domains below it as well.
    pub(crate) below: bool,
    /// It is known from published lists alone, so that the domain can have changed hands or be mistyped.
    pub(crate) listed: bool,
}

/// How certain it is that a domain gives the mailboxes of its class.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Certainty {
    /// It is known, or follows from the domain's name or from a list of the job's own.
    #[default]
    Known,
    /// Published lists have it; it can have changed hands since.
    Listed,
}

impl Certainty {
    /// The word in outputs and in the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            Certainty::Known => "known",
            Certainty::Listed => "listed",
        }
    }
}

impl Provider {
    /// How certain the entry is.
    pub const fn certainty(&self) -> Certainty {
        if self.listed { Certainty::Listed } else { Certainty::Known }
    }
}

/// Who runs a domain: an index into the built-in list, 0 for nobody known.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Operator(pub(crate) u16);

impl Operator {
    /// The operator's name in lower case; empty where none is known.
    pub fn name(self) -> &'static str {
        OPERATORS[self.0 as usize]
    }

    /// Its place in the built-in list.
    #[inline]
    pub const fn index(self) -> usize {
        self.0 as usize
    }
}

impl Serialize for Operator {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        match self.name() {
            "" => serializer.serialize_none(),
            name => serializer.serialize_str(name),
        }
    }
}

/// The built-in entry that counts for `domain` (lower-case A-labels): its own, else that of a parent which says so.
///
/// ```
/// use ypogram_core::{Class, providers};
/// assert_eq!(providers::find(b"gmail.com").unwrap().class, Class::Free);
/// assert!(providers::find(b"notgmail.com").is_none());
/// assert!(providers::find(b"mail.gmail.com").is_none());
/// ```
pub fn find(domain: &[u8]) -> Option<&'static Provider> {
    find_above(Labels::of(domain), domain.len()).map(|(provider, _)| provider)
}

/// Like [`find`], with how many labels the domain is below the entry. Parents that start at `suffix` or later are not looked
/// up: no provider is a public suffix.
pub(crate) fn find_above(labels: Labels<'_>, suffix: usize) -> Option<(&'static Provider, usize)> {
    let domain = labels.domain;
    if let Some(provider) = find_own(domain) {
        return Some((provider, 0));
    }
    let starts = labels.dots().map(|dot| dot + 1).take_while(|&start| start < suffix);
    let parents = starts.enumerate().map(|(below, start)| (&domain[start..], below + 1));
    parents.filter(|(parent, _)| parent.contains(&b'.')).find_map(|(parent, below)| {
        find_own(parent).filter(|provider| provider.below).map(|provider| (provider, below))
    })
}

/// The domain that is `labels` above `domain`.
pub(crate) fn parent(domain: &[u8], labels: usize) -> &[u8] {
    let dot = memchr::memchr_iter(b'.', domain).take(labels).last();
    &domain[dot.map_or(0, |dot| dot + 1)..]
}

/// The entry of `domain` itself.
#[inline]
pub(crate) fn find_own(domain: &[u8]) -> Option<&'static Provider> {
    let mark = mark_of(domain);
    if ENDS[mark / 64] >> (mark % 64) & 1 == 1 { PROVIDERS.get(domain) } else { None }
}

/// Which spellings of a local part reach one mailbox (RFC 5233 for the tag; the rest is the operator's own rule).
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct MailboxRule {
    /// The separator before the tag.
    pub tag: Option<u8>,
    /// ASCII characters that do not count, one bit each.
    pub ignored: u128,
    /// A character that stands for another: (written, kept).
    pub same: Option<(u8, u8)>,
    /// The domain that stands in the key for all joined ones.
    pub name_space: Cow<'static, str>,
    /// Whether any-name@user.domain reaches user@domain.
    pub sub_domain: bool,
    /// What a base local part can be made of, one bit an ASCII character; 0 where nothing is known.
    pub issued: u128,
    /// Least and most bytes of a base local part; (0, 0) where nothing is known.
    pub issued_length: (u8, u8),
}

impl MailboxRule {
    /// `local` without its tag. A separator in the first place starts no tag.
    pub fn base<'a>(&self, local: &'a [u8]) -> &'a [u8] {
        match self.tag.and_then(|separator| memchr::memchr(separator, local)) {
            Some(at) if at > 0 => &local[..at],
            _ => local,
        }
    }

    /// Whether several spellings of an address reach one mailbox.
    pub(crate) fn changes_something(&self) -> bool {
        self.tag.is_some() || self.ignored != 0 || self.same.is_some() || self.sub_domain
    }

    /// Whether the operator can have issued the base local part `base` (lower case). `signs` tells whether it may have other
    /// characters than letters, digits and dots.
    #[inline]
    pub(crate) fn can_issue(&self, base: &[u8], signs: bool) -> bool {
        let (least, most) = self.issued_length;
        let fits = most == 0 || (usize::from(least)..=usize::from(most)).contains(&base.len());
        let takes_all = self.issued == 0 || !signs && self.issued & PLAIN == PLAIN;
        fits && (takes_all || base.iter().all(|&b| bytes::is_in(self.issued, b)))
    }
}

/// Letters in lower case, digits and the dot, one bit each.
const PLAIN: u128 = {
    let (mut set, mut b) = (1 << b'.', 0);
    while b < 26 {
        set |= 1 << (b'a' + b);
        b += 1;
    }
    while b < 36 {
        set |= 1 << (b'0' + b - 26);
        b += 1;
    }
    set
};

struct BuiltInRule {
    operator: &'static str,
    tag: Option<u8>,
    ignored: u128,
    same: Option<(u8, u8)>,
    name_space: &'static str,
    sub_domain: bool,
    issued: u128,
    issued_length: (u8, u8),
}

/// The built-in rules with their operators' names, in the order of the indices that [`Provider`] refers to, from 1.
pub(crate) fn built_in_rules() -> impl Iterator<Item = (&'static str, MailboxRule)> {
    RULES.iter().map(|rule| {
        (
            rule.operator,
            MailboxRule {
                tag: rule.tag,
                ignored: rule.ignored,
                same: rule.same,
                name_space: Cow::Borrowed(rule.name_space),
                sub_domain: rule.sub_domain,
                issued: rule.issued,
                issued_length: rule.issued_length,
            },
        )
    })
}

/// Every built-in domain with its entry, in no order.
pub fn all() -> impl Iterator<Item = (&'static str, &'static Provider)> {
    PROVIDERS.entries().map(|(domain, provider)| (std::str::from_utf8(domain).expect("ASCII"), provider))
}
