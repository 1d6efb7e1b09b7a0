//! Letters outside ASCII in domains (RFC 5890 to 5893, UTS #46) and local parts (RFC 6531): one standard form whatever way
//! they were typed.

use ypogram_core::{Code, Hasher, Judge, Policy, SameMailbox, Verdict, examine};

/// One mailbox however its domain was typed: the standard form, and its spellings.
#[test]
fn one_standard_form() {
    let policy = Policy::default();
    let mut judge = Judge::new(&policy, Hasher::with_key(1));
    for (standard, spellings) in [
        (
            "ada@xn--fernhllow-47a.org",
            &[
                "ada@fernhöllow.org",
                "ada@FERNHÖLLOW.ORG",
                "ada@fernho\u{308}llow.org",
                "ada@xn--fernhllow-47a.org",
                "ada@XN--FERNHLLOW-47A.Org",
                "ADA@Fernhöllow.org",
            ][..],
        ),
        // The German sharp s is a letter of its own (not transitional), capital and small alike.
        ("ada@xn--strae-oqa.org", &["ada@straße.org", "ada@STRAẞE.org", "ada@xn--strae-oqa.org"]),
        ("ada@xn--e1afmkfd.xn--p1ai", &["ada@пример.рф", "ada@ПРИМЕР.РФ", "ada@xn--e1afmkfd.рф"]),
        // The ideographic full stop separates labels.
        ("ada@xn--fsqu00a.com", &["ada@例子.com", "ada@例子。com"]),
        ("ada@fernhollow.org", &["ada@ｆｅｒｎｈｏｌｌｏｗ.org", "ada@fern\u{AD}hollow.org"]),
        (
            "josé@fernhollow.org",
            &["josé@fernhollow.org", "jose\u{301}@fernhollow.org", "JOSÉ@fernhollow.org"],
        ),
    ] {
        for spelling in spellings {
            let mut found = Vec::new();
            ypogram_core::cell::read(spelling.as_bytes(), &policy, &mut found);
            let judged = judge.judge(&found[0].text);
            assert!(judged.has_standard_form, "{spelling}");
            assert_eq!(String::from_utf8_lossy(judge.address()), standard, "{spelling}");
            let mut key = Vec::new();
            judge.key(SameMailbox::Case, &mut key);
            assert_eq!(String::from_utf8_lossy(&key), standard, "{spelling}");
        }
    }
}

#[test]
fn labels_that_cannot_be() {
    let long = "ö".repeat(60);
    let rows: &[(&str, &str, Code)] = &[
        ("ada@xn--a.org", "RFC 5891 §4.4: decodes to nothing", Code::BadALabel),
        ("ada@xn--fernhollow-.org", "RFC 5891 §4.2.3.1: ends with a hyphen", Code::HyphenAtEdge),
        ("ada@\u{378}x.org", "RFC 5892: unassigned", Code::IdnaNotAllowed),
        ("ada@\u{301}x.org", "RFC 5891 §4.2.3.2: starts with a mark", Code::IdnaNotAllowed),
        ("ada@a\u{200D}b.org", "RFC 5892 A.2: joiner between Latin letters", Code::IdnaNotAllowed),
        ("ada@אa.org", "RFC 5893 §2: two directions in a label", Code::IdnaNotAllowed),
        ("ada@ö_b.org", "UTS #46 STD3", Code::UnderscoreInDomain),
        ("ada@-ö.org", "RFC 5321 §4.1.2", Code::HyphenAtEdge),
        ("ada@\u{1F989}.org", "RFC 5892: a picture is no letter", Code::NonAsciiDomain),
    ];
    for (address, why, code) in rows {
        let examined = examine(address.as_bytes(), &Policy::default());
        let told: Vec<_> = examined.codes.iter().map(Code::name).collect();
        assert!(examined.codes.contains(*code), "{address} ({why}): {told:?}");
    }
    let examined = examine(format!("ada@{long}.org").as_bytes(), &Policy::default());
    assert!(examined.codes.contains(Code::LabelTooLong), "63 octets are counted in A-labels");
}

/// RFC 5321 §4.5.3.1 counts octets, which are more than letters.
#[test]
fn lengths_are_of_octets() {
    for (local, fits) in [("é".repeat(32), true), ("é".repeat(32) + "x", false), ("x".repeat(64), true)] {
        let examined = examine(format!("{local}@fernhollow.org").as_bytes(), &Policy::default());
        assert_eq!(!examined.codes.contains(Code::LocalPartTooLong), fits, "{} octets", local.len());
    }
}

/// UTS #39: a letter of another script among look-alikes asks for a review, a word of one script does not.
#[test]
fn scripts_that_look_alike() {
    for (address, doubtful) in [
        ("аda@fernhollow.org", true),
        ("ada@fernhоllow.org", true),
        ("ѕоре@fernhollow.org", true),
        ("анна@fernhollow.org", false),
        ("josé@fernhollow.org", false),
        ("山田太郎@fernhollow.org", false),
        ("ヤマダtaro@fernhollow.org", false),
    ] {
        let examined = examine(address.as_bytes(), &Policy::default());
        assert_eq!(examined.codes.contains(Code::LookAlikeLetters), doubtful, "{address}");
        assert_eq!(examined.verdict == Verdict::Review, doubtful, "{address}");
    }
}
