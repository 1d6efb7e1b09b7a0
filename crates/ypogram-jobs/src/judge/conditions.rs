//! Conditions that pick the records behind a figure: `finding=double-dot`, `form=mailto,class!=free`,
//! `address=no,field=notes,address=yes`.

use ypogram_core::{CellKind, Class, Code, Form, Judge, Policy, Repair, Verdict, shape};
use ypogram_io::{Error, Record, Result, nearest};

use crate::engine::blank::is_blank;
use crate::engine::quoted_list;
use crate::judge::cell_addresses::CellAddresses;
use crate::judge::checked_fields::FieldFaults;
use crate::judge::select_address::SelectedAddress;
use crate::plan::field_rules::Asked;
use crate::plan::fields::{FieldPlan, nearest_field};
use crate::plan::house_pattern::HousePattern;

/// Conditions that all have to hold.
///
/// Those about an address are about the record's own. Behind `field=NAME`, it has to stand in that field, and conditions about a
/// cell are about the cell in that field, up to the next `field=`; in front of the first they are about the address fields.
#[derive(Clone, Debug, Default)]
pub struct Conditions {
    scopes: Vec<Scope>,
    text: String,
}

/// Conditions behind a field.
#[derive(Clone, Debug, Default)]
struct Scope {
    /// None for those in front of the first.
    field: Option<String>,
    /// `field!=NAME`: the address stands elsewhere.
    field_negated: bool,
    conditions: Vec<Negatable>,
}

/// A condition, or its contrary.
#[derive(Clone, Debug)]
struct Negatable {
    condition: Condition,
    negated: bool,
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
    List(String),
    /// It has something to look up on the list, which is not there.
    Unmatched(String),
    /// A pattern by name, and itself once it was looked up.
    Pattern(String, Option<Box<HousePattern>>),
    /// Something that is asked of a field is not so.
    Fault(Code),
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

    fn of(selected: &SelectedAddress) -> Option<Self> {
        match (selected.verdict.is_usable(), selected.from_text, selected.repairs.is_empty()) {
            (false, _, _) => None,
            (true, true, _) => Some(Usable::FromText),
            (true, false, true) => Some(Usable::AsItStands),
            (true, false, false) => Some(Usable::AfterRepair),
        }
    }
}

/// What can stand before the equals sign.
const KEYS: &str = "finding, repair, verdict, usable, form, class, operator, domain, local-part, field, address, at-sign, \
                    filled, kind, shape, value, list, unmatched, pattern, fault";

impl Conditions {
    /// Reads `key=value` and `key!=value` pairs separated by commas. A value with a comma in it goes in double quotes.
    ///
    /// # Errors
    /// Where a key or a value is not known; the message names what there is.
    pub fn read(text: &str) -> Result<Self> {
        let mut scopes = vec![Scope::default()];
        for pair in quoted_list::items(text) {
            let (key, value) = pair.split_once('=').ok_or_else(|| {
                Error::unusable(
                    format!("‘{pair}’ is not a condition"),
                    format!("write key=value or key!=value, such as finding=double-dot; the keys are {KEYS}"),
                )
            })?;
            let (key, negated) = key.strip_suffix('!').map_or((key, false), |key| (key, true));
            let value = quoted_list::unquoted(value);
            match key {
                "field" => {
                    scopes.push(Scope { field: Some(value), field_negated: negated, conditions: vec![] });
                }
                _ => {
                    let condition = Condition::read(key, &value)?;
                    let scope = scopes.last_mut().expect("there is one for no field");
                    scope.conditions.push(Negatable { condition, negated });
                }
            }
        }
        scopes.retain(|scope| scope.field.is_some() || !scope.conditions.is_empty());
        Ok(Conditions { scopes, text: text.to_owned() })
    }

    /// These and `others`.
    #[must_use]
    pub fn and(mut self, others: Conditions) -> Self {
        self.scopes.extend(others.scopes);
        self.text = format!("{},{}", self.text, others.text);
        self
    }

    /// The same with the patterns that they name, looked up with `named`.
    ///
    /// # Errors
    /// Those of `named`.
    pub fn with_patterns(mut self, named: impl Fn(&str) -> Result<HousePattern>) -> Result<Self> {
        for of in self.scopes.iter_mut().flat_map(|scope| &mut scope.conditions) {
            if let Condition::Pattern(name, pattern) = &mut of.condition {
                *pattern = Some(Box::new(named(name)?));
            }
        }
        Ok(self)
    }

    /// How they were written.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// A value as it can stand in a condition.
    pub fn quoted(value: &str) -> String {
        quoted_list::quoted(value)
    }

    /// Makes them ready for the fields of `plan`.
    ///
    /// # Errors
    /// Where a field or a list does not exist.
    pub(crate) fn sieve<'p>(&'p self, plan: &'p FieldPlan, judge: Judge<'p>) -> Result<Sieve<'p>> {
        let place = |name: &String| {
            plan.fields.iter().position(|field| field == name).ok_or_else(|| {
                Error::unusable(
                    format!("there is no field ‘{name}’"),
                    nearest_field(name, &plan.fields, "field"),
                )
            })
        };
        let fields = self.scopes.iter().map(|scope| scope.field.as_ref().map(place).transpose());
        let fields = fields.collect::<Result<Vec<_>>>()?;
        let conditions = self.scopes.iter().flat_map(|scope| &scope.conditions);
        for negatable in conditions {
            if let Condition::List(name) | Condition::Unmatched(name) = &negatable.condition {
                place_of_list(name, judge.policy())?;
            }
        }
        Ok(Sieve { conditions: self, fields, plan, judge, addresses: CellAddresses::default() })
    }
}

fn place_of_list(name: &str, policy: &Policy) -> Result<usize> {
    let names = || policy.lists.iter().map(|list| &*list.purpose.name);
    names().position(|list| list == name).ok_or_else(|| {
        let known: Vec<&str> = names().collect();
        let hint = match (known.is_empty(), nearest(name, known.iter().copied())) {
            (true, _) => {
                "there are no lists of your own; name one with --list, or in the rulebook".to_owned()
            }
            (false, None) => format!("your lists are: {}", known.join(", ")),
            (false, Some(nearest)) => {
                format!("did you mean ‘{nearest}’? Your lists are: {}", known.join(", "))
            }
        };
        Error::unusable(format!("there is no list ‘{name}’"), hint)
    })
}

impl Condition {
    fn read(key: &str, value: &str) -> Result<Self> {
        let among = |known: Vec<&'static str>| {
            let meant = nearest(value, known.iter().copied());
            let meant = meant.map_or_else(String::new, |meant| format!("did you mean {key}={meant}? "));
            Error::unusable(
                format!("there is no {key} ‘{value}’"),
                format!("{meant}known are: {}", known.join(", ")),
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
            "list" => Ok(Condition::List(value.to_owned())),
            "unmatched" => Ok(Condition::Unmatched(value.to_owned())),
            "fault" => {
                let code = Code::from_name(&format!("field-{value}")).map(Condition::Fault);
                code.ok_or_else(|| among(Asked::words().collect()))
            }
            "pattern" => Ok(Condition::Pattern(value.to_owned(), None)),
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
                | Condition::Pattern(..)
        )
    }
}

/// A record and the address that was picked for it.
#[derive(Clone, Copy)]
pub(crate) struct Candidate<'r, 'p> {
    pub(crate) record: Record<'r>,
    pub(crate) selected: Option<&'r SelectedAddress>,
    /// It holds the standard form of the address.
    pub(crate) judge: &'r Judge<'p>,
    /// What its fields break.
    pub(crate) faults: FieldFaults<'r>,
}

/// Conditions ready for the fields of a job. One for each thread.
pub(crate) struct Sieve<'p> {
    conditions: &'p Conditions,
    /// The field of each scope.
    fields: Vec<Option<usize>>,
    plan: &'p FieldPlan,
    judge: Judge<'p>,
    addresses: CellAddresses,
}

impl Sieve<'_> {
    /// Whether the record meets all conditions.
    pub(crate) fn lets_through(&mut self, candidate: Candidate<'_, '_>) -> bool {
        let conditions = self.conditions;
        conditions.scopes.iter().enumerate().all(|(nth, scope)| {
            let field = self.fields[nth];
            if scope.conditions.is_empty() || scope.field_negated {
                let stands_there = candidate.selected.is_some_and(|selected| field == Some(selected.field));
                if stands_there == scope.field_negated {
                    return false;
                }
            }
            // What stands behind `field!=` is about the record's own address.
            let field = field.filter(|_| !scope.field_negated);
            scope.conditions.iter().all(|of| self.meets(&of.condition, candidate, field) != of.negated)
        })
    }

    fn meets(&mut self, condition: &Condition, candidate: Candidate<'_, '_>, field: Option<usize>) -> bool {
        match (condition, field) {
            (Condition::Address(wanted), None) => {
                candidate.selected.is_some_and(|selected| selected.verdict.is_usable()) == *wanted
            }
            (Condition::Verdict(None), _) => candidate.selected.is_none(),
            (Condition::AtSign(wanted), None) => {
                candidate.record.cells().any(|cell| cell.contains(&b'@')) == *wanted
            }
            (Condition::List(name), _) => self.look_up(name, candidate) == Some(true),
            (Condition::Unmatched(name), _) => self.look_up(name, candidate) == Some(false),
            (Condition::Fault(code), field) => candidate.faults.has(*code, field),
            (Condition::Finding(code), field) if candidate.faults.has(*code, field) => true,
            (condition, Some(field)) if condition.is_about_cell() => {
                self.cell_meets(condition, candidate, field)
            }
            (condition, None) if condition.is_about_cell() => {
                let plan = self.plan;
                let fields = if plan.address.is_empty() { &plan.text } else { &plan.address };
                fields.iter().any(|&field| self.cell_meets(condition, candidate, field))
            }
            (condition, field) => {
                let selected =
                    candidate.selected.filter(|selected| field.is_none_or(|field| field == selected.field));
                selected.is_some_and(|selected| address_meets(condition, selected, candidate.judge))
            }
        }
    }

    /// Whether the list has an entry for the record or its address; none where there is nothing to look up.
    fn look_up(&self, name: &str, candidate: Candidate<'_, '_>) -> Option<bool> {
        let list = place_of_list(name, self.judge.policy()).ok()?;
        let address = candidate.selected.map(|_| candidate.judge);
        self.plan.looks_up(list, candidate.record, address, self.judge.policy())
    }

    fn cell_meets(&mut self, condition: &Condition, candidate: Candidate<'_, '_>, field: usize) -> bool {
        let cell = self.plan.cell(candidate.record, field).unwrap_or_default();
        match condition {
            Condition::Filled(wanted) => is_blank(cell) != *wanted,
            Condition::AtSign(wanted) => cell.contains(&b'@') == *wanted,
            Condition::Value(wanted) => cell == wanted.as_bytes(),
            Condition::Pattern(_, pattern) => {
                let address = candidate.selected.filter(|selected| selected.field == field);
                let standard_form = match address.is_some_and(|selected| selected.judged.has_standard_form) {
                    true => candidate.judge.address(),
                    false => cell,
                };
                pattern.as_ref().is_some_and(|pattern| pattern.fits(cell, standard_form))
            }
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

fn address_meets(condition: &Condition, selected: &SelectedAddress, judge: &Judge<'_>) -> bool {
    match condition {
        Condition::Finding(code) => selected.codes.contains(*code),
        Condition::Repair(repair) => selected.repairs.contains(*repair),
        Condition::Verdict(verdict) => Some(selected.verdict) == *verdict,
        Condition::Usable(way) => Usable::of(selected) == Some(*way),
        Condition::Form(form) => selected.form == *form,
        Condition::Class(class) => selected.judged.class == Some(*class),
        Condition::Operator(operator) => selected.judged.operator.name() == operator,
        Condition::Domain(domain) => judge.domain() == domain.as_bytes(),
        Condition::LocalPart(local_part) => judge.local_part() == local_part.as_bytes(),
        _ => unreachable!("the others are about a cell"),
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
