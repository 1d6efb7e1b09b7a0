//! What a job wants of entries besides its policy.

use crate::house_format::HouseFormat;
use crate::model::class::Class;
use crate::policy::pattern::Pattern;

/// What a job wants of entries besides its policy.
#[derive(Clone, Copy, Debug, Default)]
pub struct Wanted<'w> {
    /// Classes that are not wanted.
    pub without: &'w [Class],
    /// The house's own formats.
    pub formats: &'w [HouseFormat],
    /// There are no addresses at other domains.
    pub everyone: bool,
    /// Patterns of which one should fit.
    pub patterns: &'w [Pattern],
}
