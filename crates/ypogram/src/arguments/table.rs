//! What happens to the table of a database that an output names.

use clap::Args;
use ypogram_io::IfThere;

use super::OutputArguments;

/// What happens to the table of a database that an output names.
#[derive(Debug, Args)]
#[command(next_help_heading = "Output")]
pub(crate) struct TableArguments {
    /// Add the rows to the table of a database that -o names, by the names of its columns, in one transaction
    #[arg(long, conflicts_with = "force", requires = "output")]
    pub(crate) append: bool,
}

impl TableArguments {
    /// What happens to an output that is there.
    pub(crate) fn if_there(&self, output: &OutputArguments) -> IfThere {
        if self.append { IfThere::Append } else { IfThere::of_force(output.force) }
    }
}
