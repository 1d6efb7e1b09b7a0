//! What a house asks of fields other than the address.

use std::collections::HashSet;

use serde::{Deserialize, Serialize};
use ypogram_core::value::{self, DateOrder, Moment, Value};
use ypogram_core::{CellKind, Code, Judge, Pattern, Policy, Severity};
use ypogram_io::{Error, Record, Result, nearest};

use crate::engine::blank::is_blank;
use crate::engine::header_cells::holds_whole_cell_address;
use crate::engine::reading::Reading;
use crate::plan::date_order;
use crate::plan::fields::FieldPlan;

/// What is asked of one field.
#[derive(Clone, Debug)]
pub struct FieldRule {
    /// The field's name.
    pub field: String,
    /// What is asked of it.
    pub asked: Vec<Asked>,
}

/// Something that is asked of a field. An empty cell breaks [`Filled`](Asked::Filled) and [`AtLeastOneOf`](Asked::AtLeastOneOf) alone.
#[derive(Clone, Debug)]
pub enum Asked {
    /// It is not empty.
    Filled,
    /// No earlier record has the same value, white space around it aside.
    Unique,
    /// It fits a pattern.
    Fits(Box<Pattern>),
    /// It is of that kind.
    Is(FieldKind),
    /// It is one of these values, letter case and the white space around it aside.
    OneOf(Allowed),
    /// It has at least so many characters, and at most so many where there is a limit.
    Length(usize, Option<usize>),
    /// It is a date, and not before this.
    Earliest(Moment),
    /// It is a date, and not after this.
    Latest(Moment),
    /// It or one of these fields is filled.
    AtLeastOneOf(Vec<String>),
}

/// What a field may hold.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum FieldKind {
    /// A date, with or without a time.
    Date,
    /// A number.
    Number,
    /// A telephone number.
    Telephone,
    /// A person's or a place's name.
    Name,
    /// One address and nothing else.
    Address,
}

/// The values that a field may have.
#[derive(Clone, Debug)]
pub enum Allowed {
    /// Those of the list of that name.
    List(String),
    /// These.
    Values(Vec<String>),
}

impl FieldKind {
    fn is(self, cell: &[u8], policy: &Policy) -> bool {
        let is_kind = |kind: CellKind| CellKind::of(cell, 0) == kind;
        match self {
            FieldKind::Date => matches!(value::read(cell), Some(Value::Moment(_))),
            FieldKind::Number => matches!(value::read(cell), Some(Value::Number(_))),
            FieldKind::Telephone => is_kind(CellKind::Telephone),
            // A name in small letters is one too.
            FieldKind::Name => {
                is_kind(CellKind::Name) || CellKind::of(&capitalized(cell), 0) == CellKind::Name
            }
            FieldKind::Address => holds_whole_cell_address(cell, policy),
        }
    }
}

impl Asked {
    /// The findings of what can be asked.
    pub(crate) const CODES: [Code; 9] = [
        Code::FieldFilled,
        Code::FieldUnique,
        Code::FieldFits,
        Code::FieldIs,
        Code::FieldOneOf,
        Code::FieldLength,
        Code::FieldEarliest,
        Code::FieldLatest,
        Code::FieldAtLeastOneOf,
    ];

    /// The finding where it is not so.
    pub fn code(&self) -> Code {
        match self {
            Asked::Filled => Code::FieldFilled,
            Asked::Unique => Code::FieldUnique,
            Asked::Fits(_) => Code::FieldFits,
            Asked::Is(_) => Code::FieldIs,
            Asked::OneOf(_) => Code::FieldOneOf,
            Asked::Length(..) => Code::FieldLength,
            Asked::Earliest(_) => Code::FieldEarliest,
            Asked::Latest(_) => Code::FieldLatest,
            Asked::AtLeastOneOf(_) => Code::FieldAtLeastOneOf,
        }
    }

    /// The word in the rulebook: the finding without `field-`.
    pub fn word(&self) -> &'static str {
        word_of(self.code())
    }

    /// The words of all that can be asked.
    pub(crate) fn words() -> impl Iterator<Item = &'static str> {
        Asked::CODES.into_iter().map(word_of)
    }
}

fn word_of(code: Code) -> &'static str {
    code.name().strip_prefix("field-").unwrap_or(code.name())
}

/// Something that is asked of a field at its place.
#[derive(Clone, Debug)]
pub(crate) struct Check {
    pub(crate) field: usize,
    pub(crate) code: Code,
    /// `lent on: filled`
    pub(crate) name: String,
    asked: PlacedAsked,
}

impl Check {
    /// What is asked, in a word.
    pub(crate) fn word(&self) -> &'static str {
        word_of(self.code)
    }
}

/// The same as [`Asked`] with what it takes to hold cells against it.
#[derive(Clone, Debug)]
enum PlacedAsked {
    Filled,
    /// Which of the fields that are held against earlier records, by place among them.
    Unique(usize),
    Fits(Box<Pattern>),
    Is(FieldKind),
    /// The list at that place.
    List(usize),
    Values(HashSet<String>),
    Length(usize, Option<usize>),
    /// Day and order of dates, by source.
    Earliest(i64, Vec<DateOrder>),
    Latest(i64, Vec<DateOrder>),
    OneFilled(Vec<usize>),
}

/// What is asked of all fields.
#[derive(Clone, Debug, Default)]
pub(crate) struct FieldChecks {
    pub(crate) checks: Vec<Check>,
    /// The fields in which each value may stand once.
    pub(crate) unique: Vec<usize>,
}

impl FieldChecks {
    /// What `rules` ask of the fields of `plan`.
    ///
    /// # Errors
    /// Where a field or list does not exist.
    pub(crate) fn settle(
        rules: &[FieldRule],
        plan: &FieldPlan,
        reading: &mut Reading,
        policy: &Policy,
    ) -> Result<Self> {
        let mut checks = FieldChecks::default();
        for rule in rules {
            let field = plan.place_of(&rule.field, reading, "[field-rules]")?;
            let in_force = |asked: &&Asked| policy.severity(asked.code()) != Severity::Off;
            for asked in rule.asked.iter().filter(in_force) {
                let asked_at = checks.placed(asked, field, plan, reading, policy)?;
                checks.checks.push(Check {
                    field,
                    code: asked.code(),
                    name: format!("{}: {}", plan.fields[field], asked.word()),
                    asked: asked_at,
                });
            }
        }
        Ok(checks)
    }

    fn placed(
        &mut self,
        asked: &Asked,
        field: usize,
        plan: &FieldPlan,
        reading: &mut Reading,
        policy: &Policy,
    ) -> Result<PlacedAsked> {
        Ok(match asked {
            Asked::Filled => PlacedAsked::Filled,
            Asked::Unique => {
                self.unique.push(field);
                PlacedAsked::Unique(self.unique.len() - 1)
            }
            Asked::Fits(pattern) => PlacedAsked::Fits(pattern.clone()),
            Asked::Is(kind) => PlacedAsked::Is(*kind),
            Asked::OneOf(Allowed::List(name)) => PlacedAsked::List(place_of_list(name, policy)?),
            Asked::OneOf(Allowed::Values(values)) => {
                PlacedAsked::Values(values.iter().map(|value| folded(value.as_bytes())).collect())
            }
            Asked::Length(from, to) => PlacedAsked::Length(*from, *to),
            Asked::Earliest(limit) => PlacedAsked::Earliest(limit.day(), orders(reading, plan, field)?),
            Asked::Latest(limit) => PlacedAsked::Latest(limit.day(), orders(reading, plan, field)?),
            Asked::AtLeastOneOf(others) => {
                let others = others.iter().map(|name| plan.place_of(name, reading, "at-least-one-of ="));
                let others = others.collect::<Result<Vec<_>>>()?;
                PlacedAsked::OneFilled(std::iter::once(field).chain(others).collect())
            }
        })
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.checks.is_empty()
    }

    /// Fills `broken` with the places of the checks that `record` does not pass; `repeats` tells whether it has the value of an earlier record in
    /// one of the fields of [`unique`](Self::unique).
    pub(crate) fn broken(
        &self,
        record: Record<'_>,
        plan: &FieldPlan,
        judge: &Judge<'_>,
        repeats: impl Fn(usize) -> bool,
        broken: &mut Vec<usize>,
    ) {
        broken.clear();
        for (place, check) in self.checks.iter().enumerate() {
            let cell = plan.cell(record, check.field).unwrap_or_default();
            let passes = match &check.asked {
                PlacedAsked::Filled => !is_blank(cell),
                PlacedAsked::OneFilled(fields) => {
                    fields.iter().any(|&field| !is_blank(plan.cell(record, field).unwrap_or_default()))
                }
                _ if is_blank(cell) => true,
                PlacedAsked::Unique(nth) => !repeats(*nth),
                asked => asked.takes(cell, record.source(), judge.policy()),
            };
            if !passes {
                broken.push(place);
            }
        }
    }
}

impl PlacedAsked {
    /// Whether a cell that is not empty is as it is asked for.
    fn takes(&self, cell: &[u8], source: usize, policy: &Policy) -> bool {
        let day = |orders: &[DateOrder]| match value::read_in(cell, orders[source]) {
            Some(Value::Moment(moment)) => Some(moment.day()),
            _ => None,
        };
        match self {
            PlacedAsked::Fits(pattern) => pattern.fits(cell),
            PlacedAsked::Is(kind) => kind.is(cell, policy),
            PlacedAsked::List(list) => policy.lists.get(*list).find_value(cell, false).is_some(),
            PlacedAsked::Values(values) => values.contains(&folded(cell)),
            PlacedAsked::Length(from, to) => {
                let length = String::from_utf8_lossy(cell).chars().count();
                length >= *from && to.is_none_or(|to| length <= to)
            }
            PlacedAsked::Earliest(limit, orders) => day(orders).is_some_and(|day| day >= *limit),
            PlacedAsked::Latest(limit, orders) => day(orders).is_some_and(|day| day <= *limit),
            PlacedAsked::Filled | PlacedAsked::Unique(_) | PlacedAsked::OneFilled(_) => true,
        }
    }
}

/// The cell with a capital at the start of each word.
fn capitalized(cell: &[u8]) -> Vec<u8> {
    let (mut out, mut starts) = (String::new(), true);
    for c in String::from_utf8_lossy(cell).chars() {
        match starts {
            true => out.extend(c.to_uppercase()),
            false => out.push(c),
        }
        starts = matches!(c, ' ' | '-');
    }
    out.into_bytes()
}

/// A value as it is looked up.
fn folded(value: &[u8]) -> String {
    String::from_utf8_lossy(value.trim_ascii()).to_lowercase()
}

/// The order of the dates in a field, by source.
fn orders(reading: &mut Reading, plan: &FieldPlan, field: usize) -> Result<Vec<DateOrder>> {
    Ok(date_order::evidence(reading, plan, field)?.into_iter().map(|evidence| evidence.order()).collect())
}

fn place_of_list(name: &str, policy: &Policy) -> Result<usize> {
    let names = || policy.lists.iter().map(|list| &*list.purpose.name);
    names().position(|list| list == name).ok_or_else(|| {
        let hint = match nearest(name, names()) {
            Some(nearest) => format!("did you mean ‘{nearest}’? "),
            None => String::new(),
        };
        Error::unusable(
            format!("[field-rules]: one-of = \"{name}\": there is no list ‘{name}’"),
            format!("{hint}lists stand under [lists]; values alone go in square brackets"),
        )
    })
}
