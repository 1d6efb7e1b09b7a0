//! Text that shows what it was like and not whom it names, for pages that are sent around.

/// The text with every word but its first and last letter hidden, and the domains behind an `@` as they are.
///
/// A word of one or two characters is hidden whole. Signs stay, so that what is wrong with an address can still be seen.
///
/// ```
/// use ypogram_core::masked;
/// assert_eq!(masked("starg.azer79@gmail.com"), "s…9@gmail.com");
/// assert_eq!(masked("Ada Lovell <ada@h-works.org>"), "A…a L…l <a…a@h-works.org>");
/// assert_eq!(masked("jo@@quarry.example, 01632 960134"), "…@@quarry.example, 0…2 9…4");
/// assert_eq!(masked("mailto:zeno..x@b"), "mailto:z…x@…");
/// ```
pub fn masked(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    let mut after_at = false;
    while let Some(c) = rest.chars().next() {
        let end = rest.find(|c| !is_of_word(c)).unwrap_or(rest.len());
        let (word, behind) = rest.split_at(end.max(c.len_utf8()));
        match () {
            () if end == 0 || behind.starts_with(':') && word.eq_ignore_ascii_case("mailto") => {
                out.push_str(word)
            }
            // One label is no domain, and may be anything.
            () if after_at && word.trim_matches('.').contains('.') && !behind.starts_with('@') => {
                out.push_str(word)
            }
            () => hide(word, &mut out),
        }
        after_at = word.ends_with('@');
        rest = behind;
    }
    out
}

/// Whether a character is within a word: letters, digits, and the signs that stand within local parts and domains.
fn is_of_word(c: char) -> bool {
    c.is_alphanumeric() || "._+-'~%=&!#$*/?^`{|}".contains(c)
}

fn hide(word: &str, out: &mut String) {
    // Dots around it are no part of it.
    let inner = word.trim_matches('.');
    let (Some(first), Some(last)) = (inner.chars().next(), inner.chars().next_back()) else {
        return out.push_str(word);
    };
    let start = word.len() - word.trim_start_matches('.').len();
    out.push_str(&word[..start]);
    match inner.chars().count() {
        ..3 => out.push('…'),
        _ => out.extend([first, '…', last]),
    }
    out.push_str(&word[start + inner.len()..]);
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_is_left_of_a_local_part_but_its_ends() {
        for (text, expected) in [
            ("", ""),
            ("@", "@"),
            ("a@b.org", "…@b.org"),
            (".ada.@h-works.org", ".a…a.@h-works.org"),
            ("\"Ada L\"@h-works.org", "\"A…a …\"@h-works.org"),
            ("ada lovell at h-works dot org", "a…a l…l … h…s d…t o…g"),
            ("ada@[192.0.2.1]", "a…a@[1…1]"),
            ("josé@münchen.example", "j…é@münchen.example"),
            ("ada@h-works.org,bea@h-works.org", "a…a@h-works.org,b…a@h-works.org"),
            ("ada@h-works.org.", "a…a@h-works.org."),
            ("ada@ h-works.org", "a…a@ h…g"),
            ("x@ada.lovell@h-works.org", "…@a…l@h-works.org"),
        ] {
            assert_eq!(masked(text), expected, "{text}");
        }
    }
}
