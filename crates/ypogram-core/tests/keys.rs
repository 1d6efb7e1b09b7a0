//! The key: what two addresses share when they reach the same mailbox, under each rule.

use ypogram_core::{Policy, SameMailbox, examine};

fn key(address: &str, same: SameMailbox) -> String {
    let policy = Policy::default();
    examine(address.as_bytes(), &policy).key(same, &policy).unwrap_or_else(|| panic!("{address} has no key"))
}

#[test]
fn each_rule_by_itself() {
    use SameMailbox::{Case, Everywhere, Exact, Provider};
    for (same, address, expected) in [
        (Exact, "Ada.L@Fernhollow.ORG", "Ada.L@fernhollow.org"),
        (Exact, "\"ada\"@fernhollow.org", "ada@fernhollow.org"),
        (Case, "Ada.L+x@Fernhollow.ORG", "ada.l+x@fernhollow.org"),
        (Case, "JOSÉ@fernhollow.org", "josé@fernhollow.org"),
        (Case, "jose\u{301}@fernhollow.org", "josé@fernhollow.org"),
        (Case, "ada@FERNHÖLLOW.org", "ada@xn--fernhllow-47a.org"),
        // RFC 5233: what the domain's own provider is known to do, and nothing where it is not known.
        (Provider, "Ada.L+x@Fernhollow.org", "ada.l+x@fernhollow.org"),
        (Provider, "Night.Owl+x+y@gmail.com", "nightowl@gmail.com"),
        (Provider, "night.owl@googlemail.com", "nightowl@gmail.com"),
        (Provider, "night.owl+x@outlook.com", "night.owl@outlook.com"),
        (Provider, "night.owl@hotmail.com", "night.owl@hotmail.com"),
        (Provider, "night.owl+x@yahoo.com", "night.owl+x@yahoo.com"),
        (Provider, "night-owl@yahoo.com", "night-owl@yahoo.com"),
        (Provider, "night.o-w_l@proton.me", "nightowl@proton.me"),
        (Provider, "nightowl@protonmail.com", "nightowl@protonmail.com"),
        (Provider, "night-owl@yandex.com", "night.owl@yandex.ru"),
        (Provider, "owl@yopmail.fr", "owl@yopmail.com"),
        (Provider, "anything@owl.33mail.com", "owl@33mail.com"),
        (Provider, "anything@owl.fastmail.com", "owl@fastmail.com"),
        (Provider, "owl+x@fastmail.com", "owl@fastmail.com"),
        (Provider, "owl@mac.com", "owl@mac.com"),
        // A separator in the first place starts no tag.
        (Provider, "+owl@outlook.com", "+owl@outlook.com"),
        // The domain is never touched.
        (Everywhere, "Night.Owl+x@fern.hollow.org", "nightowl@fern.hollow.org"),
        (Everywhere, "night.owl@googlemail.com", "nightowl@googlemail.com"),
        // What would become empty, or needs quotes, keeps its folded form.
        (Everywhere, "+x@fernhollow.org", "+x@fernhollow.org"),
        (Everywhere, "\"Night Owl.\"@fernhollow.org", "\"night owl.\"@fernhollow.org"),
    ] {
        assert_eq!(key(address, same), expected, "{address} under {}", same.word());
    }
}

#[test]
fn the_rules_are_no_ladder() {
    let (a, b) = ("nightowl@gmail.com", "nightowl@googlemail.com");
    assert_eq!(key(a, SameMailbox::Provider), key(b, SameMailbox::Provider));
    assert_ne!(key(a, SameMailbox::Everywhere), key(b, SameMailbox::Everywhere));
}

#[test]
fn rules_of_the_job() {
    let mut policy = Policy::default();
    policy.host_at("h-works.org", "google").unwrap();
    policy.set_mailbox_rule("dots.org", false, Some('-')).unwrap();
    policy.set_alias("old-works.org", "h-works.org").unwrap();
    policy.set_alias("letter-works.org", "gmail.com").unwrap();
    for (address, expected) in [
        ("Ada.L+x@h-works.org", "adal@h-works.org"),
        ("a.da.l+y@old-works.org", "adal@h-works.org"),
        ("a.d.a-x@dots.org", "ada@dots.org"),
        ("night.owl@letter-works.org", "nightowl@gmail.com"),
        ("a.l@below.h-works.org", "a.l@below.h-works.org"),
        // What gmail.com itself cannot have issued may well be there.
        ("a_l@h-works.org", "a_l@h-works.org"),
    ] {
        let examined = examine(address.as_bytes(), &policy);
        assert_eq!(examined.key(SameMailbox::Provider, &policy).as_deref(), Some(expected), "{address}");
        assert!(examined.codes.is_empty() || address.contains('+') || address.contains('-'), "{address}");
        let mut judge = ypogram_core::Judge::new(&policy, ypogram_core::Hasher::with_key(3));
        judge.judge(address.as_bytes());
        let mut scratch = Vec::new();
        assert_eq!(judge.key_in(SameMailbox::Provider, &mut scratch), expected.as_bytes(), "{address}");
    }
    assert!(policy.host_at("h-works.org", "nobody").unwrap_err().0.contains("known are: "));
    assert!(policy.set_mailbox_rule("h-works.org", true, Some('@')).is_err());
}
