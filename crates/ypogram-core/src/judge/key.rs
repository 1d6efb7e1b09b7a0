//! What two addresses share when they reach the same mailbox.

use crate::characters::bytes::{self};
use crate::data::providers::MailboxRule;
use crate::judge::facts::{DomainFacts, Fact};
use crate::model::same_mailbox::SameMailbox;

/// The parts of an address in standard form from which a key is made.
#[derive(Clone, Copy)]
pub(crate) struct KeyParts<'a> {
    /// The local part as written (unquoted where it can be).
    pub(crate) written: &'a [u8],
    /// The local part in lower case.
    pub(crate) folded: &'a [u8],
    /// The domain in lower-case A-labels.
    pub(crate) domain: &'a [u8],
    pub(crate) facts: DomainFacts,
    pub(crate) rule: &'a MailboxRule,
}

impl KeyParts<'_> {
    /// Appends the key under `same` to `out`.
    pub(crate) fn write(self, same: SameMailbox, out: &mut Vec<u8>) {
        let KeyParts { written, folded, domain, .. } = self;
        match same {
            SameMailbox::Exact => join(written, domain, out),
            SameMailbox::Case => join(folded, domain, out),
            SameMailbox::Provider => self.write_provider(out),
            SameMailbox::Everywhere => {
                let start = out.len();
                let cut = memchr::memchr(b'+', folded).unwrap_or(folded.len());
                out.extend(folded[..cut].iter().filter(|&&b| b != b'.'));
                if out.len() == start || is_quoted(folded) {
                    out.truncate(start);
                    out.extend_from_slice(folded);
                }
                out.push(b'@');
                out.extend_from_slice(domain);
            }
        }
    }

    fn write_provider(self, out: &mut Vec<u8>) {
        let KeyParts { folded, domain, facts, rule, .. } = self;
        if rule.sub_domain && facts.is(Fact::BelowEntry) {
            // any-name@user.domain reaches user@domain.
            let dot = memchr::memchr(b'.', domain).expect("a domain below an entry has a dot");
            return join(&domain[..dot], &domain[dot + 1..], out);
        }
        let start = out.len();
        if is_quoted(folded) || (rule.tag.is_none() && rule.ignored == 0 && rule.same.is_none()) {
            out.extend_from_slice(folded);
        } else {
            out.extend_from_slice(rule.base(folded));
            let kept = match rule.ignored {
                0 => out.len() - start,
                DOTS => keep(&mut out[start..], |b| b != b'.'),
                ignored => keep(&mut out[start..], |b| !bytes::is_in(ignored, b)),
            };
            out.truncate(start + kept);
            if let Some((from, to)) = rule.same {
                out[start..].iter_mut().filter(|b| **b == from).for_each(|b| *b = to);
            }
            if out.len() == start {
                out.extend_from_slice(folded);
            }
        }
        out.push(b'@');
        out.extend_from_slice(if facts.is(Fact::Joined) { rule.name_space.as_bytes() } else { domain });
    }
}

/// Dots alone, as a set of characters.
pub(crate) const DOTS: u128 = 1 << b'.';

/// Moves the bytes for which `stays` holds to the front, in order; gives how many these are.
#[inline]
fn keep(text: &mut [u8], stays: impl Fn(u8) -> bool) -> usize {
    let mut kept = 0;
    for at in 0..text.len() {
        let byte = text[at];
        text[kept] = byte;
        kept += usize::from(stays(byte));
    }
    kept
}

fn join(local: &[u8], domain: &[u8], out: &mut Vec<u8>) {
    out.extend_from_slice(local);
    out.push(b'@');
    out.extend_from_slice(domain);
}

fn is_quoted(local: &[u8]) -> bool {
    local.first() == Some(&b'"')
}
