//! Rules of the standards, one row each: the address, the section, and the findings that name what is wrong.

#![allow(clippy::too_many_lines, reason = "a table reads from top to bottom")]

use ypogram_core::{Code, Grammar, Kind, Policy, Verdict, examine};

/// The codes of syntax and name findings, and those of meaning that a table asks for by naming them.
fn codes(address: &str, policy: &Policy) -> Vec<&'static str> {
    examine(address.as_bytes(), policy).codes.iter().map(Code::name).collect()
}

fn policy(grammar: Grammar) -> Policy {
    let mut policy = Policy::default();
    policy.grammar = grammar;
    policy
}

#[test]
fn smtp() {
    let long_local = format!("{}@h.org", "abcde".repeat(13));
    let long_label = format!("ada@{}.org", "a".repeat(64));
    let labels = |n: usize| vec!["a".repeat(49); n].join(".");
    let whole_254 = format!("{}@{}.org", "ab".repeat(25), labels(3) + "." + &"b".repeat(49));
    let whole_255 = format!("{}@{}.org", "abc".repeat(17), labels(3) + "." + &"b".repeat(49));
    let long_domain = format!("ada@{}.org", labels(5) + "." + &"b".repeat(2));
    let rows: &[(&str, &str, &[&str])] = &[
        // RFC 5321 §4.1.2: Mailbox = Local-part "@" ( Domain / address-literal )
        ("ada@fernhollow.org", "5321 §4.1.2", &[]),
        ("ada.fernhollow.org", "5321 §4.1.2", &["no-at-sign"]),
        ("ada@x@fernhollow.org", "5321 §4.1.2", &["several-at-signs"]),
        ("ada@@fernhollow.org", "5321 §4.1.2", &["several-at-signs"]),
        ("@fernhollow.org", "5321 §4.1.2", &["empty-local-part"]),
        ("ada@", "5321 §4.1.2", &["empty-domain"]),
        ("@", "5321 §4.1.2", &["empty-local-part", "empty-domain"]),
        // Dot-string = Atom *("." Atom)
        (".ada@fernhollow.org", "5321 §4.1.2", &["dot-at-edge"]),
        ("ada.@fernhollow.org", "5321 §4.1.2", &["dot-at-edge"]),
        ("ada..b@fernhollow.org", "5321 §4.1.2", &["double-dot"]),
        (".@fernhollow.org", "5321 §4.1.2", &["dot-at-edge"]),
        // Atom = 1*atext, RFC 5322 §3.2.3
        ("!#$%&'*-/=?^_`{|}~@fernhollow.org", "5322 §3.2.3", &[]),
        ("a(b)c@fernhollow.org", "5322 §3.2.3", &["character-not-allowed"]),
        ("a,b@fernhollow.org", "5322 §3.2.3", &["character-not-allowed"]),
        ("a b@fernhollow.org", "5322 §3.2.3", &["space-inside"]),
        ("a\u{A0}b@fernhollow.org", "5322 §3.2.3", &["space-inside"]),
        ("a\u{7}b@fernhollow.org", "5321 §4.1.2", &["control-character"]),
        ("a\u{202E}b@fernhollow.org", "UAX #9", &["bidi-control"]),
        ("a\"b@fernhollow.org", "5321 §4.1.2", &["unbalanced-quote"]),
        ("\"ada@fernhollow.org", "5321 §4.1.2", &["unbalanced-quote"]),
        // Quoted-string = DQUOTE *QcontentSMTP DQUOTE
        ("\"ada b\"@fernhollow.org", "5321 §4.1.2", &["quoted-local-part"]),
        ("\"a@b\"@fernhollow.org", "5321 §4.1.2", &["quoted-local-part"]),
        ("\"a\\\"b\\\\\"@fernhollow.org", "5321 §4.1.2", &["quoted-local-part"]),
        ("\"\"@fernhollow.org", "5321 §4.1.2", &["quoted-local-part"]),
        ("\"ada.b\"@fernhollow.org", "5321 §4.1.2 (quotes not needed)", &[]),
        ("\"a\tb\"@fernhollow.org", "5321 §4.1.2 qtextSMTP", &["control-character"]),
        // RFC 6531 §3.3
        ("josé@fernhollow.org", "6531 §3.3", &["non-ascii-local-part"]),
        ("ada@fernhöllow.org", "5890", &["non-ascii-domain"]),
        ("ada@XN--FERNHLLOW-47A.org", "5891 §4.4", &["non-ascii-domain"]),
        ("ada@xn--fernhllow-47a.org", "5890", &["non-ascii-domain"]),
        ("ada@xn--a.org", "5891 §4.4", &["bad-a-label"]),
        ("ada@a\u{2B8}.org", "RFC 5892 §2.2, mapped by UTS #46", &["outdated-idna"]),
        ("ada@\u{378}x.org", "5892", &["idna-not-allowed"]),
        // RFC 5321 §4.5.3.1, RFC 1035 §2.3.4
        (&long_local, "5321 §4.5.3.1.1", &["local-part-too-long"]),
        (&long_label, "1035 §2.3.4", &["label-too-long"]),
        (&whole_254, "5321 §4.5.3.1.3", &[]),
        (&whole_255, "5321 §4.5.3.1.3", &["address-too-long"]),
        (&long_domain, "1035 §2.3.4", &["domain-too-long"]),
        // Domain = sub-domain *("." sub-domain); sub-domain = Let-dig [Ldh-str]
        ("ada@.fernhollow.org", "5321 §4.1.2", &["empty-label"]),
        ("ada@fernhollow..org", "5321 §4.1.2", &["empty-label"]),
        ("ada@fernhollow.org.", "5321 §4.1.2", &["trailing-dot"]),
        ("ada@-fernhollow.org", "5321 §4.1.2", &["hyphen-at-edge"]),
        ("ada@fernhollow-.org", "5321 §4.1.2", &["hyphen-at-edge"]),
        ("ada@fe--rnhollow.org", "5891 §4.2.3.1", &["hyphens-third-fourth"]),
        ("ada@fern_hollow.org", "1123 §2.1", &["underscore-in-domain"]),
        ("ada@fern hollow.org", "5321 §4.1.2", &["space-inside"]),
        ("ada@fernhollow,org", "5321 §4.1.2", &["domain-character"]),
        // Address literals, RFC 5321 §4.1.3
        ("ada@[192.0.2.1]", "5321 §4.1.3", &["address-literal"]),
        ("ada@[IPv6:2001:db8::1]", "5321 §4.1.3", &["address-literal"]),
        ("ada@[2001:db8::1]", "5321 §4.1.3", &["bad-literal"]),
        ("ada@[192.0.2.1", "5321 §4.1.3", &["bad-literal"]),
        // Names
        ("ada@localhost", "2606 §2", &["reserved-name"]),
        ("ada@fernhollow", "5321 §2.3.5", &["one-label-domain"]),
        ("ada@192.0.2.1", "3696 §2", &["numeric-tld"]),
        ("ada@fernhollow.nosuchending", "root zone", &["unknown-tld"]),
        ("ada@co.uk", "public suffix", &["public-suffix"]),
        ("ada@github.io", "public suffix, private", &["private-suffix"]),
        ("ada@fernhollow.example", "2606 §2", &["reserved-name"]),
        ("ada@mail.example.com", "2606 §3", &["reserved-name"]),
        ("ada@fern.onion", "7686", &["reserved-name"]),
        ("ada@fernhollow.test", "6761", &["reserved-name"]),
        ("ada@пример.рф", "5890", &["non-ascii-domain"]),
        // Several faults are all reported.
        (
            ".a b@-fernhollow..org",
            "all faults",
            &["dot-at-edge", "space-inside", "empty-label", "hyphen-at-edge"],
        ),
        // Meaning
        ("ada+club@fernhollow.org", "5233", &["tagged"]),
        ("postmaster@fernhollow.org", "2142", &["role-account"]),
        ("no-reply@fernhollow.org", "", &["no-reply"]),
        ("none@none.org", "", &["placeholder"]),
        ("asdf@fernhollow.org", "", &["looks-made-up"]),
        ("fernhollow@fernhollow.org", "", &["looks-made-up"]),
        ("stargazer@gmial.com", "", &["typing-slip"]),
        ("www.ada@fernhollow.org", "", &["typing-slip"]),
        ("ada@www.fernhollow.org", "", &["typing-slip"]),
        ("star_gazer@gmail.com", "", &["not-issued", "free-provider"]),
        ("stargazer@mailinator.com", "", &["disposable"]),
        ("аda@fernhollow.org", "UTS #39 §5.2", &["look-alike-letters", "non-ascii-local-part"]),
        ("josé@fernhollow.org", "UTS #39: one script", &["non-ascii-local-part"]),
    ];
    for (address, standard, expected) in rows {
        assert_eq!(codes(address, &policy(Grammar::Smtp)), *expected, "{address} ({standard})");
    }
    assert!(examine(b"ada\xFF@fernhollow.org", &Policy::default()).codes.contains(Code::NotUtf8));
}

#[test]
fn header() {
    let rows: &[(&str, &str, &[&str])] = &[
        ("ada@fernhollow.org", "5322 §3.4.1 addr-spec", &[]),
        ("Ada Lovell <ada@fernhollow.org>", "5322 §3.4 name-addr", &["folding-space", "display-name"]),
        ("\"Lovell, Ada\"<ada@fernhollow.org>", "5322 §3.4 name-addr", &["display-name"]),
        ("<ada@fernhollow.org>", "5322 §3.4 angle-addr", &[]),
        ("ada(dome (south))@fernhollow.org", "5322 §3.2.2 nested comment", &["comment-inside"]),
        ("ada @ fernhollow.org", "5322 §3.2.2 CFWS", &["folding-space"]),
        ("ada . b@fernhollow.org", "5322 §4.4 obs-local-part", &["folding-space", "obsolete-form"]),
        ("\"ada\".b@fernhollow.org", "5322 §4.4 obs-local-part", &["obsolete-form"]),
        ("ada@fernhollow . org", "5322 §4.4 obs-domain", &["folding-space", "obsolete-form"]),
        ("<@relay.org,@two.org:ada@fernhollow.org>", "5322 §4.4 obs-route", &["source-route"]),
        ("Dome: ada@fernhollow.org, bea@fernhollow.org;", "5322 §3.4 group", &["group"]),
        ("Dome:;", "5322 §3.4 empty group", &["no-at-sign", "group"]),
        ("ada b@fernhollow.org", "5322 §3.4.1", &["space-inside", "folding-space", "obsolete-form"]),
        ("ada(open@fernhollow.org", "5322 §3.2.2", &["no-at-sign", "unbalanced-quote"]),
        ("<ada@fernhollow.org", "5322 §3.4", &["character-not-allowed"]),
        ("ada@fernhollow.org,", "5322 §3.4", &["character-not-allowed"]),
        ("ada..b@fernhollow.org", "5322 §3.2.3 dot-atom", &["double-dot"]),
        ("ada", "5322 §3.4", &["no-at-sign"]),
    ];
    for (address, standard, expected) in rows {
        let mut found = codes(address, &policy(Grammar::Header));
        found.retain(|code| {
            expected.contains(code) || Code::from_name(code).unwrap().info().kind == Kind::Syntax
        });
        assert_eq!(found, *expected, "{address} ({standard})");
    }
    let deep = format!("{}ada{}@fernhollow.org", "(".repeat(100_000), ")".repeat(100_000));
    assert!(
        examine(deep.as_bytes(), &policy(Grammar::Header)).verdict >= Verdict::Accept,
        "deep nesting ends"
    );
    assert_eq!(
        examine(b"\"ada\" . b@fernhollow.org", &policy(Grammar::Header)).standard.unwrap().address,
        "ada.b@fernhollow.org"
    );
}

#[test]
fn html() {
    // The HTML standard: /^[a-zA-Z0-9.!#$%&'*+\/=?^_`{|}~-]+@[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?(?:\.…)*$/
    let standard = regex::Regex::new(
        r"^[a-zA-Z0-9.!#$%&'*+/=?^_`{|}~-]+@[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?(?:\.[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?)*$",
    )
    .unwrap();
    for address in [
        "ada@fernhollow.org",
        "ada..b@fernhollow.org",
        ".ada.@fernhollow.org",
        "ada@localhost",
        "ada@-x.org",
        "ada@x-.org",
        "ada@x_y.org",
        "\"ada\"@x.org",
        "josé@x.org",
        "ada@höllow.org",
        "ada@[192.0.2.1]",
        "ada@x..org",
        "ada@x.org.",
        "@x.org",
        "a@",
        "ada@ab--cd.org",
        "a b@x.org",
        "ada",
        "a@b@c.org",
        "ada@xn--a.org",
    ] {
        let syntax = examine(address.as_bytes(), &policy(Grammar::Html)).codes;
        let refused = syntax.iter().any(|code| code.info().kind == Kind::Syntax);
        assert_eq!(
            refused,
            !standard.is_match(address),
            "{address}: {:?}",
            syntax.iter().map(Code::name).collect::<Vec<_>>()
        );
    }
}

#[test]
fn suggestions_are_acceptable_and_right() {
    for (typed, meant) in [
        ("stargazer@gmial.com", Some("stargazer@gmail.com")),
        ("stargazer@gmail.con", Some("stargazer@gmail.com")),
        ("ada@fernhollow.con", Some("ada@fernhollow.com")),
        ("ada@fernhollow,org", Some("ada@fernhollow.org")),
        ("ada@fernhollow_org", Some("ada@fernhollow.org")),
        ("ada@fernhollow. org", Some("ada@fernhollow.org")),
        ("ada@fern hollow.org", Some("ada@fernhollow.org")),
        ("ada@fernhollow..org", Some("ada@fernhollow.org")),
        ("ada@fernhollow.org.", Some("ada@fernhollow.org")),
        ("ada@fernhollow.org.org", None),
        ("stargazer@gmail.com.com", Some("stargazer@gmail.com")),
        ("ada@@fernhollow.org", Some("ada@fernhollow.org")),
        ("ada..b@fernhollow.org", Some("ada.b@fernhollow.org")),
        (".ada@fernhollow.org", Some("ada@fernhollow.org")),
        ("stargazer@gmailcom", Some("stargazer@gmail.com")),
        ("stargazer@telecom", None),
        ("stargazergmail.com", Some("stargazer@gmail.com")),
        ("stargazer.hotmail.com", Some("stargazer@hotmail.com")),
        ("www.ada@fernhollow.org", Some("ada@fernhollow.org")),
        ("http://ada@fernhollow.org", Some("ada@fernhollow.org")),
        ("ada@www.fernhollow.org", Some("ada@fernhollow.org")),
        ("ada(at)fernhollow.org", Some("ada@fernhollow.org")),
        ("ada at fernhollow dot org", Some("ada@fernhollow.org")),
        ("(ada@fernhollow.org", Some("ada@fernhollow.org")),
        ("ada@x@fernhollow.org", None),
        ("ada@fernhollow.nosuchending", None),
        ("none@none.con", None),
        ("ada@gmx.at", None),
        ("fernhollow.org", None),
    ] {
        let policy = Policy::default();
        let found =
            ypogram_core::suggest(typed.as_bytes(), examine(typed.as_bytes(), &policy).codes, &policy);
        assert_eq!(found.as_ref().map(|s| s.address.as_str()), meant, "{typed}: {found:?}");
        if let Some(found) = found {
            assert_eq!(examine(found.address.as_bytes(), &policy).verdict, Verdict::Accept);
            assert!(!found.reason.is_empty());
        }
    }
}
