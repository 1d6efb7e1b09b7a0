//! Conditions that pick the records behind a figure: `finding=double-dot`, `form=mailto,class=free`.

use ypogram_core::{Class, Code, Form, Repair, Verdict};
use ypogram_tables::{Error, Result};

use crate::fields::FieldPlan;
use crate::picking::Picked;

/// Conditions that all have to be met.
#[derive(Clone, Debug, Default)]
pub struct Conditions {
    conditions: Vec<Condition>,
}

#[derive(Clone, Debug)]
enum Condition {
    Finding(Code),
    Repair(Repair),
    Verdict(Verdict),
    Form(Form),
    Class(Class),
    Field(String),
    Address(bool),
}

/// What can stand before the equals sign.
const KEYS: &str = "finding, repair, verdict, form, class, field, address";

impl Conditions {
    /// Reads `key=value` pairs separated by commas.
    ///
    /// # Errors
    /// Where a key or a value is not known; the message names what there is.
    pub fn read(text: &str) -> Result<Self> {
        let conditions = text.split(',').map(|pair| Condition::read(pair.trim())).collect::<Result<_>>()?;
        Ok(Conditions { conditions })
    }

    /// Whether the record of which `picked` is the address meets them all.
    pub(crate) fn are_met(&self, picked: Option<&Picked>, plan: &FieldPlan) -> bool {
        self.conditions.iter().all(|condition| condition.is_met(picked, plan))
    }
}

impl Condition {
    fn read(pair: &str) -> Result<Self> {
        let Some((key, value)) = pair.split_once('=') else {
            return Err(Error::unusable(
                format!("‘{pair}’ is no condition"),
                format!("write key=value, such as finding=double-dot; the keys are {KEYS}"),
            ));
        };
        let among = |known: Vec<&'static str>| {
            Error::unusable(
                format!("there is no {key} ‘{value}’"),
                format!("known are: {}", known.join(", ")),
            )
        };
        match key {
            "finding" => Code::from_name(value).map(Condition::Finding).ok_or_else(|| {
                Error::unusable(format!("there is no finding ‘{value}’"), "`ypogram rules` shows them all")
            }),
            "repair" => {
                find(Repair::ALL, |repair| repair.name(), value).map(Condition::Repair).map_err(among)
            }
            "verdict" => {
                find(&[Verdict::Accept, Verdict::Review, Verdict::Reject], |verdict| verdict.word(), value)
                    .map(Condition::Verdict)
                    .map_err(among)
            }
            "form" => find(Form::ALL, |form| form.word(), value).map(Condition::Form).map_err(among),
            "class" => find(&Class::ALL, |class| class.word(), value).map(Condition::Class).map_err(among),
            "field" => Ok(Condition::Field(value.to_owned())),
            "address" => find(&[true, false], |yes| if *yes { "yes" } else { "no" }, value)
                .map(Condition::Address)
                .map_err(among),
            _ => Err(Error::unusable(
                format!("‘{key}’ is nothing to show records by"),
                format!("the keys are {KEYS}"),
            )),
        }
    }

    fn is_met(&self, picked: Option<&Picked>, plan: &FieldPlan) -> bool {
        if let Condition::Address(wanted) = self {
            return picked.is_some_and(|picked| picked.verdict.is_usable()) == *wanted;
        }
        let Some(picked) = picked else { return false };
        match self {
            Condition::Finding(code) => picked.codes.contains(*code),
            Condition::Repair(repair) => picked.repairs.contains(*repair),
            Condition::Verdict(verdict) => picked.verdict == *verdict,
            Condition::Form(form) => picked.form == *form,
            Condition::Class(class) => picked.judged.class == Some(*class),
            Condition::Field(field) => plan.fields[picked.field] == *field,
            Condition::Address(_) => true,
        }
    }
}

/// The item of that name, or all names there are.
fn find<T: Copy>(
    items: &[T],
    name: impl Fn(&T) -> &'static str,
    value: &str,
) -> std::result::Result<T, Vec<&'static str>> {
    items.iter().find(|item| name(item) == value).copied().ok_or_else(|| items.iter().map(&name).collect())
}
