//! Answers of the domain name system, from a snapshot and from a real server on loopback.

use std::collections::BTreeMap;

use crate::dns_server::{DnsServer, Kind};
use crate::{Place, table};

/// The demo by its snapshot, offline: what is found, the same bytes every time, and a clean-up that is settled by the same answers.
#[test]
fn the_demo_by_its_snapshot() {
    let place = Place::with_demo();
    let run = place.run("check members.csv --dns-snapshot dns.csv -q");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let rows = table(&run.stdout);
    let answers = table(&place.read("dns.csv"));
    let answer: BTreeMap<&str, &str> = answers.iter().map(|row| (&*row["domain"], &*row["answer"])).collect();
    let codes = ["no-such-domain", "takes-no-mail", "no-mail-host", "mail-host-not-found", "not-answered"];
    let mut raised = BTreeMap::new();
    // A domain whose name is at fault is not asked about.
    let is_asked = |row: &&BTreeMap<String, String>| {
        !["", "reserved"].contains(&&*row["yp_class"]) && !row["yp_address"].is_empty()
    };
    for row in rows.iter().filter(is_asked) {
        let domain = row["yp_address"].rsplit_once('@').unwrap().1;
        let expected = match answer.get(domain) {
            None => "not-answered",
            Some(&"no-such-domain") => "no-such-domain",
            Some(&"null-mx") => "takes-no-mail",
            Some(&"nothing") => "no-mail-host",
            Some(&"host-not-found") => "mail-host-not-found",
            Some(_) => "",
        };
        let told: Vec<&str> = row["yp_findings"].split(' ').filter(|code| codes.contains(code)).collect();
        assert_eq!(told.concat(), expected, "{domain}");
        assert_eq!(
            row["yp_hosted_by"].is_empty(),
            !["mail-host", "address"].contains(answer.get(domain).unwrap_or(&""))
        );
        *raised.entry(expected).or_insert(0) += 1;
    }
    assert_eq!(raised.len(), 6, "{raised:?}");
    for options in ["--threads 1", "--threads 2 --chunk-bytes 3000"] {
        let again = place.run(&format!("check members.csv --dns-snapshot dns.csv -q {options}"));
        assert_eq!(again.stdout, run.stdout);
    }
    insta::assert_snapshot!("dns_domains", place.run("domains members.csv --dns-snapshot dns.csv").stdout);
    insta::assert_snapshot!(
        "dns_explain",
        place
            .run("explain zoe@starpath-travel.example ada@hillside-optics.example --dns-snapshot dns.csv")
            .stdout
    );

    let cleaned = place.run("clean members.csv --dns-snapshot dns.csv -o out -q");
    assert_eq!(cleaned.code, 0, "{}", cleaned.stderr);
    let receipt =
        |place: &Place| serde_json::from_str::<serde_json::Value>(&place.read("out/receipt.json")).unwrap();
    let before = receipt(&place);
    let rejected = |place: &Place| {
        let rows = table(&place.read("out/rejected.csv"));
        rows.iter().filter(|row| row["yp_findings"].contains("no-such-domain")).count()
    };
    let rejected_before = rejected(&place);
    let json = place.run("check members.csv --dns-snapshot dns.csv --json -o /dev/null").stdout;
    let checked: serde_json::Value = serde_json::from_str(&json).unwrap();
    assert!(before["dns_answers"].is_string());
    // The snapshot is not needed any more, and what it rejected stays rejected.
    std::fs::remove_file(place.path("dns.csv")).unwrap();
    let settled = place.run("settle out --take sure");
    assert_eq!(settled.code, 0, "{}", settled.stderr);
    assert!(rejected_before > 0);
    assert_eq!(
        (rejected(&place), &receipt(&place)["dns_answers"]),
        (rejected_before, &before["dns_answers"])
    );
    assert_eq!(checked["dns_answers"].as_str().map(str::len), Some(64));
}

/// Each domain is asked about once, however often it is there and by however many commands; the answers are kept for their owner.
#[test]
fn asked_once_and_kept() {
    let server = DnsServer::start(Kind::Good);
    let cases = ["mail1", "null1", "gone1", "addr1", "none1", "lost1", "mail1", "fail1"];
    let list: String = cases.iter().map(|case| format!("ada@{case}.com,x\n")).collect();
    let place = Place::with(&[("list.csv", format!("mail,more\n{list}bo@@mail1.com,\nno,\n").as_bytes())]);
    let dns = format!("--ask-dns --resolver {} --dns-cache kept/dns.csv --no-rules", server.address);
    let check = format!("check list.csv {dns} --columns mail,yp_verdict,yp_findings,yp_hosted_by -q");
    let run = place.run(&check);
    assert_eq!(run.code, 0, "{}", run.stderr);
    let expected = "mail,yp_verdict,yp_findings,yp_hosted_by\n\
        ada@mail1.com,accept,,hosts.net\n\
        ada@null1.com,reject,takes-no-mail,\n\
        ada@gone1.com,reject,no-such-domain,\n\
        ada@addr1.com,accept,,addr1.com\n\
        ada@none1.com,review,no-mail-host,\n\
        ada@lost1.com,review,mail-host-not-found,\n\
        ada@mail1.com,accept,,hosts.net\n\
        ada@fail1.com,accept,not-answered,\n\
        bo@@mail1.com,reject,several-at-signs,\n\
        no,,,\n";
    assert_eq!(run.stdout, expected);
    let once = server.asked_for_mail_hosts();
    let of_list = |counts: &BTreeMap<String, usize>| -> Vec<usize> {
        cases[..7].iter().map(|case| counts[&format!("{case}.com")]).collect()
    };
    assert_eq!(of_list(&once.clone().into_iter().collect()), [1; 7]);
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt as _;
        let mode = |name: &str| std::fs::metadata(place.path(name)).unwrap().permissions().mode() & 0o777;
        assert_eq!((mode("kept/dns.csv"), mode("kept")), (0o600, 0o700));
    }
    // By other commands, over standard input too; what was not answered is asked again.
    assert_eq!(place.run(&check).stdout, expected);
    let from_stdin = place.run_with(&check.replace("list.csv", "- --from csv"), place.read("list.csv"));
    assert_eq!(from_stdin.stdout, expected, "{}", from_stdin.stderr);
    let domains = table(&place.run(&format!("domains list.csv {dns} -o - -q")).stdout);
    assert!(domains.iter().any(|row| row["domain"] == "none1.com" && row["dns"] == "nothing"));
    assert_eq!(place.run(&format!("clean list.csv {dns} -o out -q")).code, 0);
    let later = server.asked_for_mail_hosts();
    assert_eq!(of_list(&later.clone().into_iter().collect()), [1; 7]);
    assert!(later["fail1.com"] > once["fail1.com"]);
    let told = place.run(&format!("check list.csv {dns} -o /dev/null")).stdout;
    assert!(
        told.contains(
            "DNS: 1 domain asked about, 6 known from before, the oldest of just now, 1 not answered"
        ),
        "{told}"
    );

    // One by one: what is not known is asked about and kept.
    let explained = place.run(&format!("explain ada@mail2.com --json {dns}"));
    assert!(
        explained.stdout.contains("mail2.com takes mail at mx2.hosts.net (asked 20"),
        "{}",
        explained.stdout
    );
    let each = place.run_with(&format!("check --each {dns}"), "ada@null3.com\nada@null3.com\nbo@mail2.com\n");
    let verdicts: Vec<bool> = each.stdout.lines().map(|line| line.contains("takes-no-mail")).collect();
    assert_eq!(verdicts, [true, true, false], "{}", each.stderr);
    let later = server.asked_for_mail_hosts();
    assert_eq!([later["null3.com"], later["mail2.com"]], [1, 1]);
    // The file is a snapshot as it stands.
    let offline = place.run("check list.csv --no-rules --dns-snapshot kept/dns.csv --columns mail,yp_verdict,yp_findings,yp_hosted_by -q");
    assert_eq!(offline.stdout, expected);
}

/// A resolver that does not answer for the Internet stops the run and nothing is written; without one all goes on.
#[test]
fn resolvers_that_lie_and_none() {
    let place = Place::with(&[("list.csv", b"mail\nada@mail1.com\n")]);
    let call = |server: std::net::SocketAddr| {
        format!("clean list.csv --ask-dns --resolver {server} --dns-cache dns.csv --no-rules -o out")
    };
    for kind in [Kind::SaysYes, Kind::KnowsNothing] {
        let run = place.run(&call(DnsServer::start(kind).address));
        assert_eq!(run.code, 2);
        assert!(run.stderr.contains("does not answer for the Internet"), "{}", run.stderr);
        assert!(!place.path("out").exists() && !place.path("dns.csv").exists());
    }
    std::fs::write(place.path("ypogram.toml"), "version = 2\n[dns]\nwait = 0\nwait-for-domain = 1\n")
        .unwrap();
    let nobody = std::net::UdpSocket::bind("127.0.0.1:0").unwrap().local_addr().unwrap();
    let run = place.run(&call(nobody).replace(" --no-rules", ""));
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert!(run.stderr.contains("no server for the DNS answers"), "{}", run.stderr);
    assert!(place.read("out/kept.csv").contains("not-answered"));
    for (options, told) in [
        ("--resolver 127.0.0.1", "--ask-dns"),
        ("--ask-dns --resolver here", "give an IP address"),
        ("--ask-dns --dns-snapshot dns.csv", "exclude each other"),
        ("--dns-snapshot none.csv", "none.csv"),
        ("--dns-snapshot list.csv", "line 1: the columns are not"),
    ] {
        let run = place.run(&format!("check list.csv {options}"));
        assert!(run.code == 2 && run.stderr.contains(told), "{options}: {}", run.stderr);
    }
}

/// `by-host`: a business domain whose mail host is an operator's has the tags of its mailboxes, and not its dots.
#[test]
fn mailboxes_by_host() {
    let list =
        "mail\nada+news@h-works.org\nada@h-works.org\na.da@h-works.org\nada+news@other.org\nada@other.org\n";
    let answers = "domain,answer,mail_host,ttl,asked\n\
        h-works.org,mail-host,aspmx.l.google.com,60,2026-11-28T09:30:00Z\n\
        other.org,mail-host,mx.other.org,60,2026-11-28T09:30:00Z\n";
    let place = Place::with(&[("list.csv", list.as_bytes()), ("dns.csv", answers.as_bytes())]);
    let call = "clean list.csv --dns-snapshot dns.csv --figure duplicate";
    assert_eq!(place.run(call).stdout.trim(), "0");
    std::fs::write(place.path("ypogram.toml"), "version = 2\n[same-mailbox]\nby-host = true\n").unwrap();
    assert_eq!(place.run(call).stdout.trim(), "1");
}
