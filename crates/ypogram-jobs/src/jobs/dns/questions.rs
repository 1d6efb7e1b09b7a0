//! The questions about one domain, in the order of RFC 5321 §5.1: its mail hosts (MX), else its own addresses.

use std::collections::HashMap;
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use hickory_resolver::config::{
    ConnectionConfig, NameServerConfig, ResolveHosts, ResolverConfig, ResolverOpts,
};
use hickory_resolver::lookup::Lookup;
use hickory_resolver::net::runtime::TokioRuntimeProvider;
use hickory_resolver::net::{DnsError, NetError};
use hickory_resolver::proto::op::ResponseCode;
use hickory_resolver::proto::rr::{Name, RData, RecordType};
use hickory_resolver::{Resolver, TokioResolver};
use jiff::Timestamp;
use tokio::sync::OnceCell;
use tokio::time::Instant;
use ypogram_io::{Error, Result};

use crate::jobs::dns::answer::{Answer, AnswerKind};
use crate::jobs::dns::options::DnsOptions;

/// Mail hosts of one domain that are looked at: where these cannot be reached, more do not help.
const HOSTS: usize = 4;

/// Mail hosts that are remembered; many domains share one.
const REMEMBERED: usize = 50_000;

/// Asks the servers.
pub(super) struct Questions {
    resolver: TokioResolver,
    /// Whether a mail host can be reached, by its name.
    hosts: Mutex<HashMap<String, Arc<OnceCell<Reach>>>>,
    pace: Pace,
    wait_for_domain: Duration,
}

/// Whether a host can be reached.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Reach {
    /// It has a public address.
    Public,
    /// It has none, or does not exist.
    Nowhere,
    /// The servers did not answer.
    Unknown,
}

/// What came of one question.
enum Reply {
    Records(Lookup),
    /// It does not exist; for so many seconds.
    NoSuchName(u32),
    /// It has no such records; for so many seconds.
    NoRecords(u32),
    NotAnswered,
}

impl Questions {
    /// Opens the way to the servers; asks nothing yet.
    ///
    /// # Errors
    /// Where no server is known.
    pub(super) fn open(options: &DnsOptions) -> Result<Self> {
        let provider = TokioRuntimeProvider::default();
        let mut builder = match &options.resolvers[..] {
            [] => Resolver::builder(provider).map_err(|error| no_server(&error.to_string()))?,
            servers => {
                let name_servers = servers.iter().map(server).collect();
                let config = ResolverConfig::from_parts(None, Vec::new(), name_servers);
                Resolver::builder_with_config(config, provider)
            }
        };
        settle(builder.options_mut(), options);
        let resolver = builder.build().map_err(|error| no_server(&error.to_string()))?;
        let pace = Pace::of(options.most_per_second);
        let wait_for_domain = options.wait_for_domain;
        Ok(Questions { resolver, hosts: Mutex::default(), pace, wait_for_domain })
    }

    /// How long everything about one domain may take.
    pub(super) fn wait_for_domain(&self) -> Duration {
        self.wait_for_domain
    }

    /// What the domain name system says of a domain.
    pub(super) async fn answer(&self, domain: &str) -> Answer {
        let asked = Timestamp::now();
        let bare = |kind, ttl| Answer::bare(kind, ttl, asked);
        match self.ask(domain, RecordType::MX).await {
            Reply::NotAnswered => bare(AnswerKind::NotAnswered, 0),
            Reply::NoSuchName(ttl) => bare(AnswerKind::NoSuchDomain, ttl),
            Reply::NoRecords(ttl) => match self.reach(domain).await {
                Reach::Public => bare(AnswerKind::Address, ttl),
                Reach::Nowhere => bare(AnswerKind::Nothing, ttl),
                Reach::Unknown => bare(AnswerKind::NotAnswered, 0),
            },
            Reply::Records(lookup) => {
                let ttl = ttl_of(&lookup);
                let hosts = hosts_of(&lookup);
                let Some(preferred) = hosts.first() else { return bare(AnswerKind::NullMx, ttl) };
                let mut kind = AnswerKind::HostNotFound;
                for host in hosts.iter().take(HOSTS) {
                    match self.reach_of_host(host).await {
                        Reach::Public => {
                            return Answer {
                                kind: AnswerKind::MailHost,
                                mail_host: preferred.clone(),
                                ttl,
                                asked,
                            };
                        }
                        Reach::Nowhere => {}
                        Reach::Unknown => kind = AnswerKind::NotAnswered,
                    }
                }
                Answer { kind, mail_host: preferred.clone(), ttl, asked }
            }
        }
    }

    /// Whether a domain has mail hosts, wherever they are.
    pub(super) async fn mail_hosts(&self, domain: &str) -> AnswerKind {
        match self.ask(domain, RecordType::MX).await {
            Reply::Records(lookup) if hosts_of(&lookup).is_empty() => AnswerKind::NullMx,
            Reply::Records(_) => AnswerKind::MailHost,
            Reply::NoSuchName(_) => AnswerKind::NoSuchDomain,
            Reply::NoRecords(_) => AnswerKind::Nothing,
            Reply::NotAnswered => AnswerKind::NotAnswered,
        }
    }

    /// Whether a mail host can be reached; each is asked about once.
    async fn reach_of_host(&self, host: &str) -> Reach {
        let cell = {
            let mut hosts = self.hosts.lock().unwrap_or_else(PoisonError::into_inner);
            if hosts.len() > REMEMBERED {
                hosts.clear();
            }
            Arc::clone(hosts.entry(host.to_owned()).or_default())
        };
        *cell.get_or_init(|| self.reach(host)).await
    }

    async fn reach(&self, name: &str) -> Reach {
        let mut reach = Reach::Nowhere;
        for record_type in [RecordType::A, RecordType::AAAA] {
            match self.ask(name, record_type).await {
                Reply::Records(lookup) if lookup.answers().iter().any(|record| is_public(&record.data)) => {
                    return Reach::Public;
                }
                Reply::NotAnswered => reach = Reach::Unknown,
                Reply::NoSuchName(_) => return reach,
                Reply::Records(_) | Reply::NoRecords(_) => {}
            }
        }
        reach
    }

    async fn ask(&self, name: &str, record_type: RecordType) -> Reply {
        // With the dot behind it no domain of the system is tried in its place.
        let Ok(name) = Name::from_ascii(format!("{name}.")) else { return Reply::NoSuchName(0) };
        self.pace.wait().await;
        match self.resolver.lookup(name, record_type).await {
            Ok(lookup) if lookup.answers().iter().any(|record| record.record_type() == record_type) => {
                Reply::Records(lookup)
            }
            Ok(lookup) => Reply::NoRecords(ttl_of(&lookup)),
            Err(NetError::Dns(DnsError::NoRecordsFound(none))) => {
                let ttl = none.negative_ttl.unwrap_or_default();
                match none.response_code {
                    ResponseCode::NXDomain => Reply::NoSuchName(ttl),
                    ResponseCode::NoError => Reply::NoRecords(ttl),
                    _ => Reply::NotAnswered,
                }
            }
            Err(_) => Reply::NotAnswered,
        }
    }
}

fn settle(settings: &mut ResolverOpts, options: &DnsOptions) {
    settings.timeout = options.wait;
    settings.attempts = 2;
    settings.use_hosts_file = ResolveHosts::Never;
    // Over it a question is refused.
    settings.max_active_requests = options.at_once.max(1) * 4;
    settings.num_concurrent_reqs = 1;
    // Each name is asked about once, and hosts are remembered here.
    settings.cache_size = 64;
    settings.try_tcp_on_error = false;
}

fn server(address: &SocketAddr) -> NameServerConfig {
    let mut connections = vec![ConnectionConfig::udp(), ConnectionConfig::tcp()];
    connections.iter_mut().for_each(|connection| connection.port = address.port());
    NameServerConfig::new(address.ip(), true, connections)
}

#[cold]
fn no_server(why: &str) -> Error {
    Error::unusable(
        format!("the system names no server for the DNS: {why}"),
        "name one with --resolver ADDRESS",
    )
}

/// The mail hosts, the preferred one first; none where a null MX says that there are none (RFC 7505 §3).
fn hosts_of(lookup: &Lookup) -> Vec<String> {
    let mut hosts: Vec<(u16, String)> = lookup
        .answers()
        .iter()
        .filter_map(|record| match &record.data {
            RData::MX(mx) if !mx.exchange.is_root() => Some((mx.preference, name_of(&mx.exchange))),
            _ => None,
        })
        .collect();
    hosts.sort_unstable();
    hosts.dedup();
    hosts.into_iter().map(|(_, host)| host).collect()
}

fn name_of(name: &Name) -> String {
    name.to_ascii().trim_end_matches('.').to_ascii_lowercase()
}

fn ttl_of(lookup: &Lookup) -> u32 {
    lookup.answers().iter().map(|record| record.ttl).min().unwrap_or_default()
}

/// Whether mail from anywhere can get there.
fn is_public(data: &RData) -> bool {
    match data {
        RData::A(address) => leads_somewhere(IpAddr::V4(address.0)),
        RData::AAAA(address) => leads_somewhere(IpAddr::V6(address.0)),
        _ => false,
    }
}

/// Addresses of RFC 1918, 3927, 4193, 4291, 6598 and 6890 lead nowhere from outside.
fn leads_somewhere(address: IpAddr) -> bool {
    match address {
        IpAddr::V4(address) => {
            let bits = u32::from(address);
            let is_shared = bits & 0xffc0_0000 == u32::from(Ipv4Addr::new(100, 64, 0, 0));
            !(address.is_private()
                || address.is_loopback()
                || address.is_link_local()
                || address.is_unspecified()
                || address.is_broadcast()
                || address.is_multicast()
                || bits >> 24 == 0
                || is_shared)
        }
        IpAddr::V6(address) => match address.to_ipv4_mapped() {
            Some(mapped) => leads_somewhere(IpAddr::V4(mapped)),
            None => {
                !(address.is_loopback()
                    || address.is_unspecified()
                    || address.is_multicast()
                    || address.is_unique_local()
                    || address.is_unicast_link_local())
            }
        },
    }
}

/// How fast questions follow one another.
struct Pace {
    between: Option<Duration>,
    next: Mutex<Instant>,
}

impl Pace {
    fn of(most_per_second: Option<u32>) -> Self {
        let between = most_per_second.map(|most| Duration::from_secs(1) / most.max(1));
        Pace { between, next: Mutex::new(Instant::now()) }
    }

    /// Waits until the next question may be asked.
    async fn wait(&self) {
        let Some(between) = self.between else { return };
        let turn = {
            let mut next = self.next.lock().unwrap_or_else(PoisonError::into_inner);
            let turn = (*next).max(Instant::now());
            *next = turn + between;
            turn
        };
        tokio::time::sleep_until(turn).await;
    }
}
