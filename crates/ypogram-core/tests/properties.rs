//! What holds for any input.

use proptest::prelude::*;
use ypogram_core::lists::{List, Lists, Of, Purpose};
use ypogram_core::names::NameOrder;
use ypogram_core::{
    CellBatch, Class, Code, CodeSet, Form, Grammar, Hasher, Judge, LetterCase, Part, Plain, Policy, Repairs,
    SameMailbox, Severity, Verdict, cell, examine, shown, suggest,
    text::{self, ScanEvent, Seen},
};

/// Pieces that addresses and their wrappings are made of, so that mutations reach every branch.
fn address_like() -> impl Strategy<Value = String> {
    let piece = prop_oneof![
        4 => "[a-zA-Z0-9]{1,8}",
        3 => prop::sample::select(vec![
            "@", "@", "@", ".", ".", "-", "_", "+", "\"", "\\", " ", "<", ">", "(", ")", "[", "]", ",", ";", ":", "mailto:", "?", "%40",
            "%2B", "&#64;", "&amp;", "..", "--", "xn--", "\u{AD}", "\u{200B}", "\u{202E}", "＠", "．", "é", "e\u{301}", "ß", "а", "ö", "\0",
            "\n", "\u{A0}", "'", "“", "”", "[192.0.2.1]", "[IPv6:", "www.", "/", "|", "//", "\u{1b}",
        ]).prop_map(str::to_owned),
        2 => prop::sample::select(vec![
            "gmail.com", "googlemail.com", "fernhollow.org", "x.example", "proton.me", "yandex.ru", "user.33mail.com", "gmial.com", "co.uk",
            "пример.рф", "none", "noreply", "info", "test", "ada.lovell", "xn--fernhllow-47a.org",
        ]).prop_map(str::to_owned),
    ];
    prop::collection::vec(piece, 0..12).prop_map(|pieces| pieces.concat())
}

/// Plain addresses and what nearly is one, at all kinds of domains.
fn nearly_plain() -> impl Strategy<Value = String> {
    let local = prop_oneof![
        "[a-z]{0,6}",
        "[A-Za-z0-9._+'-]{1,9}",
        prop::sample::select(vec!["none", "no-email", "nomail+x", "none-x", "na", "no_reply", "info", "a'b"])
            .prop_map(str::to_owned),
    ];
    let label = prop_oneof![
        4 => "[a-zA-Z0-9]{1,3}",
        2 => prop::sample::select(vec!["example", "none", "co", "com", "fernhollow", "noreply"]).prop_map(str::to_owned),
        1 => prop::sample::select(vec!["", "-", "a-", "-a", "a-b", "ab--c", "xn--a", "a_b", "a+b", "localhost"]).prop_map(str::to_owned),
    ];
    let tld = prop::sample::select(vec![
        ".com", ".ORG", ".de", ".net", ".info", ".uk", ".example", ".zz", ".7", ".museum", "", ".",
    ]);
    let at = prop::sample::select(vec!["@", "@", "@", "@", "@", "@", "", "@@", "@x@"]);
    (local, at, prop::collection::vec(label, 0..4), tld)
        .prop_map(|(local, at, labels, tld)| format!("{local}{at}{}{tld}", labels.join(".")))
}

/// The same with a space somewhere.
fn with_spaces() -> impl Strategy<Value = String> {
    (nearly_plain(), any::<prop::sample::Index>()).prop_map(|(mut address, at)| {
        address.insert(at.index(address.len() + 1), ' ');
        address
    })
}

/// What stands beside an address in a text.
const BESIDE: &[&str] = &[
    " ",
    " ",
    ", ",
    " <",
    "> ",
    " < ",
    " > ",
    ": ",
    ":",
    ":a/b ",
    " mailto:",
    "; ",
    "\n",
    " Ada Lovell <",
    "/",
    "//",
    "\nMessage-ID: <",
    ". Then",
    ".Then",
    "(",
    ")",
    "?subject=x,y ",
    ";",
    "&amp;",
    "&#65;",
    "<wbr>",
    "\\u0041",
    ":8080 ",
    "\nUID:",
    "\nssh ",
    " ssh -p 22 ",
    " ssh -A ",
    "\nscp a ",
    ":\n",
    " ~ % ",
    "]$ ",
    "\n[",
    "# x",
    "获取",
    "%s",
    "$",
    " \"",
    "\" ",
    " mailto:x%2B",
    "@",
    "_",
    "\u{AD}",
];

fn policies() -> Vec<Policy> {
    let mut keep = Policy::default();
    keep.letter_case = LetterCase::Keep;
    keep.trust_name("example").unwrap();
    let mut listing = keep.clone();
    listing.lists = Lists::new(vec![
        list(Of::Contacts, "partner", &["x.example", "*.org", "gmail.com", "ada.lovell@proton.me"]),
        list(Of::Keys, "member", &["ada.lovell+x@gmail.com", "info@fernhollow.org"]),
        list(Of::LocalParts, "desk", &["none", "ada.lovell", "é"]),
    ]);
    vec![Policy::default(), keep, listing, lenient(Severity::Note), lenient(Severity::Review)]
}

/// Lets everything weigh as little as it can, down to `least`.
fn lenient(least: Severity) -> Policy {
    let mut policy = Policy::default();
    for &code in Code::ALL {
        policy.set_severity(code, least.max(code.least())).unwrap();
    }
    policy
}

/// A list that raises a finding of its name and, unless it is of local parts, gives a class of its name.
fn list(of: Of, name: &str, entries: &[&str]) -> List {
    let class = (of != Of::LocalParts).then(|| Class::own(name).unwrap());
    let mut list =
        List::new(Purpose { of, class, finding: Some(Code::own(name).unwrap()), ..Purpose::default() });
    let policy = Policy::default();
    for (line, entry) in (1..).zip(entries) {
        list.add(line, entry.as_bytes(), [], &mut Judge::new(&policy, Hasher::with_key(1)));
    }
    list
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(2000))]

    #[test]
    fn nothing_panics(
        bytes in prop::collection::vec(any::<u8>(), 0..80),
        like in address_like(),
        strewn in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..4),
    ) {
        let mut strewn_in = like.clone().into_bytes();
        for (at, byte) in strewn {
            strewn_in.insert(at.index(strewn_in.len() + 1), byte);
        }
        // An obsolete local part of RFC 5322 with bytes that are no text.
        let obsolete = [b"a .".as_slice(), &bytes, b"@gmail.com"].concat();
        for input in [&bytes[..], like.as_bytes(), &strewn_in, &obsolete] {
            for grammar in [Grammar::Smtp, Grammar::Header, Grammar::Html] {
                let mut policy = Policy::default();
                policy.grammar = grammar;
                let examined = examine(input, &policy);
                for finding in &examined.findings {
                    prop_assert!(finding.span.start <= finding.span.end && finding.span.end <= input.len(), "{:?}", finding);
                }
                suggest(input, examined.codes, &policy);
                if let Some(standard) = &examined.standard {
                    prop_assert_eq!(standard.address.as_bytes()[standard.at], b'@');
                    let parts = examined.parts(&policy).unwrap();
                    for &part in Part::ALL {
                        parts.text(part, NameOrder::FamilyFirst);
                    }
                }
            }
            let options = text::Options { any_tld: true, obfuscated: true, tell_hidden: true };
            text::look(input, 0..input.len(), &Policy::default(), options, |seen| {
                if let Seen::Match(hit) = seen {
                    assert!(hit.as_found.end <= input.len() && hit.as_found.start <= hit.bare.start);
                }
            });
            let raw = shown(input).contains(['\u{1b}', '\u{202E}', '\n']);
            prop_assert!(!raw);
        }
    }

    /// What was seen on the way to an address must not change what is reported about it, nor how its key is reached.
    #[test]
    fn short_ways_say_what_the_long_one_says(like in address_like(), before in "[ a-z<:,]{0,4}", after in "[ .>,a-z]{0,4}") {
        for policy in policies() {
            let (mut short, mut long) = (Judge::new(&policy, Hasher::with_key(1)), Judge::new(&policy, Hasher::with_key(1)));
            let codes = examine(like.as_bytes(), &policy).codes;
            prop_assert_eq!(short.suggest(like.as_bytes(), codes), suggest(like.as_bytes(), codes, &policy));
            let mut scratch = Vec::new();
            let mut agree = |short: &Judge<'_>, long: &mut Judge<'_>, judged, address: &[u8]| {
                prop_assert_eq!(judged, long.judge(address), "{}", shown(address));
                prop_assert_eq!(short.address(), long.address());
                prop_assert_eq!(short.domain_hash(), long.domain_hash());
                for same in SameMailbox::ALL {
                    let mut key = Vec::new();
                    long.key(same, &mut key);
                    prop_assert_eq!(short.key_in(same, &mut scratch), &key[..]);
                }
                Ok(())
            };
            let mut ahead = CellBatch::default();
            short.look_ahead([Some((like.as_bytes(), like.len()))].into_iter(), &mut ahead);
            if let Some(judged) = short.judge_plain(like.as_bytes(), &ahead, 0) {
                let mut found = Vec::new();
                cell::read(like.as_bytes(), &policy, &mut found);
                prop_assert_eq!(found.len(), 1);
                prop_assert_eq!(&*found[0].text, like.as_bytes(), "a cell that is plain is the address");
                prop_assert_eq!((found[0].codes, found[0].repairs, found[0].form), (CodeSet::EMPTY, Repairs::NONE, Form::Plain));
                agree(&short, &mut long, judged, like.as_bytes())?;
            }
            // The domain is known by now; others stand around it as in a table, and it is dressed as people do it.
            for dressed in [
                like.clone(),
                format!(" <{like}>"),
                format!("mailto:{like}\t"),
                like.replacen('@', "  @ ", 1),
                format!("{}\t", like.replacen('@', " @", 1)),
                format!("\"Lovell, Ada\" <{like}>"),
                format!("{before}{like}{after}"),
                format!("{before}<{like}>{after}"),
            ] {
                let cells = [&b"x@y.example"[..], dressed.as_bytes(), b"", dressed.as_bytes()];
                short.look_ahead(cells.into_iter().map(|cell| Some((cell, cell.len()))), &mut ahead);
                prop_assert_eq!(ahead.len(), 4);
                // The same cells as lines of one text.
                let text = cells.join(&b'\n');
                let ends = cells.iter().scan(0, |end, cell| {
                    *end += cell.len() + 1;
                    Some(*end - 1)
                });
                let places = ends.zip(cells).map(|(end, cell)| end - cell.len()..end);
                let mut in_lines = CellBatch::default();
                short.scan_batch_in(&text, places, &mut in_lines);
                for same in SameMailbox::ALL {
                    let seen = |plain: Plain<'_>| (plain.summary_key, plain.address().to_vec(), plain.key().to_vec());
                    let of_cells = short.plain(&ahead, 3, same).map(seen);
                    prop_assert_eq!(short.plain(&in_lines, 3, same).map(seen), of_cells, "{:?}", dressed);
                    let Some(plain) = short.plain(&ahead, 3, same) else { continue };
                    let mut found = Vec::new();
                    cell::read(dressed.as_bytes(), &policy, &mut found);
                    prop_assert_eq!(found.len(), 1, "{:?}", dressed);
                    prop_assert_eq!(found[0].codes, CodeSet::EMPTY);
                    prop_assert_eq!((plain.summary_key.form(), plain.summary_key.unwrapping()), (found[0].form, found[0].repairs), "{:?}", dressed);
                    prop_assert_eq!(plain.summary_key.summary(&policy), long.judge(&found[0].text), "{:?}", dressed);
                    let mut long_key = Vec::new();
                    long.key(same, &mut long_key);
                    prop_assert_eq!(shown(plain.key()), shown(&long_key), "{:?} of {}", same, dressed);
                    prop_assert_eq!(plain.address(), long.address());
                    prop_assert_eq!((plain.local_part(), plain.domain()), (long.local_part(), long.domain()));
                }
            }
            let text = format!("{before}{like}{after}");
            let mut hits = Vec::new();
            text::find(text.as_bytes(), &policy, |hit| hits.push(hit));
            // How it stood says more of others.
            for hit in hits.iter().filter(|hit| hit.codes().is_empty()) {
                let judged = short.judge_hit(hit);
                agree(&short, &mut long, judged, &hit.text)?;
            }
        }
    }

    /// What a judge says of addresses on the way through a text is what is reported about them one by one.
    #[test]
    fn texts_are_judged_on_the_way_as_afterwards(
        likes in prop::collection::vec((address_like(), prop::sample::select(BESIDE), prop::sample::select(BESIDE)), 1..24),
    ) {
        let pad = "It rained on the night of the open dome, and everybody stayed.";
        let plain = |like: &str| like.replace(|c: char| !c.is_ascii_alphanumeric() && !"@.+-_".contains(c), "");
        let likes: String = likes.iter().map(|(like, before, behind)| {
            format!("{before}{like}{behind}{before}ada{}@fernhollow.org{behind}{before}{}{behind}", like.len(), plain(like))
        }).collect();
        let text = format!("{pad} {likes} {pad}");
        let text = text.as_bytes();
        for policy in policies() {
            let (mut on_the_way, mut after) = (Judge::new(&policy, Hasher::with_key(1)), Judge::new(&policy, Hasher::with_key(1)));
            let mut told = Vec::new();
            text::look(text, 0..text.len(), &policy, text::Options::default(), |seen| told.push(seen));
            let mut told = told.into_iter();
            let mut differ = Vec::new();
            text::look_with(text, 0..text.len(), &mut on_the_way, text::Options::default(), |judge, met| {
                let (at, line_breaks) = match &met {
                    ScanEvent::Judged(within) => (within.as_found.start, within.line_breaks),
                    ScanEvent::Seen(_, near) => (near.at, near.line_breaks),
                };
                let counted = text[..at].iter().filter(|&&b| b == b'\n').count() as isize;
                let same = match (met, told.next()) {
                    (ScanEvent::Seen(Seen::Skipped(span, reason), _), Some(Seen::Skipped(of, why))) => (span, reason) == (of, why),
                    (ScanEvent::Seen(Seen::Match(hit), _), Some(Seen::Match(of))) => {
                        hit.text == of.text && (hit.as_found, hit.bare, hit.form, hit.name) == (of.as_found, of.bare, of.form, of.name)
                    }
                    (ScanEvent::Judged(within), Some(Seen::Match(of))) => {
                        let judged = after.judge(&of.text);
                        let address = if within.summary_key.has_capitals() { judge.address() } else { within.bare.of(text) };
                        let (mut scratch, mut key) = (Vec::new(), Vec::new());
                        after.key(policy.same, &mut key);
                        (within.as_found, within.bare, within.form, within.name) == (of.as_found, of.bare, of.form, of.name)
                            && within.summary_key.summary(&policy) == judged
                            && (address, judge.domain_hash()) == (after.address(), after.domain_hash())
                            && judge.key_of_met(within, address, &mut scratch) == key
                    }
                    _ => false,
                };
                if !same || line_breaks != counted {
                    differ.push(shown(text));
                }
            });
            prop_assert!(differ.is_empty(), "{:?}", differ);
            prop_assert!(told.next().is_none());
        }
    }

    #[test]
    fn normalising_twice_changes_nothing(like in address_like()) {
        for policy in policies() {
            let Some(standard) = examine(like.as_bytes(), &policy).standard else { continue };
            let again = examine(standard.address.as_bytes(), &policy);
            prop_assert_eq!(again.standard.as_ref(), Some(&standard), "from {}", like);
            for same in SameMailbox::ALL {
                let key = again.key(same, &policy);
                if same != SameMailbox::Exact {
                    prop_assert_eq!(&examine(like.as_bytes(), &policy).key(same, &policy), &key);
                }
                // A key is an address of the same mailbox, so it is its own key.
                let of_key = examine(key.clone().unwrap().as_bytes(), &policy);
                if of_key.standard.is_some() && same != SameMailbox::Exact {
                    prop_assert_eq!(of_key.key(same, &policy), key, "{} of {}", same.word(), like);
                }
            }
        }
    }

    #[test]
    fn quick_and_thorough_agree(like in prop_oneof![address_like(), nearly_plain(), with_spaces()]) {
        for policy in policies() {
            let mut judge = Judge::new(&policy, Hasher::with_key(3));
            for _ in 0..2 {
                let judged = judge.judge(like.as_bytes());
                let examined = examine(like.as_bytes(), &policy);
                prop_assert_eq!(judged.codes, examined.codes, "{}", like);
                prop_assert_eq!(judged.verdict, examined.verdict);
                prop_assert_eq!((judged.class, judged.operator), (examined.class, examined.operator));
                prop_assert_eq!(judged.has_standard_form, examined.has_standard_form());
                prop_assert!(judged.has_standard_form || judged.verdict != Verdict::Accept, "{} is accepted without a standard form", like);
                for &part in Part::ALL {
                    let text = |parts: Option<ypogram_core::Parts<'_>>| parts.map(|parts| parts.text(part, NameOrder::default()));
                    prop_assert_eq!(text(judge.parts()), text(examined.parts(&policy)), "{} of {}", part.name(), like);
                }
                let standard = examined.standard.as_ref().map_or("", |s| s.address.as_str());
                prop_assert_eq!(judge.address(), standard.as_bytes());
                for same in SameMailbox::ALL {
                    let mut key = Vec::new();
                    judge.key(same, &mut key);
                    let expected = examined.key(same, &policy).unwrap_or_default();
                    prop_assert_eq!(String::from_utf8(key).unwrap(), expected);
                }
            }
        }
    }

    #[test]
    fn a_cell_gives_addresses_with_places_in_it(like in address_like()) {
        let policy = Policy::default();
        let mut found = Vec::new();
        cell::read(like.as_bytes(), &policy, &mut found);
        let blank = like.trim_matches(|c: char| c.is_whitespace() || c == '\u{FEFF}').is_empty();
        prop_assert!(!found.is_empty() || blank || !like.contains('@'), "{:?}", like);
        for address in &found {
            prop_assert!(address.as_found.end <= like.len());
            for finding in examine(&address.text, &policy).findings {
                let place = address.locate(finding.span);
                prop_assert!(place.start <= place.end && place.end <= like.len(), "{:?} in {:?}", finding, like);
            }
        }
    }

    #[test]
    fn a_suggestion_is_accepted(like in address_like()) {
        let policy = Policy::default();
        let codes = examine(like.as_bytes(), &policy).codes;
        if let Some(suggestion) = suggest(like.as_bytes(), codes, &policy) {
            prop_assert_eq!(examine(suggestion.address.as_bytes(), &policy).verdict, Verdict::Accept);
        }
    }
}

#[test]
fn large_inputs_end_quickly() {
    let policy = Policy::default();
    let no_at = vec![b'a'; 1 << 20];
    assert!(examine(&no_at, &policy).codes.contains(Code::NotAnAddress));
    let ats = vec![b'@'; 5000];
    assert!(examine(&ats, &policy).codes.contains(Code::SeveralAtSigns));
    let mut found = Vec::new();
    cell::read(&ats, &policy, &mut found);
    cell::read(&no_at, &policy, &mut found);
    // Without a line break, and with everything that is looked for far in front or behind.
    let all = text::Options { any_tld: true, obfuscated: true, tell_hidden: true };
    for piece in [
        "a@b.org ",
        "a@b.org:",
        "a @b.org",
        "<a@b.org>",
        "a(at)b ",
        "dot ",
        "&amp;a@b.org",
        "a=b+",
        "{}.a@b.org",
        "获a@b.org取",
    ] {
        let text = piece.repeat(30_000);
        for options in [all, text::Options::default()] {
            text::look(text.as_bytes(), 0..text.len(), &policy, options, |_| {});
        }
    }
    assert!(!found.is_empty());
}
