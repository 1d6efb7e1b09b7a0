//! Words that are one slip of the keyboard apart.

/// Whether one insertion, deletion, replacement or swap of neighbours (Damerau–Levenshtein) leads from one to the other.
pub(crate) fn one_edit_apart(a: &[u8], b: &[u8]) -> bool {
    let (long, short) = if a.len() >= b.len() { (a, b) } else { (b, a) };
    let (Some(first), Some(last)) = (short.first(), short.last()) else { return long.len() == 1 };
    // One edit leaves at least one end as it is, but for a swap of the last or first two.
    let ends_differ = *first != long[0] && *last != long[long.len() - 1];
    if long.len() - short.len() > 1 || ends_differ && long.len() > 2 {
        return false;
    }
    let prefix = long.iter().zip(short).take_while(|(x, y)| x == y).count();
    let rest = short.len() - prefix;
    let suffix = long.iter().rev().zip(short.iter().rev()).take(rest).take_while(|(x, y)| x == y).count();
    match rest - suffix {
        0 => long.len() != short.len(),
        1 => long.len() == short.len(),
        2 => {
            long.len() == short.len()
                && long[prefix] == short[prefix + 1]
                && long[prefix + 1] == short[prefix]
        }
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_edit_is_what_the_textbook_says() {
        let words = [
            "gmail.com",
            "gmial.com",
            "gmal.com",
            "ggmail.com",
            "gmail.co",
            "hmail.com",
            "gamil.com",
            "gmaill.con",
            "live.com",
            "",
        ];
        for a in words {
            for b in words {
                let expected = strsim::damerau_levenshtein(a, b) == 1;
                assert_eq!(one_edit_apart(a.as_bytes(), b.as_bytes()), expected, "{a} {b}");
            }
        }
    }
}
