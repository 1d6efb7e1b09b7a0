//! Which records count as the same, which of them stays, and what it takes from the others.

use clap::Args;

#[derive(Debug, Args)]
#[command(next_help_heading = "Duplicates")]
pub(crate) struct DuplicateArguments {
    /// Which record of a mailbox stays: first, last, fullest, best (verdict, then fullest), newest:FIELD, oldest:FIELD, or
    /// where:FIELD=VALUE,VALUE in order of preference; ties fall to the first
    #[arg(long, value_name = "WHICH", default_value = "first")]
    pub(crate) survivor: String,

    /// Another field that must be equal, letter case and white space aside; can be repeated
    #[arg(long, value_name = "FIELD")]
    pub(crate) by: Vec<String>,

    /// Look for duplicates only among records with the same value of this field; can be repeated
    #[arg(long, value_name = "FIELD")]
    pub(crate) within: Vec<String>,

    /// Fill empty fields of the record that stays from its duplicates, the preferred first
    #[arg(long)]
    pub(crate) merge: bool,

    /// With --merge, join the differing values of this field; can be repeated
    #[arg(long, value_name = "FIELD", requires = "merge")]
    pub(crate) collect: Vec<String>,
}

impl DuplicateArguments {
    /// The fields whose values are joined, where records are merged.
    pub(crate) fn merged(&self) -> Option<Vec<String>> {
        self.merge.then(|| self.collect.clone())
    }
}
