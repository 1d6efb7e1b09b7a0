//! Which record of a group stays.

use ypogram_core::Verdict;
use ypogram_core::value::{self, Value};
use ypogram_io::{Error, Record, Result};

use crate::engine::blank::is_blank;
use crate::engine::reading::Reading;
use crate::plan::date_order::{self, DateEvidence};
use crate::plan::fields::FieldPlan;
use crate::plan::same_fields::folded;

/// Which record of a group stays; ties fall to the first.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Survivor {
    /// The first.
    #[default]
    First,
    /// The last.
    Last,
    /// The one with the most filled fields.
    Fullest,
    /// The one with the best verdict, and of these the fullest.
    Best,
    /// The one with the latest date or greatest number in this field.
    Newest(String),
    /// The one with the earliest date or smallest number in this field.
    Oldest(String),
    /// The one that has the first of these values in this field, else the second, and so on.
    Where(String, Vec<String>),
}

impl Survivor {
    /// Reads `first`, `last`, `fullest`, `best`, `newest:FIELD`, `oldest:FIELD` or `where:FIELD=VALUE,VALUE`.
    ///
    /// # Errors
    /// Where it is none of these.
    pub fn read(text: &str) -> Result<Self> {
        let known = || {
            Error::unusable(
                format!("‘{text}’ does not say which record stays"),
                "give first, last, fullest, best, newest:FIELD, oldest:FIELD or where:FIELD=VALUE,VALUE",
            )
        };
        match text.split_once(':') {
            None => match text {
                "first" => Ok(Survivor::First),
                "last" => Ok(Survivor::Last),
                "fullest" => Ok(Survivor::Fullest),
                "best" => Ok(Survivor::Best),
                _ => Err(known()),
            },
            Some(("newest", field)) => Ok(Survivor::Newest(field.to_owned())),
            Some(("oldest", field)) => Ok(Survivor::Oldest(field.to_owned())),
            Some(("where", rest)) => {
                let (field, values) = rest.split_once('=').ok_or_else(known)?;
                let values = values.split(',').map(|value| folded(value.as_bytes())).collect();
                Ok(Survivor::Where(field.to_owned(), values))
            }
            Some(_) => Err(known()),
        }
    }

    /// Ready for the fields of `plan`.
    ///
    /// # Errors
    /// Where its field does not exist.
    pub(crate) fn settle(&self, plan: &FieldPlan, reading: &mut Reading) -> Result<Scoring> {
        let place = |field: &String, reading: &Reading| plan.place_of(field, reading, "--survivor newest:");
        let dated = |field: &String, reading: &mut Reading| -> Result<(usize, Vec<DateEvidence>)> {
            let field = place(field, reading)?;
            Ok((field, date_order::evidence(reading, plan, field)?))
        };
        Ok(match self {
            Survivor::First => Scoring::First,
            Survivor::Last => Scoring::Last,
            Survivor::Fullest => Scoring::Fullest,
            Survivor::Best => Scoring::Best,
            Survivor::Newest(field) => {
                let (field, dates) = dated(field, reading)?;
                Scoring::Newest(field, dates)
            }
            Survivor::Oldest(field) => {
                let (field, dates) = dated(field, reading)?;
                Scoring::Oldest(field, dates)
            }
            Survivor::Where(field, values) => Scoring::Where(place(field, reading)?, values.clone()),
        })
    }
}

/// How records are scored: the greatest score stays, and of equals the first.
#[derive(Clone, Debug)]
pub(crate) enum Scoring {
    First,
    Last,
    Fullest,
    Best,
    /// By a field, with what is known of its dates for each source.
    Newest(usize, Vec<DateEvidence>),
    Oldest(usize, Vec<DateEvidence>),
    Where(usize, Vec<String>),
}

/// The greatest score.
pub(crate) const MOST: u64 = u64::MAX >> 1;

/// A score, and what there is to tell of the cell that it comes from.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Score {
    /// At most [`MOST`].
    pub(crate) score: u64,
    /// It should be a date or a number, and is neither.
    pub(crate) unreadable: bool,
    /// Day and month could be the other way round.
    pub(crate) either_way: bool,
}

impl Scoring {
    /// What to report about dates whose order was recognised.
    pub(crate) fn notes(&self, plan: &FieldPlan) -> Vec<String> {
        let (Scoring::Newest(field, dates) | Scoring::Oldest(field, dates)) = self else { return Vec::new() };
        let told = date_order::together(dates);
        let decided = Some(told).filter(|told| !told.is_undecided());
        decided.and_then(|told| told.note(&plan.fields[*field])).into_iter().collect()
    }

    pub(crate) fn score(&self, record: Record<'_>, verdict: Option<Verdict>, plan: &FieldPlan) -> Score {
        let plain = |score| Score { score, ..Score::default() };
        let filled = || record.cells().filter(|cell| !is_blank(cell)).count() as u64;
        let cell = |field| plan.cell(record, field).unwrap_or_default();
        match self {
            // The last is known by its number alone.
            Scoring::First | Scoring::Last => plain(0),
            Scoring::Fullest => plain(filled()),
            Scoring::Best => {
                let verdict = verdict.map_or(0, |verdict| 3 - verdict as u64);
                plain(verdict << 32 | filled())
            }
            Scoring::Newest(field, dates) => in_order(cell(*field), dates[record.source()], |order| order),
            Scoring::Oldest(field, dates) => {
                in_order(cell(*field), dates[record.source()], |order| MOST - order)
            }
            Scoring::Where(field, values) => {
                let value = folded(cell(*field));
                let place = values.iter().position(|wanted| *wanted == value);
                plain(place.map_or(0, |place| (values.len() - place) as u64))
            }
        }
    }
}

fn in_order(cell: &[u8], dates: DateEvidence, score: impl Fn(u64) -> u64) -> Score {
    match value::read_in(cell, dates.order()) {
        Some(value) => {
            let either_way =
                dates.is_undecided() && matches!(value, Value::Moment(moment) if moment.either_way);
            Score { score: score(value.order()).max(1), unreadable: false, either_way }
        }
        None => Score { score: 0, unreadable: !is_blank(cell), either_way: false },
    }
}
