//! Typing slips in the TLD of a domain: known ones, and one edit from a TLD that very many use.

use crate::data::edit_distance::one_edit_apart;
use crate::data::known_typos::{Meant, known_tld};
use crate::data::public_suffix;

/// TLDs of one label that very many use, the more used first. Those of countries are too short to tell a slip from another
/// country's.
const USUAL: [&str; 11] =
    ["com", "org", "net", "info", "edu", "biz", "gov", "online", "website", "museum", "email"];

/// The same of two labels.
const USUAL_OF_TWO: [&str; 12] = [
    "co.uk", "org.uk", "ac.uk", "gov.uk", "com.au", "co.nz", "co.za", "com.br", "co.jp", "co.in", "com.mx",
    "com.tr",
];

/// What a domain was probably meant to be whose TLD is not in the root zone.
pub(crate) fn of_unknown(domain: &[u8]) -> Option<Meant> {
    let text = std::str::from_utf8(domain).ok()?;
    known(text).or_else(|| with_digits(text)).or_else(|| glued(text)).or_else(|| near_usual(text))
}

/// The same for a TLD that exists, yet is typed for another so often that nearly nobody means it, such as `.c.uk`.
pub(crate) fn of_second_level(domain: &[u8]) -> Option<Meant> {
    // All of them are below a country, and as short: `.c.uk`, `.vo.uk`.
    let [.., b'.', _, _] = domain else { return None };
    let labels = &domain[..domain.len() - ".uk".len()];
    let from = labels.iter().rev().take(4).position(|&b| b == b'.').map(|place| labels.len() - 1 - place)?;
    if from == 0 {
        return None;
    }
    let slip = known_tld(&domain[from..])?;
    let name = std::str::from_utf8(&domain[..from]).ok()?;
    Some(Meant { domain: format!("{name}{}", slip.meant), sure: slip.sure, reason: KNOWN })
}

/// Whether the TLD of the domain is known to be typed for another.
pub(crate) fn is_known(domain: &[u8]) -> bool {
    std::str::from_utf8(domain).is_ok_and(|text| known(text).is_some())
}

const KNOWN: &str = "a known slip in the top-level domain";

/// From any dot or comma on, the longest TLD first.
fn known(domain: &str) -> Option<Meant> {
    domain.char_indices().filter(|&(at, c)| at > 0 && matches!(c, '.' | ',')).find_map(|(at, _)| {
        let slip = known_tld(&domain.as_bytes()[at..])?;
        Some(Meant { domain: format!("{}{}", &domain[..at], slip.meant), sure: slip.sure, reason: KNOWN })
    })
}

/// `host.org1`: digits behind a TLD that exists.
fn with_digits(domain: &str) -> Option<Meant> {
    let bare = domain.trim_end_matches(|c: char| c.is_ascii_digit());
    (bare.len() < domain.len() && !bare.ends_with('.') && public_suffix::is_below_one(bare.as_bytes())).then(
        || Meant {
            domain: bare.to_owned(),
            sure: false,
            reason: "digits behind the top-level domain were removed",
        },
    )
}

/// `host.org-ra`: an ending of a language behind a hyphen, which no TLD has.
fn glued(domain: &str) -> Option<Meant> {
    let (bare, last) = domain.rsplit_once('-').filter(|(_, last)| !last.contains('.'))?;
    let is_known = public_suffix::is_below_one(bare.as_bytes()) && !last.is_empty() && bare.contains('.');
    is_known.then(|| Meant {
        domain: bare.to_owned(),
        sure: false,
        reason: "what stands behind the top-level domain was removed",
    })
}

/// One edit from a TLD that very many use, or one letter of a country's TLD typed twice.
fn near_usual(domain: &str) -> Option<Meant> {
    let mut dots = memchr::memrchr_iter(b'.', domain.as_bytes()).filter(|&dot| dot > 0);
    let (last, second) = (dots.next()?, dots.next());
    let meant = |dot: usize, tld: &str| Meant {
        domain: format!("{}.{tld}", &domain[..dot]),
        sure: false,
        reason: "one letter from a top-level domain that very many use",
    };
    let near = |dot: usize, usual: &[&'static str]| {
        let typed = &domain.as_bytes()[dot + 1..];
        let found = usual.iter().find(|tld| one_edit_apart(typed, tld.as_bytes()));
        found.map(|tld| meant(dot, tld))
    };
    let of_country = || {
        let country = Some(&domain[last + 1..]).filter(|country| country.is_ascii())?;
        let [first, second, third] = *country.as_bytes() else { return None };
        let once = if second == third { &country[..2] } else { &country[1..] };
        let is_doubled = second == third || first == second;
        let exists = public_suffix::of(once.as_bytes()).is_some();
        (is_doubled && exists).then(|| meant(last, once))
    };
    near(last, &USUAL).or_else(|| second.and_then(|dot| near(dot, &USUAL_OF_TWO))).or_else(of_country)
}
