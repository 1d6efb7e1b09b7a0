//! A pattern of the rulebook, and which form of a value it is held against.

use ypogram_core::Pattern;

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
    /// Whether it fits a value, of which both forms are given.
    pub fn fits(&self, as_it_stands: &[u8], standard_form: &[u8]) -> bool {
        self.pattern.fits(match self.of {
            PatternOf::AsItStands => as_it_stands,
            PatternOf::StandardForm => standard_form,
        })
    }
}
