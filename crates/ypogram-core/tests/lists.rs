//! Lists of one's own: how entries are read, which of them decides, and that a look-up never goes by mere ending.

use proptest::prelude::*;
use ypogram_core::lists::{Added, BesideBuiltIn, List, Lists, Of, Purpose};
use ypogram_core::{Class, Code, Hasher, Judge, Policy, Severity, Verdict, examine};

fn list(purpose: Purpose, entries: &[&str], policy: &Policy) -> List {
    let mut judge = Judge::new(policy, Hasher::with_key(1));
    let mut list = List::new(purpose);
    for (line, entry) in (1..).zip(entries) {
        assert_eq!(list.add(line, entry.as_bytes(), [], &mut judge), Added::New, "{entry}");
    }
    list
}

fn policy_with(lists: Vec<List>) -> Policy {
    let mut policy = Policy::default();
    policy.trust_name("example").unwrap();
    policy.lists = Lists::new(lists);
    policy
}

fn purpose(name: &str, class: Option<&str>, finding: Option<&str>) -> Purpose {
    Purpose {
        name: name.into(),
        from: format!("{name}.csv"),
        class: class.map(|class| Class::own(class).unwrap()),
        finding: finding.map(|finding| Code::own(finding).unwrap()),
        ..Purpose::default()
    }
}

#[test]
fn entries_are_read_as_people_write_them() {
    let policy = Policy::default();
    let mut judge = Judge::new(&policy, Hasher::with_key(1));
    for (of, entry, shown) in [
        (Of::Contacts, "Host.Example", Ok("host.example")),
        (Of::Contacts, " @host.example ", Ok("host.example")),
        (Of::Contacts, "*.host.example", Ok("*.host.example")),
        (Of::Contacts, ".host.example", Ok("*.host.example")),
        (Of::Contacts, "@*.host.example", Ok("*.host.example")),
        (Of::Contacts, "münchen.example", Ok("xn--mnchen-3ya.example")),
        (Of::Contacts, "XN--MNCHEN-3YA.example", Ok("xn--mnchen-3ya.example")),
        (Of::Contacts, "Ada.Lovell+x@Host.example", Ok("ada.lovell+x@host.example")),
        (Of::Keys, "Ada.Lovell+x@gmail.com", Ok("adalovell@gmail.com")),
        (Of::Keys, "*.Host.example", Ok("*.host.example")),
        (Of::LocalParts, "Kontakt", Ok("kontakt")),
        (Of::LocalParts, "info@", Ok("info")),
        (Of::Values, " ON-7 ", Ok("on-7")),
        (Of::Domains, "ada@host.example", Err("whole address")),
        (Of::Domains, "host..example", Err("not a domain")),
        (Of::Domains, "-host.example", Err("not a domain")),
        (Of::Contacts, "not a domain", Err("not a domain")),
        (Of::Addresses, "host.example", Err("no-at-sign")),
        (Of::Contacts, "a..b@host.example", Err("double-dot")),
        (Of::LocalParts, "ada@host.example", Err("whole address")),
    ] {
        let mut list = List::new(Purpose { of, ..Purpose::default() });
        match (list.add(1, entry.as_bytes(), [], &mut judge), shown) {
            (Added::New, Ok(shown)) => assert_eq!(list.shown(0), shown, "{entry}"),
            (Added::Unfit(reason), Err(part)) => assert!(reason.contains(part), "{entry}: {reason}"),
            (added, _) => panic!("{entry}: {added:?}"),
        }
    }
}

#[test]
fn the_more_exact_entry_beats_the_wider_and_ones_own_the_built_in() {
    let plain = Policy::default();
    let of = |built_in| Purpose { built_in, ..purpose("lists-a", Some("partner"), None) };
    let entries = ["gmail.com", "*.wide.example", "deep.wide.example", "ada@gmx.de", "*.rr.com"];
    for (built_in, address, class) in [
        (BesideBuiltIn::Override, "x@gmail.com", "partner"),
        (BesideBuiltIn::Override, "x@notgmail.com", "business"),
        (BesideBuiltIn::Override, "x@mail.gmail.com", "business"),
        (BesideBuiltIn::Override, "x@wide.example", "partner"),
        (BesideBuiltIn::Override, "x@a.b.wide.example", "partner"),
        (BesideBuiltIn::Override, "x@notwide.example", "business"),
        (BesideBuiltIn::Override, "Ada@GMX.de", "partner"),
        (BesideBuiltIn::Override, "bob@gmx.de", "free"),
        (BesideBuiltIn::Override, "x@nyc.rr.com", "partner"),
        (BesideBuiltIn::Extend, "x@gmail.com", "free"),
        (BesideBuiltIn::Extend, "x@nyc.rr.com", "isp"),
        (BesideBuiltIn::Extend, "x@wide.example", "partner"),
        (BesideBuiltIn::Extend, "ada@gmx.de", "partner"),
    ] {
        let policy = policy_with(vec![list(of(built_in), &entries, &plain)]);
        let examined = examine(address.as_bytes(), &policy);
        assert_eq!(examined.class.unwrap().word(), class, "{address} with {}", built_in.word());
        let free = examined.codes.contains(Code::FreeProvider);
        assert_eq!(free, class == "free", "{address}: the finding goes with the class");
        let decided = policy.decided(&examined);
        let deciding: Vec<_> = decided.iter().filter(|decided| decided.gives_the_class).collect();
        match class {
            "business" => assert!(deciding.is_empty()),
            _ => assert_eq!(deciding[0].class, examined.class, "{address}"),
        }
    }
}

#[test]
fn a_list_can_take_the_place_of_the_built_in_one() {
    let plain = Policy::default();
    let free = Purpose { built_in: BesideBuiltIn::Replace, ..purpose("ours", Some("free"), None) };
    let roles = Purpose {
        of: Of::LocalParts,
        built_in: BesideBuiltIn::Replace,
        ..purpose("roles", None, Some("role-account"))
    };
    let policy = policy_with(vec![list(free, &["ours.example"], &plain), list(roles, &["dome"], &plain)]);
    for (address, class, role) in [
        ("x@gmail.com", "business", false),
        ("x@comcast.net", "isp", false),
        ("dome@ours.example", "free", true),
        ("dome+x@ours.example", "free", true),
        ("info@host.example", "business", false),
    ] {
        let examined = examine(address.as_bytes(), &policy);
        assert_eq!(examined.class.unwrap().word(), class, "{address}");
        assert_eq!(examined.codes.contains(Code::RoleAccount), role, "{address}");
    }
}

#[test]
fn findings_of_ones_own_weigh_what_they_are_told_to() {
    let plain = Policy::default();
    let stop =
        list(purpose("stop", None, Some("told-to-stop")), &["ada@host.example", "*.gone.example"], &plain);
    let by_key = Purpose { of: Of::Keys, ..purpose("by-key", None, Some("same-mailbox-stopped")) };
    let by_key = list(by_key, &["bea.night@gmail.com"], &plain);
    let mut policy = policy_with(vec![stop, by_key]);
    policy.set_severity(Code::own("told-to-stop").unwrap(), Severity::Reject).unwrap();
    for (address, verdict, told) in [
        ("ADA@host.example", Verdict::Reject, "Your list ‘stop’ has ‘ada@host.example’ (stop.csv, line 1)."),
        ("x@mail.gone.example", Verdict::Reject, "Your list ‘stop’ has ‘*.gone.example’ (stop.csv, line 2)."),
        (
            "B.E.A.night+x@gmail.com",
            Verdict::Accept,
            "Your list ‘by-key’ has ‘beanight@gmail.com’ (by-key.csv, line 1).",
        ),
        ("ada+x@host.example", Verdict::Accept, ""),
    ] {
        let examined = examine(address.as_bytes(), &policy);
        assert_eq!(examined.verdict, verdict, "{address}");
        let messages: Vec<&str> = examined.findings.iter().map(|finding| &*finding.message).collect();
        assert!(told.is_empty() || messages.contains(&told), "{address}: {messages:?}");
    }
}

#[test]
fn names_of_ones_own_are_few_and_plain() {
    assert_eq!(Code::own("double-dot"), Ok(Code::DoubleDot));
    assert_eq!(Class::own("disposable"), Ok(Class::Disposable));
    for name in ["", "Two words", "ÜBER", "-x", "x-"] {
        assert!(Code::own(name).is_err() && Class::own(name).is_err(), "{name}");
    }
    let code = Code::own("competitor").unwrap();
    assert_eq!(Code::own("competitor"), Ok(code), "the same word is the same code");
    assert!(!code.is_built_in() && Code::all().any(|other| other == code));
    assert_eq!(Code::from_name("competitor"), Some(code));
}

/// Names that lie above and below one another, and beside by mere ending.
const HOSTS: [&str; 7] =
    ["a.example", "b.a.example", "c.b.a.example", "xa.example", "gmail.com", "mail.gmail.com", "nyc.rr.com"];

proptest! {
    #[test]
    fn the_class_is_that_of_a_naive_reading(
        lists in prop::collection::vec(prop::collection::vec((0..HOSTS.len(), any::<bool>()), 0..4), 1..4),
        host in 0..HOSTS.len(),
    ) {
        let plain = Policy::default();
        let of = |(at, entries): (usize, &Vec<(usize, bool)>)| {
            let mut judge = Judge::new(&plain, Hasher::with_key(1));
            let mut list = List::new(purpose(&format!("l{at}"), Some(&format!("class-{at}")), None));
            for (host, below) in entries {
                let entry = format!("{}{}", if *below { "." } else { "" }, HOSTS[*host]);
                list.add(1, entry.as_bytes(), [], &mut judge);
            }
            list
        };
        let policy = policy_with(lists.iter().enumerate().map(of).collect());
        let host = HOSTS[host];
        // An entry said twice counts for the names below where one of the two says so.
        let counts = |entries: &[(usize, bool)], (named, _): &(usize, bool)| {
            let below = entries.iter().any(|(other, below)| other == named && *below);
            host == HOSTS[*named] || below && host.ends_with(&format!(".{}", HOSTS[*named]))
        };
        let own = lists.iter().enumerate().flat_map(|(at, entries)| {
            let counting = entries.iter().filter(|entry| counts(entries, entry));
            counting.map(move |(named, _)| (HOSTS[*named].len(), true, usize::MAX - at, format!("class-{at}")))
        });
        let built_in = match host {
            "gmail.com" => Some((9, false, 0, "free".to_owned())),
            "nyc.rr.com" => Some((6, false, 0, "isp".to_owned())),
            _ => None,
        };
        let expected = own.chain(built_in).max().map_or("business".to_owned(), |(_, _, _, class)| class);
        let examined = examine(format!("night.owl@{host}").as_bytes(), &policy);
        prop_assert_eq!(examined.class.unwrap().word(), expected, "{}", host);
    }
}
