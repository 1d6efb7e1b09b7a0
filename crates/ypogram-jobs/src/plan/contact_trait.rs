//! Fields that hold names, telephone numbers or streets, by what they are called.

use crate::plan::person_field_names::names_a_person;

/// What a field says of a person beside the address.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ContactTrait {
    /// The name of a person.
    Name,
    /// A telephone number.
    Telephone,
    /// The street and the number of a house.
    Street,
}

impl ContactTrait {
    /// All of them.
    pub const ALL: [ContactTrait; 3] = [ContactTrait::Name, ContactTrait::Telephone, ContactTrait::Street];

    /// The word in options.
    pub const fn word(self) -> &'static str {
        match self {
            ContactTrait::Name => "name",
            ContactTrait::Telephone => "telephone",
            ContactTrait::Street => "street",
        }
    }

    /// Whether a field of that name holds it.
    pub(crate) fn is_named_by(self, field: &str) -> bool {
        let plain: String = field.to_lowercase().chars().filter(|c| c.is_alphanumeric()).collect();
        let plain = plain.trim_end_matches(|c: char| c.is_ascii_digit());
        match self {
            ContactTrait::Name => names_a_person(field),
            ContactTrait::Telephone => TELEPHONES.contains(&plain),
            ContactTrait::Street => STREETS.contains(&plain),
        }
    }
}

const TELEPHONES: &[&str] = &[
    "phone",
    "telephone",
    "tel",
    "mobile",
    "cell",
    "cellphone",
    "mobilephone",
    "phonenumber",
    "telephonenumber",
    "homephone",
    "workphone",
    "telefon",
    "telefonnummer",
    "handy",
    "mobil",
    "mobiltelefon",
    "téléphone",
    "portable",
    "teléfono",
    "telefono",
    "cellulare",
    "telefoon",
    "mobiel",
    "telefone",
];

const STREETS: &[&str] = &[
    "street",
    "streetaddress",
    "address",
    "addressline",
    "postaladdress",
    "homeaddress",
    "road",
    "straße",
    "strasse",
    "anschrift",
    "adresse",
    "rue",
    "calle",
    "via",
    "indirizzo",
    "straat",
    "adres",
    "ulica",
];
