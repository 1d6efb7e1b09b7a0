//! `[house]` of the rulebook and `--house`: the house's own address formats.

use clap::Args;
use serde::{Deserialize, Serialize};
use ypogram_core::house_format::{Fold, FormatError, HouseFormat};
use ypogram_io::{Error, Result};
use ypogram_jobs::HouseFormats;

/// `[house]`: how the house builds its addresses.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct HouseSection {
    /// The formats, one for each domain.
    pub(crate) format: Formats,
    /// How letters beyond a to z are written.
    pub(crate) fold: Fold,
    /// The field with the given name.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) given: Option<String>,
    /// The field with the family name.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) family: Option<String>,
    /// Addresses at other domains are held against the first format as well.
    pub(crate) everyone: bool,
}

/// One format or several.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(untagged)]
pub(crate) enum Formats {
    One(String),
    Several(Vec<String>),
}

impl Default for Formats {
    fn default() -> Self {
        Formats::Several(Vec::new())
    }
}

impl HouseSection {
    pub(crate) fn is_default(&self) -> bool {
        *self == HouseSection::default()
    }

    /// The formats ready to be used: those that were given on the command line, which hold for all addresses, else those of the rulebook, called
    /// `rulebook` in messages.
    ///
    /// # Errors
    /// Where one is not in the notation; what is wrong is marked under its place.
    pub(crate) fn formats(
        &self,
        given: &[String],
        persons: &[String],
        rulebook: &str,
    ) -> Result<HouseFormats> {
        let of_rulebook = match &self.format {
            Formats::One(format) => std::slice::from_ref(format),
            Formats::Several(formats) => formats,
        };
        let (written, from) = if given.is_empty() { (of_rulebook, rulebook) } else { (given, "--house") };
        let read =
            |text: &String| HouseFormat::new(text, self.fold).map_err(|error| marked(text, &error, from));
        Ok(HouseFormats {
            formats: written.iter().map(read).collect::<Result<_>>()?,
            everyone: self.everyone || !given.is_empty(),
            given: self.given.clone(),
            family: self.family.clone(),
            persons: persons.to_vec(),
        })
    }
}

/// The error with the format below it, marked where it is wrong.
fn marked(text: &str, error: &FormatError, from: &str) -> Error {
    let hint =
        "docs/house.md has the notation; ypogram rules describe --house '…' says what a format accepts";
    Error::unusable(format!("{from}: house format: {}", error.message), hint).marked(text, error.span.clone())
}

/// The formats of the house on the command line.
#[derive(Debug, Default, Args)]
pub(crate) struct HouseArguments {
    /// How the house builds its addresses, such as 'given "." family "@fernhollow.example"': what does not fit is a finding; can be repeated
    #[arg(long = "house", value_name = "FORMAT", help_heading = "Judging")]
    pub(crate) formats: Vec<String>,
}
