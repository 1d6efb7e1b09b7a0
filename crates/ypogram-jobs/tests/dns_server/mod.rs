//! A server for the domain name system on loopback, whose answers follow from the names. The messages are put together by hand (RFC 1035 §4).

use std::collections::HashMap;
use std::io::{Read as _, Write as _};
use std::net::{SocketAddr, TcpListener, UdpSocket};
use std::sync::{Arc, Mutex};
use std::time::Duration;

/// The server.
pub(crate) struct DnsServer {
    pub(crate) address: SocketAddr,
    asked: Arc<Mutex<HashMap<(String, u16), usize>>>,
}

/// What a server does for names that it does not know.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(crate) enum Kind {
    /// It answers for the Internet.
    Good,
    /// It says that everything exists, as servers of hotels do.
    SaysYes,
    /// It knows the names of a house alone.
    KnowsNothing,
}

const A: u16 = 1;
const CNAME: u16 = 5;
const SOA: u16 = 6;
const MX: u16 = 15;
const AAAA: u16 = 28;

/// What a server says to a question.
enum Reply {
    Records(Vec<Record>),
    NoSuchName,
    NoRecords,
    Failed,
    Silent,
    Late(Vec<Record>),
    /// Too much for one datagram.
    Large(Vec<Record>),
    /// With the identifier of another question, and never with the right one.
    WrongId,
    Garbage,
    /// Very often with wrong identifiers, then right.
    Flood(Vec<Record>),
}

type Record = (String, u16, Vec<u8>);

impl DnsServer {
    pub(crate) fn start(kind: Kind) -> Self {
        // The same port for both, as servers have it.
        let (udp, tcp) = loop {
            let udp = UdpSocket::bind("127.0.0.1:0").unwrap();
            if let Ok(tcp) = TcpListener::bind(udp.local_addr().unwrap()) {
                break (udp, tcp);
            }
        };
        let address = udp.local_addr().unwrap();
        let asked: Arc<Mutex<HashMap<(String, u16), usize>>> = Arc::default();
        let (count, of_stream) = (Arc::clone(&asked), Arc::clone(&asked));
        std::thread::spawn(move || {
            let mut buffer = [0; 2048];
            while let Ok((length, from)) = udp.recv_from(&mut buffer) {
                let Some((name, record_type)) = question(&buffer[..length]) else { continue };
                *count.lock().unwrap().entry((name.clone(), record_type)).or_default() += 1;
                let send = |message: &[u8]| drop(udp.send_to(message, from));
                let query = &buffer[..length];
                match reply(kind, &name, record_type) {
                    Reply::Silent => {}
                    Reply::Late(records) => {
                        let (udp, message) = (udp.try_clone().unwrap(), message(query, 0, &records));
                        std::thread::spawn(move || {
                            std::thread::sleep(Duration::from_millis(120));
                            udp.send_to(&message, from)
                        });
                    }
                    Reply::WrongId => send(&with_other_id(message(query, 0, &[address_of("x.com")]), 1)),
                    Reply::Garbage => {
                        send(&[query[0], query[1], 0x81, 0x80, 0, 9, 255, 255, 0, 0, 7, 7, 192, 12, 192])
                    }
                    Reply::Flood(records) => {
                        for nth in 0..500 {
                            send(&with_other_id(message(query, 3, &[]), nth + 1));
                        }
                        send(&message(query, 0, &records));
                    }
                    Reply::Large(_) => {
                        let mut short = message(query, 0, &[]);
                        short[2] |= 2;
                        send(&short);
                    }
                    plain => send(&plain_message(query, plain)),
                }
            }
        });
        std::thread::spawn(move || {
            for mut stream in tcp.incoming().flatten() {
                let asked = Arc::clone(&of_stream);
                std::thread::spawn(move || {
                    let mut length = [0; 2];
                    while stream.read_exact(&mut length).is_ok() {
                        let mut query = vec![0; usize::from(u16::from_be_bytes(length))];
                        if stream.read_exact(&mut query).is_err() {
                            return;
                        }
                        let Some((name, record_type)) = question(&query) else { return };
                        // A busy system loses datagrams; what comes over a stream instead is the same question.
                        asked.lock().unwrap().entry((name.clone(), record_type)).or_insert(1);
                        let message = plain_message(&query, reply(kind, &name, record_type));
                        let length = u16::try_from(message.len()).unwrap().to_be_bytes();
                        if stream.write_all(&[&length[..], &message].concat()).is_err() {
                            return;
                        }
                    }
                });
            }
        });
        DnsServer { address, asked }
    }

    /// How often the server was asked for the mail hosts of each name.
    pub(crate) fn asked_for_mail_hosts(&self) -> HashMap<String, usize> {
        let asked = self.asked.lock().unwrap();
        asked
            .iter()
            .filter(|((_, of), _)| *of == MX)
            .map(|((name, _), count)| (name.clone(), *count))
            .collect()
    }

    /// How often it was asked for the addresses of a name.
    #[allow(dead_code, reason = "not all tests that share the server ask")]
    pub(crate) fn asked_for_address(&self, name: &str) -> usize {
        self.asked.lock().unwrap().get(&(name.to_owned(), A)).copied().unwrap_or_default()
    }
}

/// What is said of a name: what it is follows from its letters, as `null7.com`.
fn reply(kind: Kind, name: &str, record_type: u16) -> Reply {
    const PROVIDERS: [&str; 5] = ["gmail.com", "outlook.com", "yahoo.com", "icloud.com", "gmx.net"];
    if kind == Kind::SaysYes {
        return Reply::Records(vec![mail_host(name, 10, "mx.hotel.net"), address_of(name)]);
    }
    if kind == Kind::Good && PROVIDERS.contains(&name) && record_type == MX {
        return Reply::Records(vec![mail_host(name, 5, &format!("mx.{name}"))]);
    }
    let label = name.split('.').next().unwrap_or_default();
    let what = label.trim_end_matches(|c: char| c.is_ascii_digit());
    let number: usize = label[what.len()..].parse().unwrap_or_default();
    let host = format!("mx{}.hosts.net", number % 50);
    let of_type =
        |records: Vec<Record>| if records.is_empty() { Reply::NoRecords } else { Reply::Records(records) };
    let only = |of: u16, record: Record| of_type(if record_type == of { vec![record] } else { Vec::new() });
    match what {
        "mx" => only(A, address_of(name)),
        "six" => {
            only(AAAA, (name.to_owned(), AAAA, vec![0x20, 1, 0xd, 0xb9, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1]))
        }
        "inside" => only(A, (name.to_owned(), A, vec![10, 0, 0, 1])),
        "mail" => {
            let two = vec![mail_host(name, 20, "inside1.hosts.net"), mail_host(name, 10, &host)];
            of_type(if record_type == MX { two } else { Vec::new() })
        }
        "newer" => only(MX, mail_host(name, 10, "six1.hosts.net")),
        "null" => only(MX, mail_host(name, 0, "")),
        "addr" => only(A, address_of(name)),
        "none" => Reply::NoRecords,
        "lost" => only(MX, mail_host(name, 10, "gone.hosts.net")),
        "private" => only(MX, mail_host(name, 10, "inside1.hosts.net")),
        "chain" => Reply::Records(vec![
            (name.to_owned(), CNAME, labels(&format!("chain{number}b.net"))),
            (format!("chain{number}b.net"), CNAME, labels("mail1.com")),
            mail_host("mail1.com", 10, "mx1.hosts.net"),
        ]),
        "loop" => Reply::Records(vec![(name.to_owned(), CNAME, labels(name))]),
        "alias" => Reply::Records(vec![
            (name.to_owned(), CNAME, labels("mx1.hosts.net")),
            address_of("mx1.hosts.net"),
        ]),
        "toalias" => only(MX, mail_host(name, 10, "alias1.hosts.net")),
        "large" if record_type == MX => {
            Reply::Large((0..60).map(|nth| mail_host(name, nth, &format!("mx{nth}.hosts.net"))).collect())
        }
        "fail" => Reply::Failed,
        "silent" => Reply::Silent,
        "late" if record_type == MX => Reply::Late(vec![mail_host(name, 10, &host)]),
        "wrongid" => Reply::WrongId,
        "garbage" => Reply::Garbage,
        "flood" if record_type == MX => Reply::Flood(vec![mail_host(name, 10, &host)]),
        _ => Reply::NoSuchName,
    }
}

fn mail_host(name: &str, preference: u16, host: &str) -> Record {
    (name.to_owned(), MX, [&preference.to_be_bytes()[..], &labels(host)].concat())
}

fn address_of(name: &str) -> Record {
    (name.to_owned(), A, vec![203, 0, 113, 7])
}

fn labels(name: &str) -> Vec<u8> {
    let mut out = Vec::new();
    for label in name.split('.').filter(|label| !label.is_empty()) {
        out.push(label.len() as u8);
        out.extend_from_slice(label.as_bytes());
    }
    out.push(0);
    out
}

/// The name that is asked for, in lower case, and the type.
fn question(query: &[u8]) -> Option<(String, u16)> {
    let (mut at, mut name) = (12, Vec::new());
    while *query.get(at)? > 0 {
        let length = usize::from(query[at]);
        name.push(String::from_utf8_lossy(query.get(at + 1..at + 1 + length)?).to_lowercase());
        at += 1 + length;
    }
    Some((name.join("."), u16::from_be_bytes([*query.get(at + 1)?, *query.get(at + 2)?])))
}

fn plain_message(query: &[u8], reply: Reply) -> Vec<u8> {
    match reply {
        Reply::Records(records) | Reply::Large(records) | Reply::Late(records) | Reply::Flood(records) => {
            message(query, 0, &records)
        }
        Reply::NoSuchName => message(query, 3, &[]),
        Reply::NoRecords => message(query, 0, &[]),
        _ => message(query, 2, &[]),
    }
}

/// An answer with that code to a question; without records it has the SOA record that says for how long there are none.
fn message(query: &[u8], code: u8, records: &[Record]) -> Vec<u8> {
    let mut end = 12;
    while query[end] > 0 {
        end += 1 + usize::from(query[end]);
    }
    let question = &query[12..end + 5];
    let negative = records.is_empty() && code != 2;
    let counts = [1, records.len() as u16, u16::from(negative), 0];
    let mut out = vec![query[0], query[1], 0x81, 0x80 | code];
    counts.iter().for_each(|count| out.extend_from_slice(&count.to_be_bytes()));
    out.extend_from_slice(question);
    let soa = || {
        let numbers = [1_u32, 3600, 600, 86_400, 300].map(u32::to_be_bytes).concat();
        ("com".to_owned(), SOA, [labels("ns.com"), labels("admin.com"), numbers].concat())
    };
    for (name, record_type, data) in records.iter().cloned().chain(negative.then(soa)) {
        out.extend_from_slice(&labels(&name));
        out.extend_from_slice(&record_type.to_be_bytes());
        out.extend_from_slice(&[0, 1, 0, 0, 0x0e, 0x10]);
        out.extend_from_slice(&(data.len() as u16).to_be_bytes());
        out.extend_from_slice(&data);
    }
    out
}

fn with_other_id(mut message: Vec<u8>, by: u16) -> Vec<u8> {
    let id = u16::from_be_bytes([message[0], message[1]]).wrapping_add(by).to_be_bytes();
    message[..2].copy_from_slice(&id);
    message
}
