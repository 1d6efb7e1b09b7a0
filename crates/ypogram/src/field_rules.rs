//! `[field-rules]` of the rulebook: what the house asks of fields other than the address.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize, Serializer};
use toml::value::Datetime;
use ypogram_core::value::{self, Moment, Value};
use ypogram_io::{Error, Result};
use ypogram_jobs::{Allowed, Asked, FieldKind, FieldRule, HousePattern};

/// `[field-rules]`, by field.
pub(crate) type FieldRules = BTreeMap<String, FieldRuleEntry>;

/// What is asked of one field.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct FieldRuleEntry {
    /// It is not empty.
    #[serde(skip_serializing_if = "is_false")]
    pub(crate) filled: bool,
    /// No value stands twice.
    #[serde(skip_serializing_if = "is_false")]
    pub(crate) unique: bool,
    /// The pattern that it fits.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) fits: Option<String>,
    /// What it holds.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) is: Option<FieldKind>,
    /// The values that it may have.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) one_of: Option<OneOfEntry>,
    /// How many characters it has.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) length: Option<LengthEntry>,
    /// The date that it is not before.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) earliest: Option<DateEntry>,
    /// The date that it is not after.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) latest: Option<DateEntry>,
    /// Fields of which, with this one, one at least is filled.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) at_least_one_of: Vec<String>,
}

fn is_false(value: &bool) -> bool {
    !value
}

/// A list's name, or values.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[serde(untagged, expecting = "one-of is the name of a list, or values in square brackets: [\"…\", \"…\"]")]
pub(crate) enum OneOfEntry {
    List(String),
    Values(Vec<String>),
}

/// So many characters, or from so many to so many.
#[derive(Clone, Copy, Debug, Deserialize, Serialize)]
#[serde(untagged, expecting = "length is a number of characters, or { from = 2, to = 20 }")]
pub(crate) enum LengthEntry {
    Exactly(usize),
    Between(Between),
}

/// Either can be left out.
#[derive(Clone, Copy, Debug, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub(crate) struct Between {
    #[serde(default)]
    pub(crate) from: usize,
    #[serde(default)]
    pub(crate) to: Option<usize>,
}

/// A date, or the word `today`.
#[derive(Clone, Debug, Deserialize)]
#[serde(untagged, expecting = "earliest and latest are a date, such as 2020-01-01, or \"today\"")]
pub(crate) enum DateEntry {
    Date(Datetime),
    Text(String),
}

impl Serialize for DateEntry {
    fn serialize<S: Serializer>(&self, serializer: S) -> std::result::Result<S::Ok, S::Error> {
        serializer.serialize_str(&self.text())
    }
}

impl DateEntry {
    fn text(&self) -> String {
        match self {
            DateEntry::Date(date) => date.to_string(),
            DateEntry::Text(text) => text.clone(),
        }
    }

    /// Makes a date of the word `today`, so that what is kept of the rulebook says which day that was.
    fn settle_today(&mut self) {
        if self.text() == "today" {
            *self = DateEntry::Text(jiff::ZonedDateTime::now().date().to_string());
        }
    }

    fn moment(&self) -> Option<Moment> {
        match value::read(self.text().as_bytes()) {
            Some(Value::Moment(moment)) => Some(moment),
            _ => None,
        }
    }
}

/// Makes a date of every `today`.
pub(crate) fn settle_today(rules: &mut FieldRules) {
    let entries = rules.values_mut();
    entries
        .flat_map(|entry| [&mut entry.earliest, &mut entry.latest])
        .flatten()
        .for_each(DateEntry::settle_today);
}

/// Whether a field may have the entries of the list called `name` alone.
pub(crate) fn allows_list(rules: &FieldRules, name: &str) -> bool {
    rules.values().any(|entry| matches!(&entry.one_of, Some(OneOfEntry::List(list)) if list == name))
}

/// The rules ready to be used; `pattern` gives the patterns of the rulebook.
///
/// # Errors
/// Where a pattern is not there, a date is none, or a rule asks for nothing or for what cannot be.
pub(crate) fn read(
    rules: &FieldRules,
    pattern: impl Fn(&str) -> Result<HousePattern>,
) -> Result<Vec<FieldRule>> {
    let rule = |(field, entry): (&String, &FieldRuleEntry)| {
        let place = format!("[field-rules.\"{field}\"]");
        let placed = |error: Error| Error { message: format!("{place}: {}", error.message), ..error };
        Ok(FieldRule { field: field.clone(), asked: asked(entry, &place, &pattern).map_err(placed)? })
    };
    rules.iter().map(rule).collect()
}

fn asked(
    entry: &FieldRuleEntry,
    place: &str,
    pattern: impl Fn(&str) -> Result<HousePattern>,
) -> Result<Vec<Asked>> {
    let mut asked = Vec::new();
    let date = |word: &str, date: &DateEntry| {
        date.moment().ok_or_else(|| {
            Error::unusable(
                format!("{word} = \"{}\" is no date", date.text()),
                "write it as in 2020-01-01, or \"today\"",
            )
        })
    };
    asked.extend(entry.filled.then_some(Asked::Filled));
    asked.extend(entry.unique.then_some(Asked::Unique));
    if let Some(name) = &entry.fits {
        asked.push(Asked::Fits(Box::new(pattern(name)?.pattern)));
    }
    asked.extend(entry.is.map(Asked::Is));
    asked.extend(entry.one_of.as_ref().map(|one_of| {
        Asked::OneOf(match one_of {
            OneOfEntry::List(name) => Allowed::List(name.clone()),
            OneOfEntry::Values(values) => Allowed::Values(values.clone()),
        })
    }));
    if let Some(length) = entry.length {
        let (from, to) = match length {
            LengthEntry::Exactly(length) => (length, Some(length)),
            LengthEntry::Between(Between { from, to }) => (from, to),
        };
        if to.is_some_and(|to| to < from) {
            return Err(Error::unusable(
                "the length goes down: its from is greater than its to",
                "write length = { from = 2, to = 20 }",
            ));
        }
        asked.push(Asked::Length(from, to));
    }
    if let Some(earliest) = &entry.earliest {
        asked.push(Asked::Earliest(date("earliest", earliest)?));
    }
    if let Some(latest) = &entry.latest {
        asked.push(Asked::Latest(date("latest", latest)?));
    }
    if !entry.at_least_one_of.is_empty() {
        asked.push(Asked::AtLeastOneOf(entry.at_least_one_of.clone()));
    }
    if asked.is_empty() {
        return Err(Error::unusable(
            "nothing is asked of the field",
            format!("write, say, filled = true below {place}; see docs/fields.md"),
        ));
    }
    Ok(asked)
}
