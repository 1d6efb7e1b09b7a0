//! A whole name cut into given and family name.

use super::{is_particle, titles};

/// The given name and the family name of a name as it is written; both are empty where it has one word alone, which may be either.
///
/// ```
/// use ypogram_core::names::split_whole;
/// assert_eq!(split_whole("Dr. Anna Maria van der Berg (vegetarian)"), ("Anna Maria".into(), "van der Berg".into()));
/// assert_eq!(split_whole("O’NEIL, Zoë"), ("Zoë".into(), "O’NEIL".into()));
/// assert_eq!(split_whole("LOVELL Ada"), ("Ada".into(), "LOVELL".into()));
/// assert_eq!(split_whole("Ada"), (String::new(), String::new()));
/// ```
pub fn split_whole(name: &str) -> (String, String) {
    let name = name.split(['(', '[', '–', '—', '/']).next().unwrap_or_default();
    if let Some((family, given)) = name.split_once(',') {
        let [given, family] = [given, family].map(|part| without_titles(part).join(" "));
        // ‘Ada Lovell, MBE’
        if !given.is_empty() && !family.is_empty() {
            return (given, family);
        }
    }
    let words = without_titles(name);
    if words.len() < 2 {
        return (String::new(), String::new());
    }
    let in_capitals = |word: &str| {
        word.chars().filter(|c| c.is_alphabetic()).count() > 1 && !word.chars().any(char::is_lowercase)
    };
    if in_capitals(words[0]) && !words.iter().skip(1).any(|word| in_capitals(word)) {
        let family = words.iter().take_while(|word| in_capitals(word)).count();
        return (words[family..].join(" "), words[..family].join(" "));
    }
    let mut start = words.len() - 1;
    while start > 1 && is_particle(&words[start - 1].to_lowercase()) {
        start -= 1;
    }
    (words[..start].join(" "), words[start..].join(" "))
}

/// The same of a name of two plain words, as most are; none where it takes longer to tell.
///
/// ```
/// use ypogram_core::names::split_plain;
/// assert_eq!(split_plain(b"Ada O'Neil"), Some((&b"Ada"[..], &b"O'Neil"[..])));
/// assert_eq!(split_plain(b"LOVELL Ada"), None);
/// assert_eq!(split_plain(b"Dr Lovell"), None);
/// ```
#[inline]
pub fn split_plain(name: &[u8]) -> Option<(&[u8], &[u8])> {
    let space = memchr::memchr(b' ', name)?;
    let (given, family) = (&name[..space], &name[space + 1..]);
    let is_plain = |word: &[u8]| {
        // No title is longer.
        let mut small = [0; 16];
        let small = small.get_mut(..word.len()).map(|small| {
            small.copy_from_slice(word);
            small.make_ascii_lowercase();
            &*small
        });
        small.is_none_or(|small| std::str::from_utf8(small).is_ok_and(|small| !titles::is_title(small)))
    };
    let has_small = |word: &[u8]| word.iter().any(u8::is_ascii_lowercase);
    let is_of_word = |b: &u8| b.is_ascii_alphabetic() || matches!(b, b'-' | b'\'');
    let of_words = given.iter().chain(family).all(is_of_word) && !given.is_empty() && !family.is_empty();
    // What is written in small letters is one word of two in capitals at most.
    (of_words && has_small(given) && has_small(family) && is_plain(given) && is_plain(family))
        .then_some((given, family))
}

fn without_titles(text: &str) -> Vec<&str> {
    let is_title = |word: &&str| {
        let bare = word.trim_matches(['.', ',']).to_lowercase();
        titles::is_title(&bare) || bare.is_empty()
    };
    let words: Vec<&str> = text.split_whitespace().map(|word| word.trim_matches(',')).collect();
    let start = words.iter().take_while(|word| is_title(word)).count();
    let end = words.len() - words[start..].iter().rev().take_while(|word| is_title(word)).count();
    words[start..end].to_vec()
}
