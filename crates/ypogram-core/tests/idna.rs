//! Letters outside ASCII in domains (RFC 5890 to 5893, UTS #46) and local parts (RFC 6531): one standard form whatever way
//! they were typed.

use proptest::prelude::*;
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
        // RFC 5892 §2: symbols, dashes, quotes and signs are DISALLOWED.
        ("ada@fern—hollow.org", "a dash", Code::IdnaNotAllowed),
        ("ada@fern’hollow.org", "a quote", Code::IdnaNotAllowed),
        ("ada@fern“hollow.org", "a quote", Code::IdnaNotAllowed),
        ("ada@fern→hollow.org", "an arrow", Code::IdnaNotAllowed),
        ("ada@fern☆hollow.org", "a symbol", Code::IdnaNotAllowed),
        ("ada@fern€hollow.org", "a currency sign", Code::IdnaNotAllowed),
        ("ada@الـم.org", "U+0640, an exception", Code::IdnaNotAllowed),
        ("ada@xn--fernhollow-499e.org", "an arrow in an A-label", Code::IdnaNotAllowed),
        // RFC 5892 Appendix A: what needs neighbours.
        ("ada@fern·hollow.org", "A.3: a middle dot", Code::IdnaNotAllowed),
        ("ada@͵a.org", "A.4: a keraia without Greek behind it", Code::IdnaNotAllowed),
        ("ada@׳א.org", "A.5: a geresh without Hebrew in front", Code::IdnaNotAllowed),
        ("ada@fern・hollow.org", "A.7: a katakana middle dot without Japanese", Code::IdnaNotAllowed),
        ("ada@ا٣۳.org", "A.8: digits of both Arabic sets", Code::IdnaNotAllowed),
        // Pictures, and what only the compatibility mapping of the older rules takes.
        ("ada@\u{1F989}.org", "a picture", Code::OutdatedIdna),
        ("ada@xn--8s9h.org", "a picture in an A-label", Code::OutdatedIdna),
        ("ada@fern①hollow.org", "a number in a circle", Code::OutdatedIdna),
        ("ada@ﬁrn.org", "a ligature", Code::OutdatedIdna),
    ];
    for (address, why, code) in rows {
        let examined = examine(address.as_bytes(), &Policy::default());
        let told: Vec<_> = examined.codes.iter().map(Code::name).collect();
        assert!(examined.codes.contains(*code), "{address} ({why}): {told:?}");
    }
    let examined = examine(format!("ada@{long}.org").as_bytes(), &Policy::default());
    assert!(examined.codes.contains(Code::LabelTooLong), "63 bytes are counted in A-labels");
}

/// What RFC 5892 allows is let pass, and what depends on its neighbours where they are there.
#[test]
fn labels_that_can_be() {
    for domain in [
        "col·lega.org",
        "α͵β.gr",
        "צ׳ק.org",
        "フェルン・ホロウ.jp",
        "ا٣٤.org",
        "क्ष.भारत",
        "क्‍ष.भारत",
        "Straße.org",
        "ÅNGSTRÖM.se",
        "ﾒｰﾙ.jp",
        "ｆｅｒｎ.org",
        "ไทย.ไทย",
        "ქართული.გე",
    ] {
        let examined = examine(format!("ada@{domain}").as_bytes(), &Policy::default());
        let told: Vec<_> = examined.codes.iter().map(Code::name).collect();
        let outdated = examined.codes.contains(Code::OutdatedIdna);
        assert!(!examined.codes.contains(Code::IdnaNotAllowed) && !outdated, "{domain}: {told:?}");
    }
}

/// Characters that no name has stand in no local part either, though RFC 6531 alone would let them.
#[test]
fn characters_that_no_local_part_has() {
    for c in ['\u{E000}', '\u{F8FF}', '\u{FFFE}', '\u{FDD0}', '\u{E0041}', '‘', '’', '“', '„'] {
        let examined = examine(format!("a{c}da@fernhollow.org").as_bytes(), &Policy::default());
        assert!(examined.codes.contains(Code::CharacterNotAllowed), "{c:?}");
    }
}

/// RFC 5321 §4.5.3.1 counts bytes, which are more than letters.
#[test]
fn lengths_are_of_bytes() {
    for (local, fits) in [("é".repeat(32), true), ("é".repeat(32) + "x", false), ("x".repeat(64), true)] {
        let examined = examine(format!("{local}@fernhollow.org").as_bytes(), &Policy::default());
        assert_eq!(!examined.codes.contains(Code::LocalPartTooLong), fits, "{} bytes", local.len());
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

proptest! {
    /// A name in its own letters and the same in A-labels are allowed, outdated or rejected alike.
    #[test]
    fn both_ways_to_write_a_domain_are_judged_alike(label in "[a-zäßçøλжцשب例ノ・l·क्षไทยー☃—→]{1,8}") {
        let policy = Policy::default();
        let written = examine(format!("ada@{label}.org").as_bytes(), &policy);
        if let Some(standard) = &written.standard {
            let encoded = examine(standard.address.as_bytes(), &policy);
            for code in [Code::IdnaNotAllowed, Code::OutdatedIdna, Code::BadALabel] {
                prop_assert_eq!(written.codes.contains(code), encoded.codes.contains(code), "{} of {}", code.name(), label);
            }
        }
    }
}
