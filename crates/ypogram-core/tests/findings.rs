//! Every finding there is: an address that raises it, where it points, and what its severity does.

use std::collections::BTreeSet;

use ypogram_core::{Code, Grammar, Hasher, Judge, Policy, Repair, Severity, Verdict, cell, examine};

/// A policy in which a name that is needed can be trusted, and lengths are bounded.
fn policy(grammar: Grammar) -> Policy {
    let mut policy = Policy::default();
    policy.grammar = grammar;
    policy.max_length = Some(80);
    policy
}

/// The address with a mark around what the finding points at, the finding, and the grammar.
const MARKED: &[(&str, &str, Grammar)] = &[
    ("«ada.fernhollow.org»", "no-at-sign", Grammar::Smtp),
    ("«01632 960413»", "telephone", Grammar::Smtp),
    ("«https://fernhollow.org/join»", "web-address", Grammar::Smtp),
    ("«see the sheet»", "not-an-address", Grammar::Smtp),
    ("«a***a»@fernhollow.org", "template", Grammar::Smtp),
    ("«%EMAIL%»@fernhollow.org", "template", Grammar::Smtp),
    ("«%20ada»@fernhollow.org", "residue", Grammar::Smtp),
    ("ada@«gmail.comgmail.com»", "residue", Grammar::Smtp),
    ("«jÃ¶rg»@fernhollow.org", "mojibake", Grammar::Smtp),
    ("«tess%host.org»@fernhollow.org", "relayed", Grammar::Smtp),
    ("«host!ada»@fernhollow.org", "relayed", Grammar::Smtp),
    ("«=»ada@fernhollow.org", "formula-like", Grammar::Smtp),
    ("«'»ada@fernhollow.org", "odd-beginning", Grammar::Smtp),
    ("ada@x«@»fernhollow.org", "several-at-signs", Grammar::Smtp),
    ("«@»fernhollow.org", "empty-local-part", Grammar::Smtp),
    ("ada«@»", "empty-domain", Grammar::Smtp),
    ("«.»ada@fernhollow.org", "dot-at-edge", Grammar::Smtp),
    ("ada«.»@fernhollow.org", "dot-at-edge", Grammar::Smtp),
    ("ada«..»b@fernhollow.org", "double-dot", Grammar::Smtp),
    ("a« »b@fernhollow.org", "space-inside", Grammar::Smtp),
    ("ada@fern« »hollow.org", "space-inside", Grammar::Smtp),
    ("a«,»b@fernhollow.org", "character-not-allowed", Grammar::Smtp),
    ("a«\u{7}»b@fernhollow.org", "control-character", Grammar::Smtp),
    ("a«\u{202E}»b@fernhollow.org", "bidi-control", Grammar::Smtp),
    ("ada@a«\u{202E}»b.org", "bidi-control", Grammar::Smtp),
    ("a«\"»b@fernhollow.org", "unbalanced-quote", Grammar::Smtp),
    ("ada@«.»fernhollow.org", "empty-label", Grammar::Smtp),
    ("ada@fernhollow.«.»org", "empty-label", Grammar::Smtp),
    ("ada@fernhollow.org«.»", "trailing-dot", Grammar::Smtp),
    ("ada@«-»fernhollow.org", "hyphen-at-edge", Grammar::Smtp),
    ("ada@fernhollow«-».org", "hyphen-at-edge", Grammar::Smtp),
    ("ada@fe«--»rnhollow.org", "hyphens-third-fourth", Grammar::Smtp),
    ("ada@fern«_»hollow.org", "underscore-in-domain", Grammar::Smtp),
    ("ada@fernhollow«,»org", "domain-character", Grammar::Smtp),
    ("ada@mail.«xn--a».org", "bad-a-label", Grammar::Smtp),
    ("ada@«\u{378}x».org", "idna-not-allowed", Grammar::Smtp),
    ("ada@«\u{1F989}».org", "outdated-idna", Grammar::Smtp),
    ("ada@«[2001:db8::1]»", "bad-literal", Grammar::Smtp),
    ("ada@«[192.0.2.1]»", "address-literal", Grammar::Smtp),
    ("ada@«fernhollow»", "one-label-domain", Grammar::Smtp),
    ("ada@192.0.2.«1»", "numeric-tld", Grammar::Smtp),
    ("ada@fernhollow.«nosuchending»", "unknown-tld", Grammar::Smtp),
    ("ada@«co.uk»", "public-suffix", Grammar::Smtp),
    ("ada@«github.io»", "private-suffix", Grammar::Smtp),
    ("ada@mail.fernhollow.«example»", "reserved-name", Grammar::Smtp),
    ("ada@mail.«example.com»", "reserved-name", Grammar::Smtp),
    ("«none»@none.org", "placeholder", Grammar::Smtp),
    ("«asdf»@fernhollow.org", "looks-made-up", Grammar::Smtp),
    ("owl@«gmial.com»", "typing-slip", Grammar::Smtp),
    ("«www.»ada@fernhollow.org", "typing-slip", Grammar::Smtp),
    ("ada@«www.fernhollow.org»", "typing-slip", Grammar::Smtp),
    ("«аda»@fernhollow.org", "look-alike-letters", Grammar::Smtp),
    ("ada@«fernhоllow.org»", "look-alike-letters", Grammar::Smtp),
    ("«\"ada b\"»@fernhollow.org", "quoted-local-part", Grammar::Smtp),
    ("«no-reply»@fernhollow.org", "no-reply", Grammar::Smtp),
    ("ada@«users.noreply.fernhollow.org»", "no-reply", Grammar::Smtp),
    ("«star_gazer»@gmail.com", "not-issued", Grammar::Smtp),
    ("«postmaster»@fernhollow.org", "role-account", Grammar::Smtp),
    ("ada«+club»@fernhollow.org", "tagged", Grammar::Smtp),
    ("«josé»@fernhollow.org", "non-ascii-local-part", Grammar::Smtp),
    ("ada@«fernhöllow.org»", "non-ascii-domain", Grammar::Smtp),
    ("owl@«mailinator.com»", "disposable", Grammar::Smtp),
    ("owl@«gmail.com»", "free-provider", Grammar::Smtp),
    ("owl@«comcast.net»", "isp", Grammar::Smtp),
    ("owl@«fastmail.com»", "paid", Grammar::Smtp),
    ("owl@«privaterelay.appleid.com»", "relay", Grammar::Smtp),
    (
        "«ada@an-observatory-with-a-very-long-name-in-the-hills-of-fernhollow.observatories.org»",
        "max-length",
        Grammar::Smtp,
    ),
    ("ada«(dome)»@fernhollow.org", "comment-inside", Grammar::Header),
    ("ada« »@fernhollow.org", "folding-space", Grammar::Header),
    ("«Ada» <ada@fernhollow.org>", "display-name", Grammar::Header),
    ("«Dome: ada@fernhollow.org;»", "group", Grammar::Header),
    ("«\"ada\".b»@fernhollow.org", "obsolete-form", Grammar::Header),
    ("<«@relay.org:»ada@fernhollow.org>", "source-route", Grammar::Header),
    ("«josé@fernhollow.org»", "not-html-address", Grammar::Html),
];

/// Findings of what stands around an address: the cell with a mark around what the finding points at, and the finding.
const MARKED_CELLS: &[(&str, &str)] = &[
    ("a«(»z@fernhollow.org", "broken-address"),
    ("john «.» doe@fernhollow.org", "broken-address"),
    ("ell@fernhollow.co« uk»", "broken-address"),
    ("«BOUNCED» tess@fernhollow.org", "do-not-contact"),
    ("«old@fernhollow.org» -> new@fernhollow.org", "replaced"),
    ("«lov» ell@fernhollow.org", "word-beside"),
    ("ell@fernhollow.org, «see the notes»", "remark"),
];

/// Those that point at all or much of what is too long, and what is not an address alone.
const ELSEWHERE: [&str; 31] = [
    // By answers of the domain name system.
    "mail-host-not-found",
    "no-mail-host",
    "no-such-domain",
    "not-answered",
    "takes-no-mail",
    "dropped",
    "local-part-too-long",
    "address-too-long",
    "label-too-long",
    "domain-too-long",
    "not-utf-8",
    "obfuscated",
    "spaced-at",
    "name-differs",
    "shared-mailbox",
    "from-other-field",
    "pattern",
    "house-format",
    "short-name",
    // Of other fields, which the program's tests have.
    "field-filled",
    "field-unique",
    "field-fits",
    "field-is",
    "field-one-of",
    "field-length",
    "field-earliest",
    "field-latest",
    "field-at-least-one-of",
    "program-fault",
    // Of links in workbooks, which the program's tests have.
    "other-link",
    // Raised above by the table's policy, which bounds the length.
    "max-length",
];

fn unmarked(marked: &str) -> (String, std::ops::Range<usize>) {
    let start = marked.find('«').expect("a mark");
    let end = marked.find('»').expect("a mark") - '«'.len_utf8();
    (marked.replace(['«', '»'], ""), start..end)
}

#[test]
fn each_is_raised_and_points_at_what_it_is_about() {
    let mut raised = BTreeSet::new();
    for (marked, code, grammar) in MARKED {
        let (address, place) = unmarked(marked);
        let examined = examine(address.as_bytes(), &policy(*grammar));
        let places: Vec<_> = examined
            .findings
            .iter()
            .filter(|finding| finding.code.name() == *code)
            .map(|finding| finding.span.start..finding.span.end)
            .collect();
        assert!(
            places.contains(&place),
            "{marked}: {code} points at {places:?}; {:?}",
            examined.findings.iter().map(|finding| (finding.code.name(), finding.span)).collect::<Vec<_>>()
        );
        let finding = examined.findings.iter().find(|finding| finding.code.name() == *code).unwrap();
        assert!(finding.message.ends_with('.') && !finding.message.contains('\n'), "{}", finding.message);
        raised.insert(*code);
    }
    let all: BTreeSet<&str> = Code::ALL.iter().map(|code| code.name()).collect();
    raised.extend(MARKED_CELLS.iter().map(|(_, code)| *code));
    raised.extend(Repair::ALL.iter().filter_map(|repair| repair.as_typed()).map(Code::name));
    let told: BTreeSet<&str> = raised.into_iter().chain(ELSEWHERE).collect();
    assert_eq!(all, told, "every finding has an example");
}

/// By the thorough path and by the quick one: off, it is not there; a note, it stops nothing; reject, it rejects.
#[test]
fn each_weighs_what_it_is_told_to() {
    for (marked, name, grammar) in MARKED {
        let (address, _) = unmarked(marked);
        let code = Code::from_name(name).expect("a code");
        for severity in [Severity::Off, Severity::Note, Severity::Review, Severity::Reject] {
            let mut policy = policy(*grammar);
            let set = policy.set_severity(code, severity);
            assert_eq!(set.is_err(), severity < code.least(), "{name}");
            if set.is_err() {
                continue;
            }
            let examined = examine(address.as_bytes(), &policy);
            let judged = Judge::new(&policy, Hasher::with_key(1)).judge(address.as_bytes());
            assert_eq!((judged.codes, judged.verdict), (examined.codes, examined.verdict), "{marked}");
            assert_eq!(examined.codes.contains(code), severity != Severity::Off, "{marked} {severity:?}");
            let least = match severity {
                Severity::Off | Severity::Note => Verdict::Accept,
                Severity::Review => Verdict::Review,
                Severity::Reject => Verdict::Reject,
            };
            assert!(examined.verdict >= least, "{marked} {severity:?}: {:?}", examined.verdict);
            let alone = examined.codes.without(ypogram_core::CodeSet::of(&[code])).is_empty();
            assert!(!alone || examined.verdict == least, "{marked} {severity:?}: {:?}", examined.verdict);
        }
    }
}

/// What is let pass stands as it was written; no two of these are one mailbox.
#[test]
fn what_is_let_pass_has_a_standard_form() {
    let mut policy = Policy::default();
    for code in Code::ALL.iter().filter(|code| code.least() == Severity::Off) {
        policy.set_severity(*code, Severity::Note).unwrap();
    }
    let mut judge = Judge::new(&policy, Hasher::with_key(1));
    for (address, standard) in [
        ("Ada..B@Fernhollow.org", "ada..b@fernhollow.org"),
        (".ada.@fernhollow.org", ".ada.@fernhollow.org"),
        ("ada@Fern_Hollow.org", "ada@fern_hollow.org"),
        ("ada@-fern-.org", "ada@-fern-.org"),
        ("ada@fe--rnhollow.org", "ada@fe--rnhollow.org"),
        // A trailing dot says nothing: it is the same domain.
        ("ada@fernhollow.org.", "ada@fernhollow.org"),
        ("\"a d\"@fern_hollow.org", "\"a d\"@fern_hollow.org"),
        ("\"a..d\"@fernhollow.org", "\"a..d\"@fernhollow.org"),
    ] {
        let judged = judge.judge(address.as_bytes());
        assert_eq!((judged.verdict, judged.has_standard_form), (Verdict::Accept, true), "{address}");
        assert_eq!(String::from_utf8_lossy(judge.address()), standard);
        assert!(judged.class.is_some(), "{address}");
    }
    // A fault that cannot be let pass keeps its weight beside one that is.
    assert_eq!(judge.judge(b"ada..b@fern_hollow..org").verdict, Verdict::Reject);
    assert_eq!(judge.judge(b"ada..b@fern_hollow.nosuchending").verdict, Verdict::Accept);
}

/// What is wrong with the cell rather than with the address.
#[test]
fn findings_of_cells() {
    for (marked, code) in MARKED_CELLS {
        let (text, place) = unmarked(marked);
        let mut found = Vec::new();
        cell::read(text.as_bytes(), &Policy::default(), &mut found);
        let span = found[0].marked.map(|span| span.start..span.end);
        assert_eq!((found[0].codes.first().map(Code::name), span), (Some(*code), Some(place)), "{marked}");
    }
    for text in ["<ell@fernhollow.org>", "Ell ell@fernhollow.org", "ell@fernhollow.org."] {
        let mut found = Vec::new();
        cell::read(text.as_bytes(), &Policy::default(), &mut found);
        assert_eq!((found.len(), found[0].codes.first()), (1, None), "{text}");
    }
}

/// Each repair that takes something off is a fault of an entry as typed, under its own name.
#[test]
fn repairs_are_faults_as_typed() {
    let names: Vec<_> =
        Repair::ALL.iter().filter_map(|repair| Some((repair.name(), repair.as_typed()?.name()))).collect();
    assert!(names.iter().all(|(repair, code)| *code == format!("as-typed-{repair}")), "{names:?}");
    let no_fault: Vec<_> =
        Repair::ALL.iter().filter(|repair| repair.as_typed().is_none()).map(|repair| repair.name()).collect();
    assert_eq!(no_fault, ["quotes", "local-part-case", "domain-case", "a-label", "decided"]);
}
