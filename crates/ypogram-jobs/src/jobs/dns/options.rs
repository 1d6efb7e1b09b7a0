//! How the domain name system is asked.

use std::net::SocketAddr;
use std::time::Duration;

use jiff::SignedDuration;

/// How the domain name system is asked.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DnsOptions {
    /// The servers that are asked; without any, those of the system.
    pub resolvers: Vec<SocketAddr>,
    /// Domains that are asked about at once.
    pub at_once: usize,
    /// Questions a second at most.
    pub most_per_second: Option<u32>,
    /// How long a server has for an answer, before it or another is asked again.
    pub wait: Duration,
    /// How long everything about one domain may take.
    pub wait_for_domain: Duration,
    /// Answers that are older are asked again.
    pub keep: SignedDuration,
}

impl Default for DnsOptions {
    fn default() -> Self {
        DnsOptions {
            resolvers: Vec::new(),
            at_once: 200,
            most_per_second: None,
            wait: Duration::from_secs(3),
            wait_for_domain: Duration::from_secs(20),
            keep: SignedDuration::from_hours(24 * 7),
        }
    }
}
