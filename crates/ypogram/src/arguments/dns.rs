//! Whether the domain name system is asked, and how: the same everywhere.

use std::net::{IpAddr, SocketAddr};
use std::path::PathBuf;

use clap::Args;

/// Whether the domain name system is asked.
#[derive(Clone, Debug, Default, Args)]
#[command(next_help_heading = "DNS")]
pub(crate) struct DnsArguments {
    /// Ask the DNS about each domain once: whether it exists and takes mail. No mail server is contacted, and no local part leaves the machine
    #[arg(long)]
    pub(crate) ask_dns: bool,

    /// The server to ask, as 192.0.2.53 or 192.0.2.53:5353; can be repeated [default: those of the system]
    #[arg(long, value_name = "ADDRESS", requires = "ask_dns", value_parser = server)]
    pub(crate) resolver: Vec<SocketAddr>,

    /// Ask at most so many questions a second
    #[arg(long, value_name = "N", requires = "ask_dns", value_parser = clap::value_parser!(u32).range(1..))]
    pub(crate) most_per_second: Option<u32>,

    /// The file with the answers that are kept [default: dns.csv in the folder ypogram of the user's caches]
    #[arg(long, value_name = "FILE", requires = "ask_dns")]
    pub(crate) dns_cache: Option<PathBuf>,

    /// Take the answers from this file and ask nobody: the same result whenever it is run
    #[arg(long, value_name = "FILE", conflicts_with = "ask_dns")]
    pub(crate) dns_snapshot: Option<PathBuf>,
}

/// The address of a server, with its port or without.
pub(crate) fn server(text: &str) -> Result<SocketAddr, String> {
    const PORT: u16 = 53;
    let bare = text.trim_start_matches('[').trim_end_matches(']');
    let with_port = text.parse::<SocketAddr>().ok();
    let without = || bare.parse::<IpAddr>().ok().map(|address| SocketAddr::new(address, PORT));
    with_port
        .or_else(without)
        .ok_or_else(|| "give an IP address, such as 192.0.2.53 or [2001:db8::53]:53".into())
}
