//! Domains are asked about at a real server on loopback, with every case; the answers are kept, and read as they were written.

#![cfg(feature = "dns")]

mod dns_server;

use std::collections::BTreeMap;
use std::time::{Duration, Instant};

use dns_server::{DnsServer, Kind};
use jiff::{SignedDuration, Timestamp};
use proptest::prelude::*;
use tempfile::TempDir;
use ypogram_core::Policy;
use ypogram_jobs::Progress;
use ypogram_jobs::dns::{self, Answer, AnswerKind, Answers, AskProgress, Asked, DnsOptions, Others, Store};

/// Every case: how its names begin, how many there are, and what is found out.
const CASES: [(&str, usize, AnswerKind); 19] = [
    ("mail", 5000, AnswerKind::MailHost),
    ("newer", 100, AnswerKind::MailHost),
    ("null", 1000, AnswerKind::NullMx),
    ("gone", 1500, AnswerKind::NoSuchDomain),
    ("addr", 1000, AnswerKind::Address),
    ("none", 500, AnswerKind::Nothing),
    ("lost", 300, AnswerKind::HostNotFound),
    ("private", 300, AnswerKind::HostNotFound),
    ("chain", 100, AnswerKind::MailHost),
    ("toalias", 50, AnswerKind::MailHost),
    ("large", 50, AnswerKind::MailHost),
    ("late", 50, AnswerKind::MailHost),
    ("flood", 5, AnswerKind::MailHost),
    ("fail", 20, AnswerKind::NotAnswered),
    ("loop", 5, AnswerKind::Nothing),
    ("silent", 5, AnswerKind::NotAnswered),
    ("wrongid", 5, AnswerKind::NotAnswered),
    ("garbage", 5, AnswerKind::NotAnswered),
    ("wild.gone", 5, AnswerKind::NoSuchDomain),
];

fn domains() -> Vec<(String, AnswerKind)> {
    let of = |(what, count, kind): (&'static str, usize, AnswerKind)| {
        (0..count).map(move |nth| (format!("{what}{nth}.com"), kind))
    };
    CASES.into_iter().flat_map(of).collect()
}

fn options(server: &DnsServer) -> DnsOptions {
    DnsOptions {
        resolvers: vec![server.address],
        wait: Duration::from_secs(2),
        wait_for_domain: Duration::from_secs(15),
        ..DnsOptions::default()
    }
}

fn ask(domains: &[String], options: &DnsOptions) -> ypogram_io::Result<Asked> {
    dns::ask(domains, options, &Progress::default(), &AskProgress::default())
}

#[test]
fn every_case_of_ten_thousand_domains() {
    let server = DnsServer::start(Kind::Good);
    let expected: BTreeMap<String, AnswerKind> = domains().into_iter().collect();
    let names: Vec<String> = expected.keys().cloned().collect();
    assert!(names.len() >= 10_000);
    let asked = ask(&names, &options(&server)).unwrap();
    assert!(!asked.no_network && !asked.stopped);
    let told: BTreeMap<String, AnswerKind> =
        asked.answers.iter().map(|(domain, answer)| (domain.clone(), answer.kind)).collect();
    let other: Vec<_> = told.iter().filter(|(domain, kind)| expected[*domain] != **kind).take(5).collect();
    assert_eq!((told.len(), &other[..]), (names.len(), &[][..]));
    assert_eq!(asked.answers["mail7.com"].mail_host, "mx7.hosts.net");
    assert_eq!(asked.answers["mail7.com"].ttl, 3600);
    assert_eq!(asked.answers["gone7.com"].ttl, 300);
    // Each is asked about once, but for those that do not answer; a mail host of many too.
    let counts = server.asked_for_mail_hosts();
    // Whoever is led in circles asks again.
    let asks_again = |domain: &str| domain.starts_with("flood") || domain.starts_with("loop");
    let is_asked_once = |domain: &str, kind| kind != AnswerKind::NotAnswered && !asks_again(domain);
    for (domain, kind) in expected.iter().filter(|(domain, kind)| is_asked_once(domain, **kind)) {
        assert_eq!(counts.get(domain), Some(&1), "{domain}: {kind:?}");
    }
    assert_eq!(server.asked_for_address("mx7.hosts.net"), 1);
}

#[test]
fn servers_that_do_not_answer_for_the_internet() {
    let names = vec!["mail1.com".to_owned()];
    for (kind, told) in [
        (Kind::SaysYes, "cannot exist, and it says that it does"),
        (Kind::KnowsNothing, "gmail.com takes mail"),
    ] {
        let error = ask(&names, &options(&DnsServer::start(kind))).unwrap_err();
        assert!(error.to_string().contains(told), "{error}");
    }
    // A port at which nobody listens.
    let nobody = std::net::UdpSocket::bind("127.0.0.1:0").unwrap().local_addr().unwrap();
    let none =
        DnsOptions { resolvers: vec![nobody], wait: Duration::from_millis(50), ..DnsOptions::default() };
    let asked = ask(&names, &none).unwrap();
    assert!(asked.no_network && asked.answers["mail1.com"].kind == AnswerKind::NotAnswered);
}

/// Somebody who wants to stop keeps what was learnt; so many questions a second are asked and no more.
#[test]
fn stopping_and_pace() {
    let server = DnsServer::start(Kind::Good);
    let names: Vec<String> = (0..400).map(|nth| format!("null{nth}.com")).collect();
    let slow = DnsOptions { most_per_second: Some(100), ..options(&server) };
    let (progress, done, start) = (Progress::default(), AskProgress::default(), Instant::now());
    let asked = std::thread::scope(|scope| {
        scope.spawn(|| {
            while done.done() < 50 {
                std::thread::sleep(Duration::from_millis(5));
            }
            progress.stop();
        });
        dns::ask(&names, &slow, &progress, &done).unwrap()
    });
    assert!(asked.stopped && (50..200).contains(&asked.answers.len()), "{}", asked.answers.len());
    let questions = asked.answers.len() as u64 + 6;
    assert!(start.elapsed() >= Duration::from_millis((questions - 1) * 10), "{questions}");
}

fn any_answer() -> impl Strategy<Value = Answer> {
    (0..AnswerKind::ALL.len(), "[a-z]{0,8}", any::<u32>(), 0..4_000_000_000_i64).prop_map(
        |(kind, mail_host, ttl, asked)| Answer {
            kind: AnswerKind::ALL[kind],
            mail_host,
            ttl,
            asked: Timestamp::from_second(asked).unwrap(),
        },
    )
}

proptest! {
    /// Whatever is kept is read as it was written; what was not answered is not kept; two runs add to one file.
    #[test]
    fn answers_are_kept(
        one in prop::collection::btree_map("[a-z]{1,6}\\.com", any_answer(), 0..20),
        other in prop::collection::btree_map("[a-z]{1,6}\\.com", any_answer(), 0..20),
    ) {
        let folder = TempDir::new().unwrap();
        let file = folder.path().join("new folder").join("dns.csv");
        dns::add_to(&file, &one).unwrap();
        dns::add_to(&file, &other).unwrap();
        let kept = |store: &Store| -> Store {
            let kept = store.iter().filter(|(_, answer)| answer.kind != AnswerKind::NotAnswered);
            kept.map(|(domain, answer)| (domain.clone(), answer.clone())).collect()
        };
        let mut expected = kept(&one);
        expected.extend(kept(&other));
        prop_assert_eq!(&dns::load(&file, false).unwrap(), &expected);
        for answer in expected.values() {
            let is_old = answer.is_old(answer.asked + SignedDuration::from_secs(60), SignedDuration::from_secs(60));
            prop_assert_eq!(is_old, answer.ttl <= 60);
        }
        // The hash tells the answers, whenever they were asked.
        let hash = |store: Store| {
            let answers = Answers::of(store, Others::Nothing, &Policy::default());
            ypogram_core::DnsAnswers::hash(&answers)
        };
        let mut later = expected.clone();
        later.values_mut().for_each(|answer| answer.asked = Timestamp::UNIX_EPOCH);
        prop_assert_eq!(hash(expected.clone()), hash(later.clone()));
        if let Some(answer) = later.values_mut().next() {
            answer.mail_host.push('x');
            prop_assert_ne!(hash(expected), hash(later));
        }
    }
}

#[test]
fn damaged_files_are_errors_with_their_line() {
    let folder = TempDir::new().unwrap();
    let file = folder.path().join("dns.csv");
    let header = "domain,answer,mail_host,ttl,asked\n";
    for (text, told) in [
        ("a,b\n".to_owned(), "line 1: the columns are not"),
        (format!("{header}a.com,yes,,1,2026-12-01T00:00:00Z\n"), "line 2: ‘yes’ is no answer"),
        (format!("{header}a.com,null-mx,,soon,2026-12-01T00:00:00Z\n"), "line 2: ‘soon’"),
        (format!("{header}a.com,null-mx,,1,yesterday\n"), "‘yesterday’ is no time"),
        (format!("{header}A.com,null-mx,,1,2026-12-01T00:00:00Z\n"), "‘A.com’ is no domain"),
        (format!("{header}a.com,null-mx\n"), "line 2"),
    ] {
        std::fs::write(&file, &text).unwrap();
        let error = dns::load(&file, true).unwrap_err().to_string();
        assert!(error.contains(told), "{text}: {error}");
    }
    assert!(dns::load(&folder.path().join("none.csv"), true).unwrap().is_empty());
    assert!(dns::load(&folder.path().join("none.csv"), false).is_err());
}
