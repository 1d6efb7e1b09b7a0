//! The fields by which records are like one another: what somebody named, else those whose names say what they hold.

use ypogram_io::{Error, Record, Result, nearest};

use crate::jobs::compare::near::likeness::Traits;
use crate::plan::fields::FieldPlan;
use crate::plan::person_field_names::names_a_person;

/// What probable twins are found by, beside the address.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NearTrait {
    /// The name of a person.
    Name,
    /// A telephone number.
    Telephone,
    /// The street and the number of a house.
    Street,
}

impl NearTrait {
    /// All of them.
    pub const ALL: [NearTrait; 3] = [NearTrait::Name, NearTrait::Telephone, NearTrait::Street];

    /// The word in options.
    pub const fn word(self) -> &'static str {
        match self {
            NearTrait::Name => "name",
            NearTrait::Telephone => "telephone",
            NearTrait::Street => "street",
        }
    }

    /// Whether a field of that name holds it.
    fn is_named_by(self, field: &str) -> bool {
        let plain: String = field.to_lowercase().chars().filter(|c| c.is_alphanumeric()).collect();
        let plain = plain.trim_end_matches(|c: char| c.is_ascii_digit());
        match self {
            NearTrait::Name => names_a_person(field),
            NearTrait::Telephone => TELEPHONES.contains(&plain),
            NearTrait::Street => STREETS.contains(&plain),
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

/// The fields of one side, as places in its plan.
#[derive(Clone, Debug)]
pub(super) struct NearFields {
    /// By [`NearTrait`].
    places: [Vec<usize>; 3],
    addresses: Vec<usize>,
}

impl NearFields {
    /// Those of `plan`, where a field that is in `named` counts before those whose names say so.
    pub(super) fn of(plan: &FieldPlan, named: &[(NearTrait, String)]) -> Self {
        let is_free = |place: &usize| !plan.address.contains(place);
        let places = NearTrait::ALL.map(|what| {
            let named = named.iter().filter(|(of, _)| *of == what);
            let named = named.filter_map(|(_, name)| place_of(plan, name)).collect::<Vec<_>>();
            if !named.is_empty() {
                return named;
            }
            (0..plan.fields.len())
                .filter(is_free)
                .filter(|&place| what.is_named_by(&plan.fields[place]))
                .collect()
        });
        NearFields { places, addresses: [&plan.address[..], &plan.text].concat() }
    }

    /// What `record` says in these fields.
    pub(super) fn traits(&self, record: Record<'_>, plan: &FieldPlan) -> Traits {
        let text = |places: &[usize], between: &str| {
            let cells = places.iter().filter_map(|&place| plan.cell(record, place));
            let cells = cells.map(|cell| String::from_utf8_lossy(cell.trim_ascii()).into_owned());
            cells.filter(|cell| !cell.is_empty()).collect::<Vec<_>>().join(between)
        };
        let [names, telephones, streets] = &self.places;
        Traits {
            name: text(names, " "),
            telephone: text(telephones, ", "),
            street: text(&streets[..streets.len().min(1)], " "),
            address: text(&self.addresses, ", "),
        }
    }
}

fn place_of(plan: &FieldPlan, name: &str) -> Option<usize> {
    plan.fields.iter().position(|field| field.eq_ignore_ascii_case(name))
}

/// Refuses a field that is on neither side.
///
/// # Errors
/// Where one is.
pub(super) fn refuse_unknown(named: &[(NearTrait, String)], plans: [Option<&FieldPlan>; 2]) -> Result<()> {
    let plans: Vec<&FieldPlan> = plans.into_iter().flatten().collect();
    for (what, name) in named {
        if plans.iter().any(|plan| place_of(plan, name).is_some()) {
            continue;
        }
        let fields = plans.iter().flat_map(|plan| plan.fields.iter().map(String::as_str));
        let hint = match nearest(name, fields) {
            Some(like) => format!("did you mean --near-field {}={like}?", what.word()),
            None => "name a field of the new or the known records".to_owned(),
        };
        return Err(Error::unusable(
            format!("‘{name}’ is a field of neither the new records nor the known ones"),
            hint,
        ));
    }
    Ok(())
}
