//! The grammars the other way round: addresses put together by the rules of the standards are read as what they were made of,
//! and one fault put into them is found.

use proptest::prelude::*;
use ypogram_core::{Code, Examination, Grammar, Kind, Policy, Verdict, examine, shown};

const ATEXT: &str = "[a-zA-Z0-9!#$%&'*+/=?^_`{|}~-]{1,6}";

/// RFC 5321 §4.1.2 *Dot-string*; also RFC 5322 §3.2.3 *dot-atom-text*.
fn dot_string() -> impl Strategy<Value = String> {
    prop::collection::vec(ATEXT, 1..4).prop_map(|atoms| atoms.join("."))
}

/// What a *Quoted-string* says, and how it is written.
fn quoted_string() -> impl Strategy<Value = (String, String)> {
    let byte = prop_oneof![
        4 => "[a-zA-Z0-9.@,;:<>() -]".prop_map(|c| (c.clone(), c)),
        1 => "[\"\\\\]".prop_map(|c| (c.clone(), format!("\\{c}"))),
        1 => "[a-z@]".prop_map(|c| (c.clone(), format!("\\{c}"))),
    ];
    prop::collection::vec(byte, 1..9).prop_map(|bytes| {
        let (says, written): (Vec<String>, Vec<String>) = bytes.into_iter().unzip();
        (says.concat(), format!("\"{}\"", written.concat()))
    })
}

/// RFC 5321 §4.1.2 *Domain* of labels that no list knows, with a TLD in the root zone.
fn domain() -> impl Strategy<Value = String> {
    let label = "[a-zA-Z0-9]([a-zA-Z0-9-]{0,6}[a-zA-Z0-9])?x[a-z]{2}q"
        .prop_filter("no A-label", |label| !label[2..].starts_with("--"));
    (prop::collection::vec(label, 1..3), prop::sample::select(vec!["org", "com", "co.uk", "Museum", "DE"]))
        .prop_map(|(labels, tld)| format!("{}.{tld}", labels.join(".")))
}

/// RFC 5322 §3.2.2 *CFWS*, or nothing.
fn space() -> impl Strategy<Value = String> {
    let comment = "[a-z ]{0,4}".prop_flat_map(|inner| {
        prop::sample::select(vec![
            format!("({inner})"),
            format!("({inner}(deep {inner}))"),
            format!("(\\({inner})"),
        ])
    });
    prop_oneof![
        6 => Just(String::new()),
        2 => Just(" ".to_owned()),
        1 => Just("\r\n ".to_owned()),
        2 => comment,
        1 => "[a-z]{1,3}".prop_map(|inner| format!(" ({inner}) ")),
    ]
}

/// RFC 5322 §3.2.5 *phrase*: words, some of them quoted.
fn phrase() -> impl Strategy<Value = String> {
    let word = prop_oneof![3 => "[A-Z][a-z]{1,5}".boxed(), 1 => quoted_string().prop_map(|(_, written)| written).boxed()];
    prop::collection::vec(word, 1..4).prop_map(|words| words.join(" "))
}

fn by(grammar: Grammar) -> Policy {
    let mut policy = Policy::default();
    policy.grammar = grammar;
    policy
}

/// The codes that say that the grammar does not have it.
fn faults(examined: &Examination) -> Vec<&'static str> {
    let syntax = examined.codes.iter().filter(|code| code.info().kind == Kind::Syntax);
    syntax.map(Code::name).collect()
}

/// The local part in standard form: lower case, quotes only where it needs them.
fn standard_local(says: &str) -> String {
    let is_atext = |c: char| c.is_ascii_alphanumeric() || "!#$%&'*+-/=?^_`{|}~".contains(c);
    let lower = says.to_ascii_lowercase();
    if lower.split('.').all(|atom| !atom.is_empty() && atom.chars().all(is_atext)) {
        return lower;
    }
    format!("\"{}\"", lower.replace('\\', "\\\\").replace('"', "\\\""))
}

proptest! {
    #[test]
    fn smtp_mailboxes_are_read_as_they_were_made(local in dot_string(), quoted in quoted_string(), domain in domain()) {
        for (says, written) in [(local.clone(), local.clone()), quoted] {
            let text = format!("{written}@{domain}");
            let examined = examine(text.as_bytes(), &by(Grammar::Smtp));
            prop_assert_eq!(faults(&examined), Vec::<&str>::new(), "{}", shown(text.as_bytes()));
            let expected = format!("{}@{}", standard_local(&says), domain.to_ascii_lowercase());
            prop_assert_eq!(&examined.standard.as_ref().unwrap().address, &expected, "{}", text);
            // The headers' grammar has every one of them, and reads the same.
            let of_header = examine(text.as_bytes(), &by(Grammar::Header));
            prop_assert_eq!(faults(&of_header), Vec::<&str>::new(), "{}", text);
            prop_assert_eq!(of_header.standard.unwrap().address, expected);
        }
    }

    /// RFC 5322 §3.4: white space and comments between the parts, a name in front, obsolete forms of §4.4.
    #[test]
    fn header_addresses_are_read_as_they_were_made(
        atoms in prop::collection::vec("[a-zA-Z0-9+_-]{1,5}", 1..4), domain in domain(), name in phrase(),
        gaps in prop::collection::vec(space(), 8), angle in any::<bool>(), obsolete in any::<bool>(),
    ) {
        let dot = |gap: &str| if obsolete { format!("{gap}.{gap}") } else { ".".to_owned() };
        let local = atoms.join(&dot(&gaps[0]));
        let written_domain = domain.split('.').collect::<Vec<_>>().join(&dot(&gaps[1]));
        let spec = format!("{}{local}{}@{}{written_domain}{}", gaps[2], gaps[3], gaps[4], gaps[5]);
        let text = if angle { format!("{name}{}<{spec}>{}", gaps[6], gaps[7]) } else { spec };
        let examined = examine(text.as_bytes(), &by(Grammar::Header));
        prop_assert_eq!(faults(&examined), Vec::<&str>::new(), "{}", shown(text.as_bytes()));
        let expected = format!("{}@{domain}", atoms.join(".")).to_ascii_lowercase();
        prop_assert_eq!(examined.standard.unwrap().address, expected, "{}", shown(text.as_bytes()));
        prop_assert_eq!(examined.codes.contains(Code::DisplayName), angle, "{}", shown(text.as_bytes()));
        prop_assert_eq!(examined.codes.contains(Code::CommentInside), text.contains('(') && !name_alone_has_it(&text, &name), "{}", text);
    }

    /// One fault, wherever it is put, rejects; and its finding points at it.
    #[test]
    fn one_fault_is_found_where_it_is(local in "[a-z]{2,8}", domain in "[a-z]{3,8}xq", at in 1_usize..7, fault in 0_usize..9) {
        let at = at.min(local.len() - 1);
        let into_local = |inserted: &str| format!("{}{inserted}{}@{domain}.org", &local[..at], &local[at..]);
        let into_domain = |inserted: &str| {
            let at = at.min(domain.len() - 1);
            format!("{local}@{}{inserted}{}.org", &domain[..at], &domain[at..])
        };
        let (text, code, found) = [
            (into_local(".."), Code::DoubleDot, ".."),
            (into_local(" "), Code::SpaceInside, " "),
            (into_local(","), Code::CharacterNotAllowed, ","),
            (into_local("\u{7}"), Code::ControlCharacter, "\u{7}"),
            (into_domain("_"), Code::UnderscoreInDomain, "_"),
            (into_domain(".."), Code::EmptyLabel, "."),
            (into_domain("!"), Code::DomainCharacter, "!"),
            (into_domain(".-"), Code::HyphenAtEdge, "-"),
            (format!("{local}@{domain}.nosuchending"), Code::UnknownTld, "nosuchending"),
        ][fault].clone();
        let examined = examine(text.as_bytes(), &Policy::default());
        prop_assert_eq!(examined.verdict, Verdict::Reject, "{}", text);
        let finding = examined.findings.iter().find(|finding| finding.code == code);
        let finding = finding.unwrap_or_else(|| panic!("{} not found in {text:?}: {:?}", code.name(), examined.findings));
        let pointed = &text[finding.span.start..finding.span.end];
        prop_assert!(pointed.contains(found) || found.contains(pointed), "{:?} of {:?}", pointed, text);
    }
}

/// Whether the parentheses of `text` are all inside quotes of `name`.
fn name_alone_has_it(text: &str, name: &str) -> bool {
    !text.replacen(name, "", 1).contains('(')
}
