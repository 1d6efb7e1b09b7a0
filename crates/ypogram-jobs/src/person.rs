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

    /// A hash of the person that `record` names; 0 where it names none.
    pub(crate) fn hash(&self, record: Record<'_>, source: usize, plan: &FieldPlan, hasher: Hasher) -> u64 {
        let cells = self.fields.iter().filter_map(|&field| plan.cell(record, source, field));
        let mut words: Vec<String> = cells.flat_map(words_of).collect();
        if words.is_empty() {
            return 0;
        }
        words.sort_unstable();
        (hasher.hash(words.join(" ").as_bytes()) as u64).max(1)
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

/// The words of a name: lower case, without accents, signs and titles.
fn words_of(cell: &[u8]) -> Vec<String> {
    const TITLES: &[&str] = &["mr", "mrs", "ms", "miss", "dr", "prof", "herr", "frau", "mme", "sir"];
    if cell.is_ascii() {
        let words = cell.split(|b| !b.is_ascii_alphanumeric()).filter(|word| !word.is_empty());
        let words = words.map(|word| String::from_utf8_lossy(word).to_ascii_lowercase());
        return words.filter(|word| !TITLES.contains(&word.as_str())).collect();
    }
    let text: String =
        String::from_utf8_lossy(cell).nfkd().filter(|c| !is_mark(*c)).collect::<String>().to_lowercase();
    let words = text.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty());
    words.filter(|word| !TITLES.contains(word)).map(str::to_owned).collect()
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
            let mut words = words_of(cell.as_bytes());
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
