//! Address literals: `[192.0.2.1]`, `[IPv6:2001:db8::1]`, `[tag:content]` (RFC 5321 §4.1.3).

use std::net::{Ipv4Addr, Ipv6Addr};

/// Checks an address literal with its brackets.
///
/// # Errors
/// A sentence that says what is wrong with it.
pub(crate) fn check(literal: &[u8]) -> Result<(), &'static str> {
    let Some(inside) = literal.strip_prefix(b"[").and_then(|l| l.strip_suffix(b"]")) else {
        return Err("The address literal is not closed by a square bracket at its end.");
    };
    let Ok(inside) = std::str::from_utf8(inside) else { return Err("An address literal is plain ASCII.") };
    if inside.is_empty() {
        return Err("The address literal is empty.");
    }
    if let Some((tag, content)) = inside.split_once(':') {
        if tag.eq_ignore_ascii_case("IPv6") {
            return content.parse::<Ipv6Addr>().map(drop).map_err(|_| "This is not an IPv6 address.");
        }
        return general(tag, content);
    }
    // Snum has one to three digits, a leading zero included, which the parser of the library would refuse.
    let mut numbers = inside.split('.');
    let snum = |n: &str| {
        (1..=3).contains(&n.len())
            && n.bytes().all(|b| b.is_ascii_digit())
            && n.parse::<u16>().is_ok_and(|n| n < 256)
    };
    if numbers.by_ref().take(4).filter(|n| snum(n)).count() == 4 && numbers.next().is_none() {
        return Ok(());
    }
    if inside.parse::<Ipv6Addr>().is_ok() {
        return Err("An IPv6 address needs the prefix ‘IPv6:’ in the brackets.");
    }
    debug_assert!(inside.parse::<Ipv4Addr>().is_err());
    Err("This is not an IPv4 address.")
}

/// General-address-literal: Standardized-tag ":" 1*dcontent, the tag being an Ldh-str.
fn general(tag: &str, content: &str) -> Result<(), &'static str> {
    let ldh = tag.bytes().all(|b| b.is_ascii_alphanumeric() || b == b'-');
    if tag.is_empty() || !ldh || tag.ends_with('-') {
        return Err("The tag before the colon has letters, digits and inner hyphens only.");
    }
    if tag.parse::<u8>().is_ok() || tag.len() == 4 && tag.bytes().all(|b| b.is_ascii_hexdigit()) {
        return Err("An IPv6 address needs the prefix ‘IPv6:’ in the brackets.");
    }
    match content.bytes().all(|b| matches!(b, 33..=90 | 94..=126)) && !content.is_empty() {
        true => Ok(()),
        false => Err("Behind the tag only printing ASCII without brackets and backslash may stand."),
    }
}

#[cfg(test)]
mod tests {
    use super::check;

    #[test]
    fn rfc_5321_4_1_3() {
        for good in [
            "[192.0.2.1]",
            "[255.255.255.255]",
            "[192.000.002.001]",
            "[IPv6:2001:db8::1]",
            "[ipv6:::]",
            "[IPv6:::ffff:192.0.2.1]",
            "[IPv6:1:2:3:4:5:6:7:8]",
            "[IPv6:1::]",
            "[x400:some]",
        ] {
            assert_eq!(check(good.as_bytes()), Ok(()), "{good}");
        }
        for bad in [
            "[]",
            "[192.0.2.1",
            "[192.0.2]",
            "[192.0.2.256]",
            "[192.0.2.1.5]",
            "[1.2.3.0004]",
            "[IPv6:1:2:3]",
            "[IPv6:12345::]",
            "[2001:db8::1]",
            "[IPv6:1::2::3]",
            "[-:a]",
            "[a-:b]",
            "[a:]",
            "[a:b c]",
            "[a:b[c]",
            "[IPv6:]",
            "[a]b]",
        ] {
            assert!(check(bad.as_bytes()).is_err(), "{bad}");
        }
    }
}
