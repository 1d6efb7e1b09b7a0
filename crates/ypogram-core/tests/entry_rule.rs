//! The rule for entries: its conditions, and the one expression that holds all of them.

use ypogram_core::entry_rule::{EntryMatcher, EntryRule, Extent, Flavour, Wanted};
use ypogram_core::house_format::{Fold, HouseFormat};
use ypogram_core::{Class, Code, Pattern, Policy, Severity};

/// The name of the condition by which a rule refuses `value`; nothing where it takes it.
fn refused_by<'r>(matcher: &EntryMatcher<'r>, value: &str) -> &'r str {
    matcher.refused_by(value).map_or("", |condition| &*condition.name)
}

#[test]
fn each_condition_refuses_what_it_is_named_for() {
    let rule = EntryRule::new(&Policy::default(), &Wanted::default());
    let matcher = EntryMatcher::new(&rule);
    let (long, label) = ("a".repeat(65), "a".repeat(64));
    let labels = format!("ada@{0}.{0}.{0}.{0}.org", &label[..62]);
    for (value, name) in [
        ("night.owl@quarryfarm.org", ""),
        ("\"night owl\"@quarryfarm.org", ""),
        ("\"a@b\\\"c\"@quarryfarm.org", ""),
        ("jörg@bücher.de", ""),
        ("o'neil+news@mill-street.co.uk", ""),
        ("ada@xn--bcher-kva.de", ""),
        ("ada@quarryfarm.рф", ""),
        ("ada", "no-at-sign"),
        (" ada@quarryfarm.org", "as-typed-trimmed"),
        ("ada\u{200B}@quarryfarm.org", "as-typed-invisible"),
        ("ada\u{202E}@quarryfarm.org", "bidi-control"),
        ("ada＠quarryfarm.org@x.org", "as-typed-full-width"),
        ("a da@quarryfarm.org", "space-inside"),
        ("\"a\tb\"@quarryfarm.org", "space-inside"),
        ("ada\u{7F}@quarryfarm.org", "control-character"),
        ("ada@bo@quarryfarm.org", "several-at-signs"),
        ("@quarryfarm.org", "empty-local-part"),
        ("ada@", "empty-domain"),
        ("ada\"@quarryfarm.org", "unbalanced-quote"),
        ("a,b@quarryfarm.org", "character-not-allowed"),
        ("‘ada’@quarryfarm.org", "character-not-allowed"),
        ("ada@quarryfarm..org", "empty-label"),
        ("ada@quarryfarm.org.", "trailing-dot"),
        ("ada@quarry_farm.org", "underscore-in-domain"),
        ("ada@quarryfarm.org/x", "domain-character"),
        ("ada@-quarryfarm.org", "hyphen-at-edge"),
        ("ada@quarryfarm-.org", "hyphen-at-edge"),
        ("ada@qu--arry.org", "hyphens-third-fourth"),
        (&format!("ada@{label}.org"), "label-too-long"),
        ("ada@localnet", "one-label-domain"),
        ("ada@192.0.2.7", "numeric-tld"),
        (".ada@quarryfarm.org", "dot-at-edge"),
        ("a..da@quarryfarm.org", "double-dot"),
        (&format!("{long}@quarryfarm.org"), "local-part-too-long"),
        (&labels, "address-too-long"),
        ("ada@mail.example.org", "reserved-name"),
        ("ada@quarryfarm.zzzz", "unknown-tld"),
        ("NoEmail@quarryfarm.org", "placeholder"),
        ("none+x@none.org", "placeholder-2"),
    ] {
        assert_eq!(refused_by(&matcher, value), name, "{value:?}");
    }
}

#[test]
fn a_job_changes_what_is_refused() {
    let mut policy = Policy::default();
    policy.trust_name("fernhollow.example").unwrap();
    policy.max_length = Some(30);
    for code in [Code::Disposable, Code::RoleAccount, Code::NonAsciiLocal, Code::QuotedLocalPart] {
        policy.set_severity(code, Severity::Reject).unwrap();
    }
    policy.set_severity(Code::UnknownTld, Severity::Note).unwrap();
    let formats =
        [HouseFormat::new(r#"given(1) "." family number? "@fernhollow.example""#, Fold::Plain).unwrap()];
    let patterns = [Pattern::new("short", r"[a-z.]{3,20}@.*", true, true).unwrap()];
    let wanted = Wanted { without: &[Class::Isp], formats: &formats, everyone: false, patterns: &patterns };
    let rule = EntryRule::new(&policy, &wanted);
    let matcher = EntryMatcher::new(&rule);
    for (value, name) in [
        ("a.lovell@fernhollow.example", ""),
        ("A.LOVELL@Fernhollow.EXAMPLE", ""),
        ("ada@quarryfarm.zzzz", ""),
        ("ada@mill.example", "reserved-name"),
        ("ada.lovell@fernhollow.example", "house-format"),
        ("ada.lovell.of.the@quarryfarm.org", "max-length"),
        ("ada@mailinator.com", "disposable"),
        ("ada@btinternet.com", "class-isp"),
        ("info@quarryfarm.org", "role-account"),
        ("\"ada\"@quarryfarm.org", "quoted-local-part"),
        ("jörg@quarryfarm.org", "non-ascii-local-part"),
        ("bo@quarryfarm.org", "pattern"),
    ] {
        assert_eq!(refused_by(&matcher, value), name, "{value:?}");
    }
    // With all addresses at the house's domains, others are refused.
    let rule = EntryRule::new(&policy, &Wanted { everyone: true, ..wanted });
    assert_eq!(refused_by(&EntryMatcher::new(&rule), "ada@quarryfarm.org"), "house-format");
    // A note refuses nothing, and what the house prescribes is no more than that.
    policy.set_severity(Code::HouseFormat, Severity::Note).unwrap();
    let rule = EntryRule::new(&policy, &wanted);
    assert_eq!(refused_by(&EntryMatcher::new(&rule), "ada.lovell@fernhollow.example"), "");
}

/// What no condition sees is listed, but for what cannot be.
#[test]
fn differences_are_listed() {
    let listed = |policy: &Policy| {
        let rule = EntryRule::new(policy, &Wanted::default());
        rule.lets_pass().map(|passes| passes.code.name()).collect::<Vec<_>>()
    };
    let mut policy = Policy::default();
    let usual = listed(&policy);
    assert!(usual.contains(&"public-suffix") && usual.contains(&"bad-a-label"), "{usual:?}");
    for never in ["max-length", "address-literal", "program-fault", "typing-slip"] {
        assert!(!usual.contains(&never), "{never}");
    }
    policy.set_severity(Code::TypingSlip, Severity::Reject).unwrap();
    policy.max_length = Some(100);
    let more = listed(&policy);
    assert!(more.contains(&"typing-slip") && more.contains(&"max-length"), "{more:?}");
}

/// Lists are long, and an expression for PCRE has an end.
#[test]
fn an_expression_keeps_within_its_engine() {
    let mut policy = Policy::default();
    for code in [Code::FreeProvider, Code::IspMailbox, Code::Disposable] {
        policy.set_severity(code, Severity::Reject).unwrap();
    }
    let rule = EntryRule::new(&policy, &Wanted::default());
    let without = |flavour, extent| rule.expression(flavour, extent).without;
    assert_eq!(without(Flavour::EcmaScript, Extent::Whole), [""; 0]);
    assert!(without(Flavour::Pcre, Extent::Whole).contains(&"free-provider".to_owned()));
    let names = without(Flavour::EcmaScript, Extent::WithoutLists);
    for name in ["reserved-name", "unknown-tld", "disposable", "isp", "free-provider"] {
        assert!(names.contains(&name.to_owned()), "{name}: {names:?}");
    }
}
