//! Conditions that pick the records behind a figure: `finding=double-dot`, `form=mailto,class=free`,
//! `field=notes,address=yes`.

use ypogram_core::{CellKind, Class, Code, Form, Judge, Repair, Verdict, shape};
use ypogram_tables::{Error, Record, Result};

use crate::cell_addresses::CellAddresses;
use crate::fields::{FieldPlan, nearest_field};
use crate::nearest::nearest;
use crate::picking::Picked;

/// Conditions that all have to be met.
///
/// Those about an address are about the record's own. With `field=NAME`, it has to stand in that field, and those about a
/// cell are about the cell in that field; without, about the address fields.
#[derive(Clone, Debug, Default)]
pub struct Conditions {
    field: Option<String>,
    conditions: Vec<Condition>,
    text: String,
}

#[derive(Clone, Debug)]
enum Condition {
    Finding(Code),
    Repair(Repair),
    /// None for records without any address.
    Verdict(Option<Verdict>),
    Form(Form),
    Class(Class),
    Operator(String),
    Domain(String),
    LocalPart(String),
    Usable(Usable),
    Address(bool),
    AtSign(bool),
    Filled(bool),
    Kind(CellKind),
    Shape(String),
    Value(String),
}

/// How a usable address stood.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Usable {
    AsItStands,
    AfterRepair,
    FromText,
}

impl Usable {
    const fn word(self) -> &'static str {
        match self {
            Usable::AsItStands => "as-it-stands",
            Usable::AfterRepair => "after-repair",
            Usable::FromText => "from-text",
        }
    }

    fn of(picked: &Picked) -> Option<Self> {
        match (picked.verdict.is_usable(), picked.from_text, picked.repairs.is_empty()) {
            (false, _, _) => None,
            (true, true, _) => Some(Usable::FromText),
            (true, false, true) => Some(Usable::AsItStands),
            (true, false, false) => Some(Usable::AfterRepair),
        }
    }
}

/// What can stand before the equals sign.
const KEYS: &str = "finding, repair, verdict, usable, form, class, operator, domain, local-part, field, address, at-sign, \
                    filled, kind, shape, value";

impl Conditions {
    /// Reads `key=value` pairs separated by commas. A value with a comma in it goes in double quotes.
    ///
    /// # Errors
    /// Where a key or a value is not known; the message names what there is.
    pub fn read(text: &str) -> Result<Self> {
        let mut conditions = Conditions { text: text.to_owned(), ..Conditions::default() };
        for pair in pairs(text) {
            let (key, value) = pair.split_once('=').ok_or_else(|| {
                Error::unusable(
                    format!("‘{pair}’ is no condition"),
                    format!("write key=value, such as finding=double-dot; the keys are {KEYS}"),
                )
            })?;
            let value = unquoted(value);
            match key {
                "field" => conditions.field = Some(value),
                _ => conditions.conditions.push(Condition::read(key, &value)?),
            }
        }
        Ok(conditions)
    }

    /// How they were written.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// A value as it can stand in a condition.
    pub fn quoted(value: &str) -> String {
        let plain = !value.contains([',', '"']) && value.trim() == value;
        if plain { value.to_owned() } else { format!("\"{}\"", value.replace('"', "\"\"")) }
    }

    /// Makes them ready for the fields of `plan`.
    ///
    /// # Errors
    /// Where the field does not exist.
    pub(crate) fn sieve<'p>(&'p self, plan: &'p FieldPlan, judge: Judge<'p>) -> Result<Sieve<'p>> {
        let field = self.field.as_ref().map(|name| {
            plan.fields.iter().position(|field| field == name).ok_or_else(|| {
                Error::unusable(
                    format!("there is no field ‘{name}’"),
                    nearest_field(name, &plan.fields, "field"),
                )
            })
        });
        Ok(Sieve {
            conditions: self,
            field: field.transpose()?,
            plan,
            judge,
            addresses: CellAddresses::default(),
        })
    }
}

/// The pairs, cut at the commas outside double quotes.
fn pairs(text: &str) -> Vec<&str> {
    let (mut pairs, mut start, mut quoted) = (Vec::new(), 0, false);
    for (at, c) in text.char_indices() {
        match c {
            '"' => quoted = !quoted,
            ',' if !quoted => {
                pairs.push(text[start..at].trim_start());
                start = at + 1;
            }
            _ => {}
        }
    }
    pairs.push(text[start..].trim_start());
    pairs
}

fn unquoted(value: &str) -> String {
    match value.trim().strip_prefix('"').and_then(|value| value.strip_suffix('"')) {
        Some(inner) => inner.replace("\"\"", "\""),
        None => value.to_owned(),
    }
}

impl Condition {
    fn read(key: &str, value: &str) -> Result<Self> {
        let among = |known: Vec<&'static str>| {
            Error::unusable(
                format!("there is no {key} ‘{value}’"),
                format!("known are: {}", known.join(", ")),
            )
        };
        let yes_or_no = || find(&[true, false], |yes| if *yes { "yes" } else { "no" }, value).map_err(&among);
        match key {
            "finding" => Code::from_name(value).map(Condition::Finding).ok_or_else(|| {
                let meant = nearest(value, Code::all().map(Code::name));
                let meant = meant.map_or(String::new(), |meant| format!("did you mean finding={meant}? "));
                Error::unusable(
                    format!("there is no finding ‘{value}’"),
                    format!("{meant}`ypogram rules` shows them all"),
                )
            }),
            "repair" => {
                find(Repair::ALL, |repair| repair.name(), value).map(Condition::Repair).map_err(among)
            }
            "verdict" => {
                let verdicts = [Some(Verdict::Accept), Some(Verdict::Review), Some(Verdict::Reject), None];
                find(&verdicts, |verdict| verdict.map_or("none", Verdict::word), value)
                    .map(Condition::Verdict)
                    .map_err(among)
            }
            "usable" => {
                let ways = [Usable::AsItStands, Usable::AfterRepair, Usable::FromText];
                find(&ways, |way| way.word(), value).map(Condition::Usable).map_err(among)
            }
            "form" => find(Form::ALL, |form| form.word(), value).map(Condition::Form).map_err(among),
            "class" => Class::from_word(value)
                .map(Condition::Class)
                .ok_or_else(|| among(Class::all().map(Class::word).collect())),
            "kind" => find(&CellKind::ALL, |kind| kind.word(), value).map(Condition::Kind).map_err(among),
            "operator" => Ok(Condition::Operator(value.to_lowercase())),
            "domain" => Ok(Condition::Domain(value.to_lowercase())),
            "local-part" => Ok(Condition::LocalPart(value.to_owned())),
            "shape" => Ok(Condition::Shape(value.to_owned())),
            "value" => Ok(Condition::Value(value.to_owned())),
            "address" => yes_or_no().map(Condition::Address),
            "at-sign" => yes_or_no().map(Condition::AtSign),
            "filled" => yes_or_no().map(Condition::Filled),
            _ => Err(Error::unusable(
                format!("‘{key}’ is nothing to show records by"),
                format!("the keys are {KEYS}"),
            )),
        }
    }

    /// Whether it is about a cell rather than about the record's address.
    fn is_about_cell(&self) -> bool {
        matches!(
            self,
            Condition::Address(_)
                | Condition::AtSign(_)
                | Condition::Filled(_)
                | Condition::Kind(_)
                | Condition::Shape(_)
                | Condition::Value(_)
        )
    }
}

/// A record and the address that was picked for it.
#[derive(Clone, Copy)]
pub(crate) struct Candidate<'r> {
    pub(crate) record: Record<'r>,
    pub(crate) source: usize,
    pub(crate) picked: Option<&'r Picked>,
    /// Its parts in standard form.
    pub(crate) local_part: &'r [u8],
    pub(crate) domain: &'r [u8],
}

/// Conditions ready for the fields of a job. One for each thread.
pub(crate) struct Sieve<'p> {
    conditions: &'p Conditions,
    field: Option<usize>,
    plan: &'p FieldPlan,
    judge: Judge<'p>,
    addresses: CellAddresses,
}

impl Sieve<'_> {
    /// Whether the record meets all conditions.
    pub(crate) fn lets_through(&mut self, candidate: Candidate<'_>) -> bool {
        let conditions = self.conditions;
        let stands_there =
            || candidate.picked.is_some_and(|picked| self.field.is_none_or(|field| field == picked.field));
        if conditions.conditions.is_empty() {
            return stands_there();
        }
        conditions.conditions.iter().all(|condition| match (condition, self.field) {
            (Condition::Address(wanted), None) => {
                candidate.picked.is_some_and(|picked| picked.verdict.is_usable()) == *wanted
            }
            (Condition::Verdict(None), _) => candidate.picked.is_none(),
            (Condition::AtSign(wanted), None) => {
                candidate.record.cells().any(|cell| cell.contains(&b'@')) == *wanted
            }
            (condition, Some(field)) if condition.is_about_cell() => {
                self.cell_meets(condition, candidate, field)
            }
            (condition, None) if condition.is_about_cell() => {
                let plan = self.plan;
                let fields = if plan.address.is_empty() { &plan.text } else { &plan.address };
                fields.iter().any(|&field| self.cell_meets(condition, candidate, field))
            }
            (condition, field) => {
                let picked =
                    candidate.picked.filter(|picked| field.is_none_or(|field| field == picked.field));
                picked.is_some_and(|picked| address_meets(condition, picked, candidate))
            }
        })
    }

    fn cell_meets(&mut self, condition: &Condition, candidate: Candidate<'_>, field: usize) -> bool {
        let cell = self.plan.cell(candidate.record, candidate.source, field).unwrap_or_default();
        match condition {
            Condition::Filled(wanted) => is_blank(cell) != *wanted,
            Condition::AtSign(wanted) => cell.contains(&b'@') == *wanted,
            Condition::Value(wanted) => cell == wanted.as_bytes(),
            _ => {
                self.addresses.look(cell, self.plan.address.contains(&field), &mut self.judge);
                match condition {
                    Condition::Address(wanted) => self.addresses.usable == *wanted,
                    Condition::Kind(kind) => CellKind::of(cell, self.addresses.spans.len()) == *kind,
                    Condition::Shape(wanted) => [false, true].into_iter().any(|fine| {
                        let mut shape = String::new();
                        shape::write(cell, &self.addresses.spans, fine, &mut shape);
                        shape == *wanted
                    }),
                    _ => unreachable!("the others are about the address"),
                }
            }
        }
    }
}

fn address_meets(condition: &Condition, picked: &Picked, candidate: Candidate<'_>) -> bool {
    match condition {
        Condition::Finding(code) => picked.codes.contains(*code),
        Condition::Repair(repair) => picked.repairs.contains(*repair),
        Condition::Verdict(verdict) => Some(picked.verdict) == *verdict,
        Condition::Usable(way) => Usable::of(picked) == Some(*way),
        Condition::Form(form) => picked.form == *form,
        Condition::Class(class) => picked.judged.class == Some(*class),
        Condition::Operator(operator) => picked.judged.operator.name() == operator,
        Condition::Domain(domain) => candidate.domain == domain.as_bytes(),
        Condition::LocalPart(local_part) => candidate.local_part == local_part.as_bytes(),
        _ => unreachable!("the others are about a cell"),
    }
}

/// Whether nothing but white space is in the cell.
pub(crate) fn is_blank(cell: &[u8]) -> bool {
    cell.trim_ascii().is_empty()
}

/// The item of that name, or all names there are.
fn find<T: Copy>(
    items: &[T],
    name: impl Fn(&T) -> &'static str,
    value: &str,
) -> std::result::Result<T, Vec<&'static str>> {
    items.iter().find(|item| name(item) == value).copied().ok_or_else(|| items.iter().map(&name).collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pairs_and_quotes() {
        assert_eq!(pairs("a=b, c=\"d, \"\"e\"\"\",f=g"), ["a=b", "c=\"d, \"\"e\"\"\"", "f=g"]);
        for value in ["plain", "with, comma", "with \"quotes\"", " edges "] {
            assert_eq!(unquoted(&Conditions::quoted(value)), value);
        }
    }
}
