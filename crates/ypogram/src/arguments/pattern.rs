//! Patterns on the command line.

use clap::Args;
use ypogram_io::Result;
use ypogram_jobs::HousePattern;

use crate::rulebook::Rulebook;

/// The patterns that values should fit.
#[derive(Clone, Debug, Default, Args)]
pub(crate) struct PatternArguments {
    /// A pattern of the rulebook, or a ready-made one (`ypogram rules patterns` has them), that values should fit; can be repeated, then the
    /// first that fits is named
    #[arg(long = "pattern", value_name = "NAME", help_heading = "Judging")]
    pub(crate) names: Vec<String>,
}

impl PatternArguments {
    /// The patterns themselves, in that order.
    ///
    /// # Errors
    /// Where one is not there, or is no regular expression.
    pub(crate) fn of(&self, rulebook: &Rulebook) -> Result<Vec<HousePattern>> {
        self.names.iter().map(|name| rulebook.pattern(name)).collect()
    }
}
