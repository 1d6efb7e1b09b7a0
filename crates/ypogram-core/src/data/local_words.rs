//! Local parts that are words with a meaning: role accounts, automatic senders, placeholders.

use crate::data::mark::mark_of;
use crate::model::codes::Code;

include!(concat!(env!("OUT_DIR"), "/local_words.rs"));

/// What a local part says by being a known word.
#[derive(Clone, Copy, Debug)]
pub struct LocalWord {
    /// Which role account it is, if it is one.
    pub role: Role,
    /// Whether it stands where an address is missing.
    pub placeholder: Option<Placeholder>,
}

/// A mailbox that belongs to no person.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// None: the word means something else.
    None,
    /// A role account, with its purpose.
    Account(&'static str),
    /// A sender that nobody reads.
    NoReply,
}

/// A word typed where no address was at hand.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Placeholder {
    /// SummaryFlag that there is no address, at whatever domain.
    Anywhere,
    /// SummaryFlag so where the domain says it again, as in none@none.com.
    WithItsDomain,
    /// Typed to get past a form.
    MadeUp,
}

/// What the local part `base` (lower case, without tag) says as a word.
///
/// ```
/// use ypogram_core::local_words::{self, Role};
/// assert_eq!(local_words::find(b"noreply").unwrap().role, Role::NoReply);
/// assert!(local_words::find(b"ada").is_none());
/// ```
pub fn find(base: &[u8]) -> Option<&'static LocalWord> {
    if may_be_known(base) { LOCAL_WORDS.get(base) } else { None }
}

/// Whether [`find`] may know it; most leave here.
#[inline]
pub(crate) fn may_be_known(base: &[u8]) -> bool {
    let mark = mark_of(base);
    base.len() <= LONGEST_WORD && WORD_MARKS[mark / 64 % WORD_MARKS.len()] >> (mark % 64) & 1 == 1
}

/// Every known word with what it says, in no order.
pub fn all() -> impl Iterator<Item = (&'static str, &'static LocalWord)> {
    LOCAL_WORDS.entries().map(|(word, says)| (std::str::from_utf8(word).expect("UTF-8"), says))
}

/// The code that follows from the local part alone or together with the domain, if any.
#[inline]
pub(crate) fn code(base: &[u8], domain: &[u8]) -> Option<Code> {
    // Most leave here.
    let may_say = may_be_known(base) || may_be_typed_at_random(base) || is_first_label(base, domain);
    if may_say { said(base, domain) } else { None }
}

fn said(base: &[u8], domain: &[u8]) -> Option<Code> {
    match find(base) {
        Some(LocalWord { placeholder: Some(Placeholder::Anywhere), .. }) => Some(Code::Placeholder),
        Some(LocalWord { placeholder: Some(Placeholder::WithItsDomain), role }) => {
            if first_label(domain).starts_with(base) { Some(Code::Placeholder) } else { role_code(*role) }
        }
        Some(LocalWord { placeholder: Some(Placeholder::MadeUp), .. }) => Some(Code::LooksMadeUp),
        Some(LocalWord { role, .. }) => role_code(*role),
        None if looks_typed_at_random(base) || is_first_label(base, domain) => Some(Code::LooksMadeUp),
        None => None,
    }
}

fn role_code(role: Role) -> Option<Code> {
    match role {
        Role::None => None,
        Role::Account(_) => Some(Code::RoleAccount),
        Role::NoReply => Some(Code::NoReply),
    }
}

#[inline]
fn is_first_label(base: &[u8], domain: &[u8]) -> bool {
    domain.get(base.len()) == Some(&b'.') && domain.starts_with(base)
}

fn first_label(domain: &[u8]) -> &[u8] {
    domain.split(|&b| b == b'.').next().unwrap_or_default()
}

/// Whether it is one character over and over, or a run along a row of the keyboard: `aaaa`, `asdfgh`, `qwertz`, `123456`.
pub(crate) fn looks_typed_at_random(base: &[u8]) -> bool {
    let [first, second, ..] = *base else { return false };
    if first == second {
        return base.len() >= 3 && base.iter().all(|&b| b == first);
    }
    base.len() >= 4
        && base[..4].windows(2).all(|pair| is_right_of(pair[0], pair[1]))
        && ROWS.iter().any(|row| memchr::memchr(first, row).is_some_and(|at| row[at..].starts_with(base)))
}

/// Whether its first two characters do not speak against that.
#[inline]
fn may_be_typed_at_random(base: &[u8]) -> bool {
    matches!(*base, [first, second, ..] if first == second || is_right_of(first, second))
}

#[inline]
fn is_right_of(left: u8, right: u8) -> bool {
    RIGHT_OF[usize::from(left & 0x7F)][usize::from(right >> 6 & 1)] >> (right & 63) & 1 == 1
}

/// The rows of the keyboards in use.
const ROWS: [&[u8]; 7] =
    [b"qwertyuiop", b"qwertzuiop", b"azertyuiop", b"asdfghjkl", b"yxcvbnm", b"zxcvbnm", b"1234567890"];

/// For each key those to its right, one bit each: most local parts leave at this look-up.
static RIGHT_OF: [[u64; 2]; 128] = {
    let mut table = [[0; 2]; 128];
    let mut row = 0;
    while row < ROWS.len() {
        let mut key = 0;
        while key + 1 < ROWS[row].len() {
            let next = ROWS[row][key + 1];
            table[ROWS[row][key] as usize][(next >> 6) as usize] |= 1 << (next & 63);
            key += 1;
        }
        row += 1;
    }
    table
};

/// Whether a word of a local part, in lower case, is one that no person is called.
pub(crate) fn is_no_name(word: &[u8]) -> bool {
    find(word).is_some() || NO_NAMES.contains(word)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Those that leave early are none of which anything is said.
    #[test]
    fn nothing_is_missed_at_the_first_look() {
        let runs = ROWS.iter().flat_map(|row| (0..row.len()).map(|start| &row[start..]));
        let known = all().map(|(word, _)| word.as_bytes());
        for base in known.chain(runs).chain([&b"zzz"[..], b"aa", b"a", b"", b"host"]) {
            for domain in ["host.com", "none.com"] {
                assert_eq!(
                    code(base, domain.as_bytes()),
                    said(base, domain.as_bytes()),
                    "{}",
                    base.escape_ascii()
                );
            }
        }
    }

    #[test]
    fn words_and_runs() {
        for (base, domain, code) in [
            ("none", "none.com", Some(Code::Placeholder)),
            ("none", "host.com", None),
            ("noemail", "host.com", Some(Code::Placeholder)),
            ("test", "host.com", Some(Code::LooksMadeUp)),
            ("asdf", "host.com", Some(Code::LooksMadeUp)),
            ("asda", "host.com", None),
            ("qwertz", "host.com", Some(Code::LooksMadeUp)),
            ("xxxx", "host.com", Some(Code::LooksMadeUp)),
            ("12345", "qq.com", Some(Code::LooksMadeUp)),
            ("a", "a.com", Some(Code::LooksMadeUp)),
            ("info", "host.com", Some(Code::RoleAccount)),
            ("no-reply", "host.com", Some(Code::NoReply)),
            ("ada.lovell", "host.com", None),
        ] {
            assert_eq!(super::code(base.as_bytes(), domain.as_bytes()), code, "{base}@{domain}");
        }
    }
}
