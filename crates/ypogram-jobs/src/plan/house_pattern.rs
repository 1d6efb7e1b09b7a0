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

    /// Whether it fits a value, of which both forms are given.
    pub fn fits(&self, as_it_stands: &[u8], standard_form: &[u8]) -> bool {
        self.pattern.fits(self.form(as_it_stands, standard_form))
    }
}
