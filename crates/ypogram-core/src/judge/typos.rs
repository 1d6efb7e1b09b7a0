//! Likely typing slips in domains: known ones, and one edit from a domain that very many people use.

use crate::data::known_typos::is_real;
use crate::data::known_typos::{Meant, known, of_popular};
use crate::judge::own_names;
use crate::judge::tld_typos;
use crate::policy::job_policy::Policy;

/// What `domain` (lower-case A-labels, on no list of providers) was probably meant to be.
///
/// `has_known_tld` tells whether its TLD is in the root zone or trusted: only TLDs that are not are held against those that
/// people mistype, but for a few.
pub(crate) fn of(domain: &[u8], has_known_tld: impl FnOnce() -> bool, policy: &Policy) -> Option<Meant> {
    if let Some(meant) = own_names::meant(domain, policy) {
        return Some(meant);
    }
    if let Some(meant) = policy.learned_typos.meant(domain) {
        return Some(Meant {
            domain: meant.to_owned(),
            sure: false,
            reason: "one letter from a domain that this list has often",
        });
    }
    let of_known = known(domain).map(|slip| Meant {
        domain: slip.meant.to_owned(),
        sure: slip.sure,
        reason: "a known slip",
    });
    let of_popular = || {
        of_popular(domain).map(|popular| Meant {
            domain: popular.to_owned(),
            sure: false,
            reason: "one letter from a domain that very many use",
        })
    };
    let of_ending = || match has_known_tld() {
        true => tld_typos::of_second_level(domain),
        false => tld_typos::of_unknown(domain),
    };
    let meant = of_known.or_else(of_popular).or_else(of_ending)?;
    (!is_real(domain)).then_some(meant)
}

/// Whether a domain with an unknown TLD in running text is likely mistyped: only what is known to be typed for another, and what
/// is one letter from a domain that very many use or from one's own. Words of a text have TLDs of many kinds.
pub(crate) fn is_slip_in_text(domain: &[u8], policy: &Policy) -> bool {
    let is_one = own_names::meant(domain, policy).is_some()
        || known(domain).is_some()
        || of_popular(domain).is_some()
        || tld_typos::is_known(domain);
    is_one && !is_real(domain)
}

/// Whether [`of`] has an answer for a domain with a known TLD that is no own name and was not learned_typos.
pub(crate) fn is_slip(domain: &[u8]) -> bool {
    let is_one = known(domain).is_some()
        || of_popular(domain).is_some()
        || tld_typos::of_second_level(domain).is_some();
    is_one && !is_real(domain)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::data::public_suffix;

    #[test]
    fn slips_and_what_only_looks_like_one() {
        for (typed, meant) in [
            ("gmial.com", Some("gmail.com")),
            ("gmail.con", Some("gmail.com")),
            ("fernhollow.con", Some("fernhollow.com")),
            ("fernhollow.infp", Some("fernhollow.info")),
            ("fernhollow.bizz", Some("fernhollow.biz")),
            ("fernhollow.org1", Some("fernhollow.org")),
            ("fernhollow.c.uk", Some("fernhollow.co.uk")),
            ("fernhollow.co.u", Some("fernhollow.co.uk")),
            ("fernhollow.dee", Some("fernhollow.de")),
            ("fernhollow.zzzz", None),
            ("c.uk", None),
            ("hotmaill.com", Some("hotmail.com")),
            ("gmx.at", None),
            ("mail.com", None),
            ("email.com", None),
            ("fernhollow.com", None),
        ] {
            let has_known_tld = || public_suffix::of(typed.as_bytes()).is_some();
            assert_eq!(
                of(typed.as_bytes(), has_known_tld, &Policy::default()).map(|m| m.domain).as_deref(),
                meant,
                "{typed}"
            );
        }
    }
}
