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
