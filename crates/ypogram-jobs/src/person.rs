//! Whose record it is: a person's name as it stands in name fields, told apart whatever its order, letter case or accents.

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
    let mut lower = [0; 64];
    if cell.is_ascii() && cell.len() < lower.len() {
        let mut start = 0;
        for (at, &b) in cell.iter().enumerate() {
            lower[at] = IN_A_WORD[usize::from(b)];
            if lower[at] == 0 {
                see(&lower[start..at]);
                start = at + 1;
            }
        }
        return see(&lower[start..cell.len()]);
    }
    let text: String =
        String::from_utf8_lossy(cell).nfkd().filter(|c| !is_mark(*c)).collect::<String>().to_lowercase();
    text.split(|c: char| !c.is_alphanumeric()).for_each(|word| see(word.as_bytes()));
}

/// Letters in lower case and digits; 0 for other characters.
static IN_A_WORD: [u8; 256] = {
    let mut table = [0; 256];
    let mut b = 0_u8;
    while b < 0x80 {
        if b.is_ascii_alphanumeric() {
            table[b as usize] = b.to_ascii_lowercase();
        }
        b += 1;
    }
    table
};

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
        ] {
            assert_eq!(words(one) == words(other), same, "{one} / {other}");
        }
        for (field, is) in
            [("First name", true), ("full_name", true), ("Domain name", false), ("username", false)]
        {
            assert_eq!(names_a_person(field), is, "{field}");
        }
    }
}
