//! A page that can be sent around.

use std::path::PathBuf;

use clap::Args;
use ypogram_io::{Error, Result};

#[derive(Debug, Args)]
#[command(next_help_heading = "Output")]
pub(crate) struct PageArguments {
    /// Write a page that can be sent around: it holds no record and no address, and its examples are masked
    #[arg(long, value_name = "FILE")]
    pub(crate) html: Option<PathBuf>,

    /// Let every figure of the page open its first fifty records, and show examples as they stand
    #[arg(long)]
    pub(crate) with_records: bool,
}

impl PageArguments {
    /// Refuses records of a page that is not written.
    ///
    /// # Errors
    /// Where none is, and there is not to be one.
    pub(crate) fn check(&self, is_written_otherwise: bool) -> Result<()> {
        match self.with_records && self.html.is_none() && !is_written_otherwise {
            true => Err(Error::unusable(
                "--with-records is about the page, and none is written",
                "name one with --html FILE",
            )),
            false => Ok(()),
        }
    }
}
