//! What `demo` takes.

use std::path::PathBuf;

use clap::Args;

/// Write the demo files into a folder, clean them, and show what was found
#[derive(Debug, Args)]
pub(crate) struct DemoArguments {
    /// Folder to write them into
    #[arg(short, long, value_name = "FOLDER", default_value = "fernhollow-demo")]
    pub(crate) output: PathBuf,
}
