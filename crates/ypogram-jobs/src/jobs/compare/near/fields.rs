//! The fields by which records are like one another: what somebody named, else those whose names say what they hold.

use ypogram_io::{Error, Record, Result, nearest};

use crate::jobs::compare::near::likeness::Traits;
use crate::plan::contact_trait::ContactTrait;
use crate::plan::fields::FieldPlan;

/// The fields of one side, as places in its plan.
#[derive(Clone, Debug)]
pub(super) struct NearFields {
    /// By [`ContactTrait`].
    places: [Vec<usize>; 3],
    addresses: Vec<usize>,
}

impl NearFields {
    /// Those of `plan`, where a field that is in `named` counts before those whose names say so.
    pub(super) fn of(plan: &FieldPlan, named: &[(ContactTrait, String)]) -> Self {
        let is_free = |place: &usize| !plan.address.contains(place);
        let places = ContactTrait::ALL.map(|what| {
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
pub(super) fn refuse_unknown(named: &[(ContactTrait, String)], plans: [Option<&FieldPlan>; 2]) -> Result<()> {
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
