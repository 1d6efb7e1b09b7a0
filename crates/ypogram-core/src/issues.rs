//! What operators issue, told by the classes of characters: a local part was read once, and its classes are known.

use crate::bytes::{CLASS, DOT, HYPHEN, PLUS, RARE, UNDERSCORE};
use crate::providers::MailboxRule;

/// What a mailbox rule says of a local part in lower case that has no tag.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Issues {
    /// Characters of these classes have to be looked at one by one; any others may be issued.
    pub(crate) unless_it_has: u16,
    /// Least and most octets.
    pub(crate) lengths: (usize, usize),
    /// Tags are not separated by a plus sign.
    pub(crate) by_another_tag: bool,
}

impl Issues {
    pub(crate) fn of(rule: &MailboxRule) -> Self {
        let (least, most) = rule.issued_length;
        let lengths = if most == 0 { (0, usize::MAX) } else { (usize::from(least), usize::from(most)) };
        let refused = (0..128_u8).filter(|b| rule.issued != 0 && rule.issued >> b & 1 == 0);
        let unless_it_has =
            refused.filter(|b| !b.is_ascii_uppercase()).fold(0, |classes, b| classes | told_apart_by(b));
        Issues { unless_it_has, lengths, by_another_tag: rule.tag.is_some_and(|tag| tag != b'+') }
    }
}

/// The class by which a character of a local part in lower case is told from others; for a letter or digit every class, as
/// none is its own.
fn told_apart_by(b: u8) -> u16 {
    match CLASS[usize::from(b)] & (DOT | HYPHEN | PLUS | UNDERSCORE | RARE) {
        0 if b.is_ascii_alphanumeric() => u16::MAX,
        class => class,
    }
}
