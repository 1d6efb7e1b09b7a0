//! 50,000 domains at NSD, an authoritative server of Debian, beside a bare loop over the same names: rate and memory. It takes a minute and is run by
//! `.ci/full`; where there is no `nsd` it says so.

#![cfg(all(feature = "dns", target_os = "linux"))]

use std::fmt::Write as _;
use std::net::{SocketAddr, UdpSocket};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use futures_util::StreamExt as _;
use hickory_resolver::Resolver;
use hickory_resolver::config::{ConnectionConfig, NameServerConfig, ResolverConfig};
use hickory_resolver::net::runtime::TokioRuntimeProvider;
use hickory_resolver::proto::rr::RecordType;
use tempfile::TempDir;
use ypogram_jobs::Progress;
use ypogram_jobs::dns::{self, AnswerKind, AskProgress, DnsOptions};

const DOMAINS: usize = 50_000;

/// Of ten domains six have mail hosts, one each a null MX, an address alone, nothing, and is not there.
fn kind(nth: usize) -> AnswerKind {
    match nth % 10 {
        0..6 => AnswerKind::MailHost,
        6 => AnswerKind::NullMx,
        7 => AnswerKind::Address,
        8 => AnswerKind::Nothing,
        _ => AnswerKind::NoSuchDomain,
    }
}

struct Nsd(Child);

impl Drop for Nsd {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

fn start(folder: &Path) -> Option<(Nsd, SocketAddr)> {
    let address = UdpSocket::bind("127.0.0.1:0").unwrap().local_addr().unwrap();
    let head = |zone: &str| {
        format!("$ORIGIN {zone}.\n$TTL 3600\n@ SOA ns admin 1 3600 600 86400 300\n@ NS ns\nns A 127.0.0.1\n")
    };
    let (mut com, mut net) = (head("com"), head("net"));
    for nth in 0..DOMAINS {
        let _ = match kind(nth) {
            AnswerKind::MailHost => writeln!(com, "d{nth} MX 10 mx{}.hosts.net.", nth % 500),
            AnswerKind::NullMx => writeln!(com, "d{nth} MX 0 ."),
            AnswerKind::Address => writeln!(com, "d{nth} A 203.0.113.9"),
            AnswerKind::Nothing => writeln!(com, "d{nth} TXT nothing"),
            _ => Ok(()),
        };
    }
    for provider in ["gmail", "outlook", "yahoo", "icloud"] {
        let _ = writeln!(com, "{provider} MX 10 mx1.hosts.net.");
    }
    let _ = writeln!(net, "gmx MX 10 mx1.hosts.net.");
    for nth in 0..500 {
        let _ = writeln!(net, "mx{nth}.hosts A 203.0.113.{}", nth % 250 + 1);
    }
    std::fs::write(folder.join("com.zone"), com).unwrap();
    std::fs::write(folder.join("net.zone"), net).unwrap();
    let at = folder.display();
    let settings = format!(
        "server:\n ip-address: 127.0.0.1@{}\n zonesdir: {at}\n username: \"\"\n pidfile: \"{at}/pid\"\n database: \"\"\n \
         zonelistfile: \"{at}/zones\"\n xfrdfile: \"{at}/xfrd\"\n logfile: \"{at}/log\"\n rrl-ratelimit: 0\n\
         remote-control:\n control-enable: no\n\
         zone:\n name: com\n zonefile: com.zone\nzone:\n name: net\n zonefile: net.zone\n",
        address.port()
    );
    let file = folder.join("nsd.conf");
    std::fs::write(&file, settings).unwrap();
    let started = Command::new("nsd")
        .arg("-d")
        .arg("-c")
        .arg(&file)
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn();
    let server = Nsd(started.ok()?);
    // It reads its zones first.
    let asked = || {
        let socket = UdpSocket::bind("127.0.0.1:0").unwrap();
        socket.set_read_timeout(Some(Duration::from_millis(200))).unwrap();
        let query = b"\x00\x01\x00\x00\x00\x01\x00\x00\x00\x00\x00\x00\x05gmail\x03com\x00\x00\x0f\x00\x01";
        let _ = socket.send_to(query, address);
        socket.recv(&mut [0; 512]).is_ok_and(|bytes| bytes > 40)
    };
    let start = Instant::now();
    while !asked() {
        assert!(start.elapsed() < Duration::from_secs(60), "nsd does not answer; its log is {at}/log");
    }
    Some((server, address))
}

/// The most memory of this process so far, in MB.
fn peak() -> u64 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap();
    let line = status.lines().find(|line| line.starts_with("VmHWM")).unwrap();
    line.split_whitespace().nth(1).unwrap().parse::<u64>().unwrap() >> 10
}

#[test]
#[ignore = "it measures, and needs nsd: .ci/full runs it"]
fn half_the_rate_of_a_bare_loop() {
    let folder = TempDir::new().unwrap();
    let Some((_server, address)) = start(folder.path()) else {
        println!("nsd is not installed, so nothing was asked: apt-get install nsd");
        return;
    };
    let domains: Vec<String> = (0..DOMAINS).map(|nth| format!("d{nth}.com")).collect();
    let options = DnsOptions { resolvers: vec![address], ..DnsOptions::default() };
    let mut rates = (Vec::new(), Vec::new());
    for _ in 0..3 {
        let start = Instant::now();
        let asked = dns::ask(&domains, &options, &Progress::default(), &AskProgress::default()).unwrap();
        rates.0.push(DOMAINS as f64 / start.elapsed().as_secs_f64());
        for (nth, domain) in domains.iter().enumerate() {
            assert_eq!(asked.answers[domain].kind, kind(nth), "{domain}");
        }
        if rates.1.is_empty() {
            println!("memory: {} MB at most", peak());
            assert!(peak() < 250, "{} MB", peak());
        }
        let start = Instant::now();
        bare(&domains, address);
        rates.1.push(DOMAINS as f64 / start.elapsed().as_secs_f64());
    }
    let median = |rates: &mut Vec<f64>| {
        rates.sort_by(f64::total_cmp);
        rates[rates.len() / 2]
    };
    let (ours, bare) = (median(&mut rates.0), median(&mut rates.1));
    println!(
        "domains a second: {ours:.0}; names a second in a bare loop of one question each: {bare:.0}; ratio {:.2}",
        ours / bare
    );
}

/// The mail hosts of each name asked for with the same crate, and nothing else done.
fn bare(domains: &[String], address: SocketAddr) {
    let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build().unwrap();
    runtime.block_on(async {
        let mut connections = vec![ConnectionConfig::udp(), ConnectionConfig::tcp()];
        connections.iter_mut().for_each(|connection| connection.port = address.port());
        let servers = vec![NameServerConfig::new(address.ip(), true, connections)];
        let config = ResolverConfig::from_parts(None, Vec::new(), servers);
        let mut builder = Resolver::builder_with_config(config, TokioRuntimeProvider::default());
        builder.options_mut().max_active_requests = 1000;
        let resolver = builder.build().unwrap();
        let all = domains.iter().map(|domain| resolver.lookup(format!("{domain}."), RecordType::MX));
        let answered = futures_util::stream::iter(all)
            .buffer_unordered(200)
            .filter(|answer| std::future::ready(answer.is_ok()));
        assert_eq!(answered.count().await, DOMAINS * 7 / 10);
    });
}
