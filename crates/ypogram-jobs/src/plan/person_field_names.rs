//! Fields that hold names of persons, by what they are called.

/// Whether a field of that name holds names of persons.
pub(crate) fn names_a_person(field: &str) -> bool {
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
    NAMES.contains(&&*plain(field))
}

/// Whether a field of that name holds given names alone.
pub(crate) fn names_a_given_name(field: &str) -> bool {
    const NAMES: &[&str] = &[
        "given",
        "givenname",
        "givennames",
        "first",
        "firstname",
        "firstnames",
        "forename",
        "forenames",
        "vorname",
        "vornamen",
        "rufname",
        "prenom",
        "prénom",
        "nombre",
        "voornaam",
        "imie",
        "imię",
    ];
    NAMES.contains(&&*plain(field))
}

/// Whether a field of that name holds family names alone.
pub(crate) fn names_a_family_name(field: &str) -> bool {
    const NAMES: &[&str] = &[
        "family",
        "familyname",
        "last",
        "lastname",
        "surname",
        "nachname",
        "familienname",
        "nom",
        "nomdefamille",
        "apellido",
        "apellidos",
        "cognome",
        "achternaam",
        "nazwisko",
    ];
    NAMES.contains(&&*plain(field))
}

fn plain(field: &str) -> String {
    field.to_lowercase().chars().filter(|c| c.is_alphanumeric()).collect()
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
