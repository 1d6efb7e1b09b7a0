//! What becomes of records that share a mailbox with another person's.

use clap::ValueEnum;
use ypogram_jobs::Shared;

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum SharedArgument {
    /// Somebody looks at it
    Review,
    /// It stays as well, one record for each person
    Keep,
    /// It goes like any other duplicate
    Drop,
}

impl From<SharedArgument> for Shared {
    fn from(argument: SharedArgument) -> Self {
        match argument {
            SharedArgument::Review => Shared::Review,
            SharedArgument::Keep => Shared::Keep,
            SharedArgument::Drop => Shared::Drop,
        }
    }
}
