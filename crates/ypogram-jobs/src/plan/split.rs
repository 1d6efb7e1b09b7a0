//! What `split` adds to a record: the parts of its address, the name that it shows, and what other values are cut into.

use std::borrow::Cow;
use std::collections::HashMap;

use ypogram_core::Part;
use ypogram_core::names::NameOrder;
use ypogram_io::{Change, Error, Result, nearest};

use crate::engine::reading::Reading;
use crate::plan::columns::Column;
use crate::plan::compose::{Composed, Piece, put_together};
use crate::plan::cut::Cut;
use crate::plan::fields::FieldPlan;
use crate::plan::person::PersonFields;

/// What is asked for.
#[derive(Clone, Debug, Default)]
pub struct SplitWanted {
    /// The parts, each with the name of its column where it has one of its own.
    pub parts: Vec<(Part, Option<String>)>,
    /// The cuts, in order.
    pub cuts: Vec<Cut>,
    /// The columns that are put together, in order.
    pub composed: Vec<Composed>,
    /// Fields and columns whose values are changed wherever they come out.
    pub changed: Vec<(String, Change)>,
    /// Which name stands first in local parts.
    pub orders: NameOrders,
    /// Fields that name a person; recognised by their names where none is given.
    pub persons: Vec<String>,
    /// The parts come where the address field stands, which does not come out itself.
    pub replace: bool,
    /// Each address of a record gets a row of its own.
    pub row_per_address: bool,
}

/// Which name stands first in local parts, by domain.
#[derive(Clone, Debug, Default)]
pub struct NameOrders {
    /// At every other domain.
    pub otherwise: NameOrder,
    /// At these (lower-case A-labels).
    pub by_domain: HashMap<String, NameOrder>,
}

impl NameOrders {
    /// The order at `domain`.
    pub fn at(&self, domain: &[u8]) -> NameOrder {
        if self.by_domain.is_empty() {
            return self.otherwise;
        }
        let named = std::str::from_utf8(domain).ok().and_then(|domain| self.by_domain.get(domain));
        named.copied().unwrap_or(self.otherwise)
    }
}

impl SplitWanted {
    /// Whether names are read out of local parts.
    pub fn wants_names(&self) -> bool {
        self.parts.iter().any(|(part, _)| part.is_of_name())
    }

    /// The columns that are added, each with the name that it was given.
    pub(crate) fn columns(&self, persons: Option<&PersonFields>) -> Vec<(Column, Option<String>)> {
        let parts = self.parts.iter().map(|(part, name)| (Column::Part(*part), name.clone()));
        let mut columns: Vec<_> = parts.collect();
        if persons.is_some() {
            columns.push((Column::Findings, None));
        }
        let derived = self.derived_columns().enumerate();
        columns.extend(derived.map(|(place, name)| (Column::Cut(place as u16), Some(name.to_owned()))));
        columns
    }

    /// The columns of cuts, then those that are put together.
    fn derived_columns(&self) -> impl Iterator<Item = &str> {
        self.cuts.iter().flat_map(Cut::columns).chain(self.composed.iter().map(|composed| &*composed.column))
    }
}

/// The same, ready for the fields of a job.
#[derive(Debug, Default)]
pub(crate) struct SplitPlan {
    pub(crate) orders: NameOrders,
    /// Names are asked for.
    pub(crate) names: bool,
    /// A part is asked for that depends on the public suffix.
    pub(crate) suffixes: bool,
    /// The fields that a name is held against.
    pub(crate) persons: Option<PersonFields>,
    /// The cuts with what they are of.
    cuts: Vec<(Cut, Source)>,
    composed: Vec<PlacedComposed>,
    /// What the columns hold, in order.
    columns: Vec<Derived>,
}

/// A column that follows from other values.
#[derive(Clone, Copy, Debug)]
enum Derived {
    /// Of the cut at that place its column at that place.
    Cut(usize, usize),
    /// What is put together, at that place.
    Composed(usize),
}

/// Where a value comes from.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Source {
    /// A field of the record.
    Field(usize),
    /// A part of its address, where that is usable.
    Part(Part),
    /// A column before, by place.
    Column(usize),
}

/// What is put together, with where its values come from and how they are changed.
#[derive(Debug)]
struct PlacedComposed {
    pieces: Vec<Piece>,
    values: Vec<(Source, Option<Change>)>,
}

impl SplitPlan {
    /// # Errors
    /// Where something that is cut or put together does not exist.
    pub(crate) fn settle(wanted: &SplitWanted, plan: &FieldPlan, reading: &Reading) -> Result<Self> {
        let mut split = SplitPlan { orders: wanted.orders.clone(), ..SplitPlan::default() };
        let mut names: Vec<&str> = Vec::new();
        for (at, cut) in wanted.cuts.iter().enumerate() {
            let source = source_of(&cut.field, "--cut", plan, reading, &names)?;
            split.cuts.push((cut.clone(), source));
            for (column, name) in cut.columns().enumerate() {
                split.columns.push(Derived::Cut(at, column));
                names.push(name);
            }
        }
        for (at, composed) in wanted.composed.iter().enumerate() {
            let values = composed.pieces.iter().filter_map(|piece| match piece {
                Piece::Named(name) => Some(name),
                Piece::Text(_) => None,
            });
            let value = |name: &String| {
                let change = wanted.changed.iter().rfind(|(changed, _)| changed == name);
                let source = source_of(name, "--compose", plan, reading, &names)?;
                Ok((source, change.map(|(_, change)| *change)))
            };
            let values = values.map(value).collect::<Result<Vec<_>>>()?;
            split.composed.push(PlacedComposed { pieces: composed.pieces.clone(), values });
            split.columns.push(Derived::Composed(at));
            names.push(&composed.column);
        }
        let parts: Vec<Part> = wanted.parts.iter().map(|(part, _)| *part).chain(split.parts()).collect();
        split.names = parts.iter().any(|part| part.is_of_name());
        split.suffixes = parts.iter().any(|part| part.needs_suffix());
        let persons = PersonFields::settle(&wanted.persons, plan, reading)?;
        split.persons = Some(persons).filter(|persons| wanted.wants_names() && !persons.is_empty());
        Ok(split)
    }

    /// The parts that are cut or put together.
    fn parts(&self) -> impl Iterator<Item = Part> {
        let of_cuts = self.cuts.iter().map(|(_, source)| *source);
        let composed =
            self.composed.iter().flat_map(|composed| composed.values.iter().map(|(source, _)| *source));
        of_cuts.chain(composed).filter_map(|source| match source {
            Source::Part(part) => Some(part),
            Source::Field(_) | Source::Column(_) => None,
        })
    }

    /// Whether a column follows from other values.
    pub(crate) fn derives(&self) -> bool {
        !self.columns.is_empty()
    }

    /// How many cuts there are.
    pub(crate) fn cuts(&self) -> usize {
        self.cuts.len()
    }

    /// What the column at place `column` holds; `value` gives fields and parts.
    pub(crate) fn take<'c>(
        &self,
        column: usize,
        value: &impl Fn(Source) -> Option<Cow<'c, [u8]>>,
    ) -> Option<Cow<'c, [u8]>> {
        match self.columns[column] {
            Derived::Cut(cut, pick) => {
                let (cut, source) = &self.cuts[cut];
                Some(match self.value(*source, value)? {
                    Cow::Borrowed(cell) => Cow::Borrowed(cut.take(cell, pick)?),
                    Cow::Owned(cell) => Cow::Owned(cut.take(&cell, pick)?.to_vec()),
                })
            }
            Derived::Composed(composed) => {
                let PlacedComposed { pieces, values } = &self.composed[composed];
                let mut out = Vec::new();
                let value_at = |nth: usize| {
                    let (source, change) = values[nth];
                    let value = self.value(source, value)?;
                    Some(change.map_or_else(|| value.to_vec(), |change| change(&value)))
                };
                put_together(pieces, value_at, &mut out);
                Some(Cow::Owned(out))
            }
        }
    }

    fn value<'c>(
        &self,
        source: Source,
        value: &impl Fn(Source) -> Option<Cow<'c, [u8]>>,
    ) -> Option<Cow<'c, [u8]>> {
        match source {
            Source::Column(column) => self.take(column, value),
            source => value(source),
        }
    }

    /// Calls `miss` with each cut that does not fit a value which has something in it, and that value.
    pub(crate) fn misses<'c>(
        &self,
        value: &impl Fn(Source) -> Option<Cow<'c, [u8]>>,
        mut miss: impl FnMut(usize, &[u8]),
    ) {
        for (at, (cut, source)) in self.cuts.iter().enumerate() {
            let cell = self.value(*source, value).filter(|cell| !cell.trim_ascii().is_empty());
            let Some(cell) = cell else { continue };
            if (0..cut.columns().count()).any(|column| cut.take(&cell, column).is_none()) {
                miss(at, &cell);
            }
        }
    }
}

/// What has that name: a field, else a column of an earlier cut, else a part of the address.
///
/// # Errors
/// Where there is none.
fn source_of(
    name: &str,
    option: &str,
    plan: &FieldPlan,
    reading: &Reading,
    columns: &[&str],
) -> Result<Source> {
    if plan.fields.iter().any(|field| field == name) {
        return Ok(Source::Field(plan.place_of(name, reading, option)?));
    }
    if let Some(column) = columns.iter().rposition(|column| *column == name) {
        return Ok(Source::Column(column));
    }
    if let Some(part) = Part::from_name(name) {
        return Ok(Source::Part(part));
    }
    plan.place_of(name, reading, option).map(Source::Field).map_err(|error| {
        let others = columns.iter().copied().chain(Part::ALL.iter().map(|part| part.name()));
        match nearest(name, others) {
            Some(nearest) => Error { hint: format!("did you mean ‘{nearest}’? {}", error.hint), ..error },
            None => error,
        }
    })
}
