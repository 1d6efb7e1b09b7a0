//! The parts of addresses, one row each: every part by name, those that are not named being empty.

#![allow(clippy::too_many_lines, reason = "a table reads from top to bottom")]

use ypogram_core::names::NameOrder;
use ypogram_core::{Part, Policy, examine};

#[test]
fn every_part_of_every_kind_of_address() {
    let rows: &[(&str, &[(&str, &str)])] = &[
        (
            "Ada.Lovell+news@www.fernhollow.co.uk",
            &[
                ("local-part", "ada.lovell+news"),
                ("base", "ada.lovell"),
                ("tag", "news"),
                ("domain", "www.fernhollow.co.uk"),
                ("labels", "www fernhollow co uk"),
                ("sub-domain", "www"),
                ("registrable", "fernhollow.co.uk"),
                ("domain-name", "fernhollow"),
                ("suffix", "co.uk"),
                ("tld", "uk"),
                ("unicode-domain", "www.fernhollow.co.uk"),
                ("ascii-domain", "www.fernhollow.co.uk"),
                ("first-name", "Ada"),
                ("last-name", "Lovell"),
                ("name-confidence", "two-words"),
            ],
        ),
        (
            "josé@post.fernhöllow.org",
            &[
                ("local-part", "josé"),
                ("base", "josé"),
                ("domain", "post.xn--fernhllow-47a.org"),
                ("labels", "post xn--fernhllow-47a org"),
                ("sub-domain", "post"),
                ("registrable", "xn--fernhllow-47a.org"),
                ("domain-name", "xn--fernhllow-47a"),
                ("suffix", "org"),
                ("tld", "org"),
                ("unicode-domain", "post.fernhöllow.org"),
                ("ascii-domain", "post.xn--fernhllow-47a.org"),
                ("first-name", "José"),
                ("name-confidence", "one-word"),
            ],
        ),
        (
            "\"night owl+x\"@fernhollow.org",
            &[
                ("local-part", "\"night owl+x\""),
                ("base", "\"night owl+x\""),
                ("domain", "fernhollow.org"),
                ("labels", "fernhollow org"),
                ("registrable", "fernhollow.org"),
                ("domain-name", "fernhollow"),
                ("suffix", "org"),
                ("tld", "org"),
                ("unicode-domain", "fernhollow.org"),
                ("ascii-domain", "fernhollow.org"),
                ("name-confidence", "none"),
            ],
        ),
        (
            "x7q@[192.0.2.1]",
            &[
                ("local-part", "x7q"),
                ("base", "x7q"),
                ("domain", "[192.0.2.1]"),
                ("labels", "[192.0.2.1]"),
                ("unicode-domain", "[192.0.2.1]"),
                ("ascii-domain", "[192.0.2.1]"),
                ("name-confidence", "none"),
            ],
        ),
        // Under a firm's suffix the label before it is the registrable one; the suffix itself has none.
        (
            "x7q@owl.github.io",
            &[
                ("local-part", "x7q"),
                ("base", "x7q"),
                ("domain", "owl.github.io"),
                ("labels", "owl github io"),
                ("registrable", "owl.github.io"),
                ("domain-name", "owl"),
                ("suffix", "github.io"),
                ("tld", "io"),
                ("unicode-domain", "owl.github.io"),
                ("ascii-domain", "owl.github.io"),
                ("name-confidence", "none"),
            ],
        ),
    ];
    let policy = Policy::default();
    for (address, expected) in rows {
        let examined = examine(address.as_bytes(), &policy);
        let parts = examined.parts(&policy).unwrap_or_else(|| panic!("{address}"));
        for part in Part::ALL {
            let wanted = expected.iter().find(|(name, _)| *name == part.name()).map_or("", |(_, text)| text);
            assert_eq!(parts.text(*part, NameOrder::FirstNameFirst), wanted, "{} of {address}", part.name());
        }
    }
    assert!(
        examine(b"ada..b@fernhollow.org", &policy).parts(&policy).is_none(),
        "no standard form, no parts"
    );
}

/// Put together again they give the address, whatever it is.
#[test]
fn parts_make_the_address_again() {
    let policy = Policy::default();
    for address in [
        "ada@fernhollow.org",
        "ada+@fernhollow.org",
        "+ada@fernhollow.org",
        "ada+a+b@mail.gmail.com",
        "ada@fernhollow.co.uk",
        "ada@a.b.c.fernhollow.ac.jp",
        "ada@xn--fernhllow-47a.org",
        "ada@owl.fastmail.com",
    ] {
        let examined = examine(address.as_bytes(), &policy);
        let parts = examined.parts(&policy).unwrap();
        let text = |name: &str| parts.text(Part::from_name(name).unwrap(), NameOrder::FirstNameFirst);
        let joined = |pieces: &[String], between: &str| {
            pieces.iter().filter(|piece| !piece.is_empty()).cloned().collect::<Vec<_>>().join(between)
        };
        assert_eq!(format!("{}@{}", text("local-part"), text("domain")), address);
        assert_eq!(text("labels").replace(' ', "."), text("domain"));
        assert_eq!(joined(&[text("sub-domain"), text("registrable")], "."), text("domain"), "{address}");
        assert_eq!(joined(&[text("domain-name"), text("suffix")], "."), text("registrable"), "{address}");
        assert!(text("suffix").ends_with(&text("tld")), "{address}");
        let tag = text("local-part")[text("base").len()..].to_owned();
        assert_eq!(tag.trim_start_matches('+'), text("tag").trim_start_matches('+'), "{address}");
    }
}
