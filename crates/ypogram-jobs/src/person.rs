//! Whose record it is: a person's name as it stands in name fields, told apart whatever its order, letter case or accents.

use ypogram_core::{Hasher, names};
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

    /// The fields, as places in the plan.
    pub(crate) fn places(self) -> Vec<usize> {
        self.fields
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
        let cells = self.fields.iter().filter_map(|&field| plan.cell_and_behind(record, source, field));
        cells.fold(0, |sum, (from, octets)| sum.wrapping_add(names::hash_of_words(from, octets, hasher)))
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn fields_that_name_a_person() {
        for (field, is) in
            [("First name", true), ("full_name", true), ("Domain name", false), ("username", false)]
        {
            assert_eq!(names_a_person(field), is, "{field}");
        }
    }
}
