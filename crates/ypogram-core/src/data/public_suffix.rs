//! Public suffixes: the endings below which anybody may register a name, `com` and `co.uk` (the Public Suffix List).

/// The public suffix of a domain.
#[derive(Clone, Copy, Debug)]
pub(crate) struct PublicSuffix {
    /// Bytes at the end of the domain, without the dot in front.
    pub(crate) len: usize,
    /// Whether a company registered it and lets names below it, as `github.io`; else ICANN or a country delegated it.
    pub(crate) private: bool,
}

/// The public suffix that `domain` (lower-case) is or lies below; `None` where its TLD is not in the root zone.
pub(crate) fn of(domain: &[u8]) -> Option<PublicSuffix> {
    let suffix = psl::suffix(domain).filter(psl::Suffix::is_known)?;
    let private = suffix.typ() == Some(psl::Type::Private);
    Some(PublicSuffix { len: suffix.as_bytes().len(), private })
}

/// Whether `domain` (lower-case) has a public suffix and a name in front of it.
pub(crate) fn is_below_one(domain: &[u8]) -> bool {
    of(domain).is_some_and(|suffix| suffix.len < domain.len())
}

/// The name that was registered, of `domain` (lower-case) or above it; below an unknown TLD the last two labels.
pub(crate) fn registrable(domain: &str) -> Option<&str> {
    let last_label = || domain.rsplit('.').next().map_or(0, str::len);
    let suffix = of(domain.as_bytes()).map_or_else(last_label, |suffix| suffix.len);
    let before = domain.len().checked_sub(suffix + 1)?;
    Some(&domain[domain[..before].rfind('.').map_or(0, |dot| dot + 1)..])
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_name_that_was_registered() {
        for (domain, own) in [
            ("mail.fernhollow.co.uk", Some("fernhollow.co.uk")),
            ("fernhollow.example", Some("fernhollow.example")),
            ("a.b.fernhollow.zzzz", Some("fernhollow.zzzz")),
            ("co.uk", None),
            ("zzzz", None),
        ] {
            assert_eq!(registrable(domain), own, "{domain}");
        }
    }

    #[test]
    fn suffixes_are_found_where_the_tld_exists() {
        for (domain, found, below) in [
            ("fernhollow.co.uk", Some((5, false)), true),
            ("co.uk", Some((5, false)), false),
            ("fernhollow.github.io", Some((9, true)), true),
            ("fernhollow.zzzz", None, false),
            ("", None, false),
        ] {
            let suffix = of(domain.as_bytes()).map(|suffix| (suffix.len, suffix.private));
            assert_eq!((suffix, is_below_one(domain.as_bytes())), (found, below), "{domain}");
        }
    }
}
