//! What `explain` takes.

use clap::Args;

use super::JudgingArguments;

/// Tell everything about an address: what is wrong and where, its parts, its mailbox, what was probably meant
#[derive(Debug, Args)]
#[command(
    after_help = "Exit codes: 0 every address is accepted or for review; 1 one is rejected, or there is none."
)]
pub(crate) struct ExplainArguments {
    /// Addresses, as they stand: with name, brackets or mailto: around them
    #[arg(required = true, value_name = "ADDRESS")]
    pub(crate) addresses: Vec<std::ffi::OsString>,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) dns: super::DnsArguments,

    #[command(flatten)]
    pub(crate) house: crate::house::HouseArguments,

    #[command(flatten)]
    pub(crate) patterns: super::PatternArguments,

    /// With a house format, the given name of whoever has the address [default: not known, and any fits]
    #[arg(long, value_name = "NAME", help_heading = "Judging")]
    pub(crate) given: Option<String>,

    /// With a house format, the family name
    #[arg(long, value_name = "NAME", help_heading = "Judging")]
    pub(crate) family: Option<String>,

    /// Judge exactly what was typed: whatever a clean-up would repair is a fault
    #[arg(long, help_heading = "Judging")]
    pub(crate) as_typed: bool,

    /// Print JSON
    #[arg(long, help_heading = "Output")]
    pub(crate) json: bool,
}
