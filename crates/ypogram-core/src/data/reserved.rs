//! Names that no mailbox on the public Internet can have (RFC 2606, 6761, 6762, 7686, 8375, 9476).

/// The domain of what stands for addresses in redacted copies. It is reserved (RFC 2606), so that no mail can be sent there.
pub(crate) const TOKEN_DOMAIN: &str = "token.invalid";

include!(concat!(env!("OUT_DIR"), "/reserved.rs"));

/// The reserved name that `domain` (lower-case A-labels) is or lies below, with the standard that reserves it.
///
/// ```
/// use ypogram_core::reserved;
/// assert_eq!(reserved::find(b"mail.example.org"), Some(("example.org", "RFC 2606 §3")));
/// assert_eq!(reserved::find(b"myexample.org"), None);
/// ```
pub fn find(domain: &[u8]) -> Option<(&'static str, &'static str)> {
    if !may_be_one(domain) {
        return None;
    }
    RESERVED.iter().copied().find(|(name, _)| is_or_below(domain, name.as_bytes()))
}

/// Every reserved name with the standard that reserves it.
pub fn all() -> impl Iterator<Item = (&'static str, &'static str)> {
    RESERVED.iter().copied()
}

/// Whether the last bytes leave it open: nearly all domains leave here. A test holds it against the whole list.
fn may_be_one(domain: &[u8]) -> bool {
    let ends = |ends: &[[u8; 2]], last: [u8; 2]| ends.iter().fold(false, |met, &end| met | (end == last));
    match *domain {
        // As in `example.org`.
        [.., b'e', b'.', _, one, two] if ends(&[*b"om", *b"et", *b"rg"], [one, two]) => true,
        [.., one, two] => ends(&[*b"lt", *b"le", *b"pa", *b"al", *b"id", *b"st", *b"on"], [one, two]),
        _ => false,
    }
}

/// Whether `domain` is `name` or lies below it; never by mere ending.
pub(crate) fn is_or_below(domain: &[u8], name: &[u8]) -> bool {
    domain.strip_suffix(name).is_some_and(|before| before.is_empty() || before.ends_with(b"."))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_name_on_the_list_is_found() {
        for (name, standard) in RESERVED {
            assert_eq!(find(name.as_bytes()), Some((name, standard)));
            assert_eq!(find(format!("mail.{name}").as_bytes()), Some((name, standard)));
            assert_eq!(find(format!("my{name}").as_bytes()).filter(|(found, _)| *found == name), None);
        }
    }
}
