//! The name that a local part shows.

use std::borrow::Cow;

use serde::{Deserialize, Serialize};

use super::{capitals, is_particle, titles};
use crate::data::local_words;

/// How much of a name a local part shows.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum NameConfidence {
    /// No name, or nothing that could be recognised from one.
    #[default]
    None,
    /// One word, which may be a first or a last name.
    OneWord,
    /// An initial and a word.
    InitialAndWord,
    /// A first and a last name.
    TwoWords,
}

impl NameConfidence {
    /// Every one, from least to most.
    pub const ALL: [NameConfidence; 4] = [
        NameConfidence::None,
        NameConfidence::OneWord,
        NameConfidence::InitialAndWord,
        NameConfidence::TwoWords,
    ];

    /// The word in outputs.
    pub const fn word(self) -> &'static str {
        match self {
            NameConfidence::None => "none",
            NameConfidence::OneWord => "one-word",
            NameConfidence::InitialAndWord => "initial-and-word",
            NameConfidence::TwoWords => "two-words",
        }
    }
}

/// Which name stands first in local parts.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum NameOrder {
    /// The first name, as in `ada.lovell`.
    #[default]
    FirstNameFirst,
    /// The family name, as in `lovell.ada`.
    FamilyFirst,
}

/// A name with proper capitals.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct DerivedName {
    /// The first name, or its initial with a dot.
    pub first: String,
    /// What stands between.
    pub middle: String,
    /// The last name with its particles.
    pub last: String,
    /// How much of a name there was.
    pub confidence: NameConfidence,
}

/// The name that the local part `base` shows, as it was written, without its tag. Never one of a role account, of a word typed where
/// no address was at hand, or of a string that nobody could speak.
///
/// ```
/// use ypogram_core::names::{NameConfidence, NameOrder, derive};
/// let name = derive("shona.mcintyre83", NameOrder::FirstNameFirst);
/// assert_eq!((&*name.first, &*name.last), ("Shona", "McIntyre"));
/// assert_eq!(derive("v.van-der-berg", NameOrder::FirstNameFirst).last, "van der Berg");
/// assert_eq!(derive("info", NameOrder::FirstNameFirst).confidence, NameConfidence::None);
/// ```
pub fn derive(base: &str, order: NameOrder) -> DerivedName {
    let lower = in_lower_case(base);
    let (Some(words), false) = (words_of(&lower), base.starts_with('"')) else {
        return DerivedName::default();
    };
    if titles::address_a_couple(&words) {
        return DerivedName::default();
    }
    let (words, addressed) = titles::left_out(&words);
    let is_word = local_words::find(lower.as_bytes()).is_some();
    if is_word || words.iter().any(|word| is_no_name(word)) {
        return DerivedName::default();
    }
    let mut name = name_of(grouped(words), order);
    if addressed && words.len() == 1 {
        // ‘mrs.lovell’
        name.last = std::mem::take(&mut name.first);
    }
    name
}

/// Stands where a small letter was followed by a capital: `AdaLovell` has two words.
const BORDER: char = '\u{1F}';

/// In lower case, with a border where a word in capitals and small letters ends: not within `McIntyre`.
fn in_lower_case(base: &str) -> Cow<'_, str> {
    if !base.bytes().any(|b| b.is_ascii_uppercase() || !b.is_ascii()) {
        return Cow::Borrowed(base);
    }
    let mut out = String::with_capacity(base.len() + 4);
    let (mut start, mut before_is_small) = (0, false);
    for c in base.chars() {
        if c.is_uppercase() && before_is_small && !matches!(&out[start..], "mc" | "mac") {
            out.push(BORDER);
            start = out.len();
        } else if !c.is_alphabetic() {
            start = out.len() + c.len_utf8();
        }
        before_is_small = c.is_lowercase();
        out.extend(c.to_lowercase());
    }
    Cow::Owned(out)
}

/// The words without digits at their ends; none where digits stand inside a word, or there are so many that it is no name.
fn words_of(lower: &str) -> Option<Vec<&str>> {
    let has_stronger = lower.bytes().any(|b| matches!(b, b'.' | b'_'));
    let mut words = Vec::with_capacity(4);
    let mut letters = 0;
    for piece in lower.split(|c| matches!(c, '.' | '_' | BORDER) || c == '-' && !has_stronger) {
        let bare = piece.trim_matches(|c: char| c.is_ascii_digit() || c == '-');
        let count = bare.chars().count();
        // `12b` is a number, not an initial.
        if !bare.chars().all(is_of_names) || count == 1 && piece.len() > bare.len() {
            return None;
        }
        letters += count;
        if has_stronger
            && bare.contains('-')
            && bare.split('-').any(|word| is_particle(word) || titles::is_outside_mark(word))
        {
            // `van-der-berg` behind a dot is one name of several words; in `lovell-ext` the last is none.
            words.extend(bare.split('-').filter(|word| !word.is_empty()));
        } else if !bare.is_empty() {
            words.push(bare);
        }
    }
    // As many digits as letters are no year behind a name but a number.
    let digits = lower.bytes().filter(u8::is_ascii_digit).count();
    (digits < letters.max(5)).then_some(words)
}

fn is_of_names(c: char) -> bool {
    c.is_alphabetic()
        || matches!(c, '-' | '\'' | '’')
        || !c.is_ascii() && unicode_normalization::char::is_combining_mark(c)
}

/// Whether the word tells that this is no person: a role account, a couple, or a string that nobody could speak.
fn is_no_name(word: &str) -> bool {
    const JOINING: [&str; 9] = ["and", "und", "et", "the", "familie", "family", "famille", "no", "not"];
    let chars = word.chars().count();
    if chars <= 7 && JOINING.contains(&word) {
        return true;
    }
    if chars == 1 || is_particle(word) {
        return false;
    }
    let says_no =
        local_words::is_no_name(word.as_bytes()) || local_words::looks_typed_at_random(word.as_bytes());
    says_no || chars > 24 || cannot_be_spoken(word)
}

/// No vowel in four letters or more, more than five consonants in a row, or one letter three times over.
fn cannot_be_spoken(word: &str) -> bool {
    let is_vowel = |c: char| !c.is_ascii() || matches!(c, 'a' | 'e' | 'i' | 'o' | 'u' | 'y');
    let (mut letters, mut vowels, mut row, mut longest) = (0, 0, 0, 0);
    let (mut before, mut times, mut most_times) = (' ', 0, 0);
    for c in word.chars().filter(|c| c.is_alphabetic()) {
        if !c.is_ascii() && !is_latin(c) {
            // Other scripts have other letters; what is no vowel here may be one there.
            return false;
        }
        letters += 1;
        vowels += usize::from(is_vowel(c));
        row = if is_vowel(c) { 0 } else { row + 1 };
        longest = longest.max(row);
        times = if c == before { times + 1 } else { 1 };
        most_times = most_times.max(times);
        before = c;
    }
    let no_vowel = letters > 3 && vowels == 0 && !matches!(word, "krch" | "smrt" | "vlk");
    no_vowel || longest > 5 || most_times > 2
}

fn is_latin(c: char) -> bool {
    ('\u{C0}'..='\u{24F}').contains(&c) || ('\u{1E00}'..='\u{1EFF}').contains(&c)
}

/// A word of a name with the particles before it.
struct Group<'a> {
    particles: &'a [&'a str],
    word: &'a str,
}

impl Group<'_> {
    fn is_initial(&self) -> bool {
        self.particles.is_empty() && self.word.chars().nth(1).is_none()
    }

    fn shown(&self) -> String {
        if self.is_initial() {
            return format!("{}.", self.word.to_uppercase());
        }
        if self.particles.is_empty() {
            return capitals(self.word);
        }
        let particles = self.particles.iter().map(|particle| format!("{particle} "));
        particles.collect::<String>() + &capitals(self.word)
    }
}

fn grouped<'a>(words: &'a [&'a str]) -> Vec<Group<'a>> {
    let mut groups: Vec<Group<'a>> = Vec::with_capacity(words.len());
    let mut start = 0;
    for (place, word) in words.iter().enumerate() {
        // A particle needs a word behind it; in the first of two words it may be a first name, such as Al or Ben.
        let may_be_first_name = place == 0 && matches!(*word, "al" | "ben" | "della" | "da" | "di" | "la");
        if !is_particle(word) || place + 1 == words.len() || may_be_first_name {
            groups.push(Group { particles: &words[start..place], word });
            start = place + 1;
        }
    }
    groups
}

fn name_of(mut groups: Vec<Group<'_>>, order: NameOrder) -> DerivedName {
    if order == NameOrder::FamilyFirst && groups.len() > 1 {
        groups.rotate_left(1);
    }
    let initials = groups.iter().filter(|group| group.is_initial()).count();
    match &groups[..] {
        [] => DerivedName::default(),
        [only] if only.is_initial() || only.word.chars().count() < 3 => DerivedName::default(),
        [only] if !only.particles.is_empty() => {
            DerivedName { last: only.shown(), confidence: NameConfidence::OneWord, ..DerivedName::default() }
        }
        [only] => {
            DerivedName { first: only.shown(), confidence: NameConfidence::OneWord, ..DerivedName::default() }
        }
        // Nothing but initials, or so many words that it is a sentence.
        _ if initials == groups.len() || groups.len() > 4 => DerivedName::default(),
        // `lovell.a`: the initial is that of the first name wherever it stands.
        [word, initial] if initial.is_initial() => DerivedName {
            first: initial.shown(),
            last: word.shown(),
            confidence: NameConfidence::InitialAndWord,
            ..DerivedName::default()
        },
        [first, middle @ .., last] => DerivedName {
            first: first.shown(),
            middle: middle.iter().map(Group::shown).collect::<Vec<_>>().join(" "),
            last: last.shown(),
            confidence: match first.is_initial() || last.is_initial() {
                true => NameConfidence::InitialAndWord,
                false => NameConfidence::TwoWords,
            },
        },
    }
}
