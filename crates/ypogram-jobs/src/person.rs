//! Whose record it is: a person's name as it stands in name fields, told apart whatever its order, letter case or accents.

use std::sync::LazyLock;

use unicode_normalization::UnicodeNormalization;
use ypogram_core::Hasher;
use ypogram_tables::{Record, Result};

use crate::fields::FieldPlan;
use crate::reading::Reading;

/// The fields that name a person, as places in the plan.
#[derive(Clone, Debug, Default)]
pub(crate) struct PersonFields {
    fields: Vec<usize>,
}

impl PersonFields {
    /// Those that are named, else those whose names say so.
    ///
    /// # Errors
    /// Where one that is named does not exist.
    pub(crate) fn settle(names: &[String], plan: &FieldPlan, reading: &Reading) -> Result<Self> {
        if names.is_empty() {
            let fields =
                (0..plan.fields.len()).filter(|&field| names_a_person(&plan.fields[field])).collect();
            return Ok(PersonFields { fields });
        }
        let fields = names.iter().map(|name| plan.place_of(name, reading, "--person"));
        Ok(PersonFields { fields: fields.collect::<Result<_>>()? })
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.fields.is_empty()
    }

    /// The fields' names.
    pub(crate) fn names(&self, plan: &FieldPlan) -> Vec<String> {
        self.fields.iter().map(|&field| plan.fields[field].clone()).collect()
    }

    /// What `record` says in these fields.
    pub(crate) fn cells<'c>(&self, record: Record<'c>, source: usize, plan: &FieldPlan) -> Vec<&'c [u8]> {
        self.fields.iter().filter_map(|&field| plan.cell(record, source, field)).collect()
    }

    /// A hash of the person that `record` names; 0 where it names none. Words count in whatever order they stand.
    pub(crate) fn hash(&self, record: Record<'_>, source: usize, plan: &FieldPlan, hasher: Hasher) -> u64 {
        let mut sum = 0_u64;
        for &field in &self.fields {
            if let Some(cell) = plan.cell(record, source, field) {
                each_word(cell, |word| sum = sum.wrapping_add(hasher.hash_short(word) | 1));
            }
        }
        sum
    }
}

/// Whether a field of that name holds names of persons.
fn names_a_person(field: &str) -> bool {
    const NAMES: &[&str] = &[
        "name",
        "fullname",
        "firstname",
        "lastname",
        "givenname",
        "familyname",
        "forename",
        "surname",
        "middlename",
        "membername",
        "contactname",
        "personname",
        "person",
        "vorname",
        "nachname",
        "prenom",
        "prénom",
        "nom",
        "nombre",
        "apellido",
        "apellidos",
        "cognome",
        "nome",
        "voornaam",
        "achternaam",
        "imie",
        "nazwisko",
    ];
    let plain: String = field.to_lowercase().chars().filter(|c| c.is_alphanumeric()).collect();
    NAMES.contains(&plain.as_str())
}

/// Calls `see` with each word of a name: lower case, without accents, signs and titles.
fn each_word(cell: &[u8], mut see: impl FnMut(&[u8])) {
    let mut see = |word: &[u8]| {
        if !word.is_empty() && !is_title(word) {
            see(word);
        }
    };
    let mut plain = [0; LONGEST_PLAIN];
    if let Some(octets) = without_accents(cell, &mut plain) {
        return plain[..octets].split(|&b| b == 0).for_each(see);
    }
    let text: String =
        String::from_utf8_lossy(cell).nfkd().filter(|c| !is_mark(*c)).collect::<String>().to_lowercase();
    text.split(|c: char| !c.is_alphanumeric()).for_each(|word| see(word.as_bytes()));
}

/// Longer cells are not looked at the short way.
const LONGEST_PLAIN: usize = 96;

/// Writes `cell` to `out` in lower case and without accents, a zero for what is no part of a word, where it has ASCII and Latin
/// letters only; gives how many octets that are.
fn without_accents(cell: &[u8], out: &mut [u8; LONGEST_PLAIN]) -> Option<usize> {
    if cell.len() > LONGEST_PLAIN {
        return None;
    }
    if cell.is_ascii() {
        out.iter_mut().zip(cell).for_each(|(out, &b)| *out = in_a_word(b));
        return Some(cell.len());
    }
    let (mut read, mut written) = (0, 0);
    while let Some(&b) = cell.get(read) {
        if b < 0x80 {
            out[written] = in_a_word(b);
            (read, written) = (read + 1, written + 1);
            continue;
        }
        let row = LATIN.get(usize::from(b).checked_sub(0xC3)?)?;
        let [first, second] =
            *row.get(usize::from(cell.get(read + 1)? ^ 0x80)).filter(|letter| letter[0] != 0)?;
        out[written] = first;
        written += 1;
        if second != 0 {
            out[written] = second;
            written += 1;
        }
        read += 2;
    }
    Some(written)
}

/// The Latin letters from U+00C0 on that are two octets in UTF-8, by the first octet less 0xC3 and the second less 0x80: in lower
/// case and without accents, in one octet or two. Zeros stand for one that takes more, or is no part of a word.
static LATIN: LazyLock<[[[u8; 2]; 64]; 7]> = LazyLock::new(|| {
    let plain = |c: char| {
        let letters: String = c.nfkd().filter(|c| !is_mark(*c)).collect::<String>().to_lowercase();
        match *letters.as_bytes() {
            _ if !letters.chars().all(char::is_alphanumeric) => [0, 0],
            [one] => [one, 0],
            [one, other] => [one, other],
            _ => [0, 0],
        }
    };
    std::array::from_fn(|row| {
        let first = (row as u32 + 3) << 6;
        std::array::from_fn(|nth| char::from_u32(first + nth as u32).map_or([0, 0], plain))
    })
});

/// The ASCII letter in lower case, or the digit; 0 for other characters. No look-up, so that many are done at once.
#[inline]
fn in_a_word(b: u8) -> u8 {
    let lower = b | 0x20;
    match (lower.wrapping_sub(b'a') < 26, b.wrapping_sub(b'0') < 10) {
        (true, _) => lower,
        (_, true) => b,
        _ => 0,
    }
}

fn is_title(word: &[u8]) -> bool {
    word.len() <= 4
        && matches!(
            word,
            b"mr" | b"mrs" | b"ms" | b"miss" | b"dr" | b"prof" | b"herr" | b"frau" | b"mme" | b"sir"
        )
}

fn is_mark(c: char) -> bool {
    unicode_normalization::char::is_combining_mark(c)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_person_however_written() {
        let words = |cell: &str| {
            let mut words: Vec<Vec<u8>> = Vec::new();
            each_word(cell.as_bytes(), |word| words.push(word.to_vec()));
            words.sort_unstable();
            words
        };
        for (one, other, same) in [
            ("Ada Lovell", "LOVELL, Ada", true),
            ("Dr. Zoë Harrow", "Zoe Harrow", true),
            ("Ada Lovell", "Bea Lovell", false),
            ("", " - ", true),
            ("ZOË  Łukasz-Ærø", "zoe łukasz ærø", true),
            ("Zoe\u{308} Weiß", "ZOË weiß", true),
        ] {
            assert_eq!(words(one) == words(other), same, "{one} / {other}");
        }
        // The short way says what the long one says of each letter.
        for c in ('\0'..'\u{300}').filter(|c| *c < '\u{80}' || *c >= 'À') {
            let long = words(&format!("x{c}y \u{3B1}"));
            let mut short = words(&format!("x{c}y"));
            short.push("\u{3B1}".as_bytes().to_vec());
            short.sort_unstable();
            assert_eq!(short, long, "{c:?}");
        }
        for (field, is) in
            [("First name", true), ("full_name", true), ("Domain name", false), ("username", false)]
        {
            assert_eq!(names_a_person(field), is, "{field}");
        }
    }
}
