//! The house's own address formats, and where a record says of whom its address is.

use ypogram_core::house_format::{HouseFormat, HousePerson, HouseVerdict};
use ypogram_core::names;
use ypogram_io::{Record, Result};

use crate::engine::reading::Reading;
use crate::plan::fields::FieldPlan;
use crate::plan::person_field_names::{names_a_family_name, names_a_given_name, names_a_person};

/// The formats that addresses are held against.
#[derive(Clone, Debug, Default)]
pub struct HouseFormats {
    /// In the order in which they were given.
    pub formats: Vec<HouseFormat>,
    /// Addresses at domains that are none of the house's are held against the first as well.
    pub everyone: bool,
    /// The field with the given name; found by its name where none is named.
    pub given: Option<String>,
    /// The field with the family name; found by its name where none is named.
    pub family: Option<String>,
    /// Fields that name a person, from which the names are taken where there are no fields of them.
    pub persons: Vec<String>,
}

impl HouseFormats {
    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.formats.is_empty()
    }

    /// The format that an address at `domain` (in lower-case A-labels) is held against, by place: one of that domain, else one that is near it.
    pub fn for_domain(&self, domain: &str) -> Option<usize> {
        let own = self.formats.iter().position(|format| format.domains().any(|own| own == domain));
        let near = || self.formats.iter().position(|format| format.is_near(domain));
        own.or_else(near).or((self.everyone && !self.is_empty()).then_some(0))
    }

    /// What comes of holding `address`, in standard form, against the format for its domain; none where there is no such format.
    pub fn judge(&self, address: &str, beside: &BesideAddress) -> Option<HouseVerdict> {
        let (_, domain) = address.rsplit_once('@')?;
        let format = &self.formats[self.for_domain(&domain.to_lowercase())?];
        let value = |field: &String| {
            let found = beside.fields.iter().find(|(name, _)| name == field);
            found.map_or("", |(_, value)| value.as_str())
        };
        let fields: Vec<&str> = format.fields().iter().map(value).collect();
        Some(format.judge(address, &format.person(&beside.given, &beside.family, &fields)))
    }

    /// The names among `fields`, each with its value: of the fields that are named for them, else of those called so, else the parts of whole
    /// names.
    pub fn beside(&self, fields: Vec<(String, String)>) -> BesideAddress {
        let value = |named: &Option<String>, is_one: fn(&str) -> bool| {
            let is_it = |field: &str| named.as_ref().map_or_else(|| is_one(field), |named| named == field);
            fields.iter().find(|(field, _)| is_it(field)).map(|(_, value)| value.trim().to_owned())
        };
        let (given, family) =
            (value(&self.given, names_a_given_name), value(&self.family, names_a_family_name));
        let (given, family) = match (given, family) {
            (None, None) => {
                let is_whole = |field: &String| match self.persons.is_empty() {
                    true => names_a_person(field),
                    false => self.persons.contains(field),
                };
                let whole = fields.iter().filter(|(field, _)| is_whole(field));
                names::split_whole(&whole.map(|(_, value)| value.trim()).collect::<Vec<_>>().join(" "))
            }
            (given, family) => (given.unwrap_or_default(), family.unwrap_or_default()),
        };
        BesideAddress { given, family, fields }
    }
}

/// What stands beside an address and tells whose it is; empty where it is not known.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct BesideAddress {
    /// The given name.
    pub given: String,
    /// The family name.
    pub family: String,
    /// Fields with their values.
    pub fields: Vec<(String, String)>,
}

/// The same with the places of the fields.
#[derive(Clone, Debug)]
pub(crate) struct HousePlan {
    pub(crate) formats: HouseFormats,
    given: Vec<usize>,
    family: Vec<usize>,
    /// Whole names.
    whole: Vec<usize>,
    /// For each format the places of the fields that it names.
    fields: Vec<Vec<usize>>,
}

impl HousePlan {
    /// The plan for the fields of `plan`; none where there are no formats.
    ///
    /// # Errors
    /// Where a field is named that does not exist.
    pub(crate) fn settle(
        formats: &HouseFormats,
        plan: &FieldPlan,
        reading: &Reading,
    ) -> Result<Option<Self>> {
        if formats.is_empty() {
            return Ok(None);
        }
        Self::of_names(formats, plan, reading).map(Some)
    }

    /// The same without regard to formats, of which there may be none.
    ///
    /// # Errors
    /// Where a field is named that does not exist.
    pub(crate) fn of_names(formats: &HouseFormats, plan: &FieldPlan, reading: &Reading) -> Result<Self> {
        let named = |name: &Option<String>, is_one: fn(&str) -> bool, what: &str| -> Result<Vec<usize>> {
            match name {
                Some(name) => Ok(vec![plan.place_of(name, reading, &format!("{what} ="))?]),
                None => {
                    Ok((0..plan.fields.len()).filter(|&field| is_one(&plan.fields[field])).take(1).collect())
                }
            }
        };
        let given = named(&formats.given, names_a_given_name, "given")?;
        let family = named(&formats.family, names_a_family_name, "family")?;
        let whole = match given.is_empty() && family.is_empty() {
            true => plan.fields_of_persons(&formats.persons, reading)?,
            false => Vec::new(),
        };
        let of_format = |format: &HouseFormat| -> Result<Vec<usize>> {
            format.fields().iter().map(|field| plan.place_of(field, reading, "field")).collect()
        };
        let fields = formats.formats.iter().map(of_format).collect::<Result<_>>()?;
        Ok(HousePlan { formats: formats.clone(), given, family, whole, fields })
    }

    /// Whether an address in lower case certainly fits the format at `place`, told without looking longer.
    #[inline]
    pub(crate) fn certainly_fits(
        &self,
        place: usize,
        (local, domain): (&[u8], &[u8]),
        record: Record<'_>,
        plan: &FieldPlan,
    ) -> bool {
        let cell = |field: usize| plan.cell(record, field).unwrap_or_default().trim_ascii();
        let names = match (&self.whole[..], &self.given[..], &self.family[..]) {
            ([], [given], [family]) => Some((cell(*given), cell(*family))),
            ([whole], ..) => names::split_plain(cell(*whole)),
            _ => None,
        };
        let known = names.filter(|(given, family)| !given.is_empty() && !family.is_empty());
        known.is_some_and(|(given, family)| {
            self.formats.formats[place].certainly_fits(local, domain, given, family)
        })
    }

    /// Whether some field holds names.
    pub(crate) fn has_names(&self) -> bool {
        !(self.whole.is_empty() && (self.given.is_empty() || self.family.is_empty()))
    }

    /// The given name and the family name that `record` has, each empty where it has none.
    pub(crate) fn names(&self, record: Record<'_>, plan: &FieldPlan) -> (String, String) {
        let all = |fields: &[usize]| {
            fields.iter().map(|field| text(*field, record, plan)).collect::<Vec<_>>().join(" ")
        };
        match &self.whole[..] {
            [] => (all(&self.given), all(&self.family)),
            whole => names::split_whole(&all(whole)),
        }
    }

    /// What `record` says of its person, for the format at `place`.
    pub(crate) fn person(&self, place: usize, record: Record<'_>, plan: &FieldPlan) -> HousePerson {
        let (given, family) = self.names(record, plan);
        let fields: Vec<String> = self.fields[place].iter().map(|field| text(*field, record, plan)).collect();
        let fields: Vec<&str> = fields.iter().map(String::as_str).collect();
        self.formats.formats[place].person(&given, &family, &fields)
    }
}

fn text(field: usize, record: Record<'_>, plan: &FieldPlan) -> String {
    String::from_utf8_lossy(plan.cell(record, field).unwrap_or_default()).trim().to_owned()
}
