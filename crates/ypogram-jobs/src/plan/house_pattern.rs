//! A pattern of the rulebook, and which form of a value it is held against.

use ypogram_core::Pattern;
use ypogram_io::{Error, Result};

/// Which form of a value a pattern is held against.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum PatternOf {
    /// The value exactly as it stands.
    #[default]
    AsItStands,
    /// The address in standard form; where it has none, as it was found.
    StandardForm,
}

/// A pattern of the rulebook.
#[derive(Clone, Debug)]
pub struct HousePattern {
    /// What has to fit.
    pub pattern: Pattern,
    /// What it is held against.
    pub of: PatternOf,
}

impl HousePattern {
    /// The error where the value, of which both forms are given, is too long for it; `place` says where that stands.
    pub(crate) fn refuse(
        &self,
        as_it_stands: &[u8],
        standard_form: &[u8],
        place: impl FnOnce() -> String,
    ) -> Result<()> {
        let bytes = self.form(as_it_stands, standard_form).len();
        if !self.pattern.is_too_long(bytes) {
            return Ok(());
        }
        Err(Error::unusable(
            format!(
                "{}: a value of {bytes} bytes is too long for the pattern ‘{}’",
                place(),
                self.pattern.name
            ),
            "make the pattern simpler, or leave such values out; see docs/rulebook.md",
        ))
    }

    fn form<'v>(&self, as_it_stands: &'v [u8], standard_form: &'v [u8]) -> &'v [u8] {
        match self.of {
            PatternOf::AsItStands => as_it_stands,
            PatternOf::StandardForm => standard_form,
        }
    }

    /// How far a value that it does not fit fits, as a sentence without a subject, and in bytes.
    fn miss(&self, as_it_stands: &[u8], standard_form: &[u8]) -> (usize, String) {
        let value = self.form(as_it_stands, standard_form);
        let miss = self.pattern.miss(value);
        (miss.fits_up_to, miss.sentence(value))
    }

    /// Whether it fits a value, of which both forms are given.
    pub fn fits(&self, as_it_stands: &[u8], standard_form: &[u8]) -> bool {
        self.pattern.fits(self.form(as_it_stands, standard_form))
    }
}

/// How far a value that none of `patterns` fits fits the one that it fits furthest, and what was expected there. The name of that pattern goes
/// before it where there are several.
///
/// ```
/// use ypogram_core::Pattern;
/// use ypogram_jobs::{HousePattern, PatternOf, missed};
/// let pattern = Pattern::new("loan", r"OBS/\d{4}/[a-z]", true, false).unwrap();
/// let loan = HousePattern { pattern, of: PatternOf::AsItStands };
/// assert_eq!(missed(&[loan], b"OBS/0117/", b""), "fits as far as it goes, then one of a to z was expected");
/// ```
pub fn missed(patterns: &[HousePattern], as_it_stands: &[u8], standard_form: &[u8]) -> String {
    let misses = patterns.iter().map(|pattern| (pattern, pattern.miss(as_it_stands, standard_form)));
    // Of two that fit as far the first counts.
    let furthest = misses.rev().max_by_key(|(_, (fits_up_to, _))| *fits_up_to);
    match furthest {
        Some((pattern, (_, sentence))) if patterns.len() > 1 => {
            format!("{} {sentence}", pattern.pattern.name)
        }
        Some((_, (_, sentence))) => sentence,
        None => String::new(),
    }
}
