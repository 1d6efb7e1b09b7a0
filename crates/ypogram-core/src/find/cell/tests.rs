use proptest::prelude::*;

use super::*;
use crate::model::codes::{Code, CodeSet};
use crate::suggest_found;

fn policy() -> Policy {
    let mut policy = Policy::default();
    policy.trust_name("example").unwrap();
    policy
}

/// Each address with its form and its repairs, the findings of the cell with an exclamation mark.
fn read_with(cell: &str, names: &[&[u8]]) -> Vec<(String, Form, String)> {
    let mut found = Vec::new();
    read_beside(cell.as_bytes(), Beside { names }, &policy(), &mut found);
    let tell = |f: &Found<'_>| {
        let repairs: Vec<_> = f.repairs.iter().map(Repair::name).collect();
        let codes = f.codes.iter().map(Code::name).map(|code| format!(" !{code}")).collect::<String>();
        (
            String::from_utf8_lossy(&f.text).into_owned(),
            f.form,
            (repairs.join(" ") + &codes).trim().to_owned(),
        )
    };
    found.iter().map(tell).collect()
}

fn read_one(cell: &str) -> Vec<(String, Form, String)> {
    read_with(cell, &[])
}

/// A cell with one address in it: the cell, the address, its form, what was done and what is reported.
const OF_ONE: &[(&str, &str, Form, &str)] = &[
    ("ada@h.example", "ada@h.example", Form::Plain, ""),
    (" ada@h.example\t", "ada@h.example", Form::Plain, "trimmed"),
    ("\u{A0}ada@h.example", "ada@h.example", Form::Plain, "trimmed"),
    ("<ada@h.example>", "ada@h.example", Form::Angle, "angle-brackets"),
    ("< ada@h.example >", "ada@h.example", Form::Angle, "angle-brackets"),
    ("mailto:ada@h.example?subject=Open%20night", "ada@h.example", Form::Mailto, "mailto"),
    ("mailto://ada@h.example", "ada@h.example", Form::Mailto, "mailto"),
    ("MAILTO:ada%2Bclub@h.example", "ada+club@h.example", Form::Mailto, "percent mailto"),
    ("Ada Lovell <ada@h.example>", "ada@h.example", Form::Named, "angle-brackets name"),
    ("\"Lovell, Ada\" <ada@h.example>", "ada@h.example", Form::Named, "angle-brackets name"),
    ("Lovell, Ada <ada@h.example>", "ada@h.example", Form::Named, "angle-brackets name"),
    ("佐藤花子 <h@h.example>", "h@h.example", Form::Named, "angle-brackets name"),
    ("Ada <mailto:ada@h.example>", "ada@h.example", Form::Named, "mailto angle-brackets name"),
    ("ada@h.example<mailto:ada@h.example>", "ada@h.example", Form::Named, "mailto angle-brackets name"),
    ("ada@h.example (Ada Lovell)", "ada@h.example", Form::Named, "name"),
    ("Ada Lovell ada@h.example", "ada@h.example", Form::Named, "name"),
    ("A. Lovell a.lovell@h.example", "a.lovell@h.example", Form::Named, "name"),
    ("Ada Lovell - ada@h.example", "ada@h.example", Form::Named, "name"),
    ("ada.lovell@h.example Ada Lovell", "ada.lovell@h.example", Form::Named, "name"),
    ("“ada@h.example”", "ada@h.example", Form::Quoted, "unwrapped"),
    ("[ada@h.example]", "ada@h.example", Form::Quoted, "unwrapped"),
    ("E-Mail: ada@h.example", "ada@h.example", Form::Labelled, "label"),
    ("Work e-mail : ada@h.example", "ada@h.example", Form::Labelled, "label"),
    ("メール：ada@h.example", "ada@h.example", Form::Labelled, "full-width label"),
    ("ada@h.example, 01632 960413", "ada@h.example", Form::WithTelephone, "telephone sign"),
    ("Tel. +44 1632 960413 / ada@h.example", "ada@h.example", Form::WithTelephone, "telephone sign"),
    ("ada@h.example;", "ada@h.example", Form::Marked, "sign"),
    ("ada@h.example.", "ada@h.example", Form::Marked, "sign"),
    ("ada@h.example/", "ada@h.example", Form::Marked, "sign"),
    ("ada@h.example)", "ada@h.example", Form::Marked, "sign"),
    ("ada@h.example'", "ada@h.example", Form::Marked, "sign"),
    ("\"ada@h.example", "ada@h.example", Form::Marked, "sign"),
    ("„ada@h.example", "ada@h.example", Form::Marked, "sign"),
    ("ada @ h.example", "ada@h.example", Form::Spaced, "space-around-at"),
    ("ada&#64;h.example", "ada@h.example", Form::Plain, "entities"),
    ("ada%40h.example", "ada@h.example", Form::Plain, "percent"),
    ("ada@h.exam\u{AD}ple", "ada@h.example", Form::Plain, "invisible"),
    ("ａｄａ＠h.example", "ada@h.example", Form::Plain, "full-width"),
    ("ada@<wbr>h.example", "ada@h.example", Form::Plain, "invisible"),
    ("邮箱ada@h.example", "ada@h.example", Form::Labelled, "label"),
    ("邮箱：ada@h.example。", "ada@h.example", Form::Marked, "full-width label sign"),
    ("请写ada@h.example", "ada@h.example", Form::WithinText, "from-text !word-beside"),
    ("ada@h.example获取信息", "ada@h.example", Form::WithinText, "from-text !word-beside"),
    ("메일은 ada@h.example입니다", "ada@h.example", Form::WithinText, "from-text !word-beside"),
    ("ผู้ใช้@ไทย.ไทย", "ผู้ใช้@ไทย.ไทย", Form::Plain, ""),
    ("用户1@例子.中国", "用户1@例子.中国", Form::Plain, ""),
    ("山田.taro@h.example", "山田.taro@h.example", Form::Plain, ""),
    ("\"ada lovell\"@h.example", "\"ada lovell\"@h.example", Form::Plain, ""),
    ("Ada <\"ada lovell\"@h.example>", "\"ada lovell\"@h.example", Form::Named, "angle-brackets name"),
    ("ada@[192.0.2.1]", "ada@[192.0.2.1]", Form::Plain, ""),
    ("r&d@h.example", "r&d@h.example", Form::Plain, ""),
    ("o'neil@h.example", "o'neil@h.example", Form::Plain, ""),
    ("'ada@h.example", "ada@h.example", Form::Marked, "sign !odd-beginning"),
    ("{ada@h.example", "ada@h.example", Form::Marked, "sign !odd-beginning"),
    ("ada@h.example<br/>", "ada@h.example", Form::Plain, "unwrapped"),
    ("ada@h.example%20", "ada@h.example", Form::Marked, "sign !residue"),
    ("Bea Lovell|ada@h.example", "ada@h.example", Form::WithinText, "from-text !remark"),
    ("Tel: 01632 960413 Mail: ada@h.example", "ada@h.example", Form::Labelled, "label telephone"),
    ("n/a; ada@h.example", "ada@h.example", Form::Marked, "sign"),
    ("ada@@h.example", "ada@@h.example", Form::Plain, ""),
    ("ada.h.example", "ada.h.example", Form::None, ""),
    ("see the sheet", "see the sheet", Form::None, ""),
    // Somebody has to look.
    ("write to ada@h.example, please", "ada@h.example", Form::WithinText, "sign from-text !remark"),
    ("ada@h.example (old) or ask Bea", "ada@h.example", Form::WithinText, "name from-text !remark"),
    ("? ada@h.example", "ada@h.example", Form::WithinText, "from-text !remark"),
    ("ada@h.org. thanks", "ada@h.org", Form::WithinText, "sign from-text !remark"),
    ("ada+d en@h.example", "en@h.example", Form::WithinText, "from-text !word-beside"),
    ("lov ell@h.example", "ell@h.example", Form::WithinText, "from-text !word-beside"),
    ("anna,bob@h.example", "bob@h.example", Form::WithinText, "from-text !word-beside"),
    ("anna & bob@h.example", "bob@h.example", Form::WithinText, "from-text !word-beside"),
    ("anna and bob@h.example", "bob@h.example", Form::WithinText, "from-text !word-beside"),
    ("BOUNCED <tess@h.example>", "tess@h.example", Form::Named, "angle-brackets name !do-not-contact"),
    ("tess@h.example (deceased)", "tess@h.example", Form::Named, "name !do-not-contact"),
    ("Do Not Mail tess@h.example", "tess@h.example", Form::WithinText, "from-text !do-not-contact"),
    ("=\"ada@h.example\"", "ada@h.example", Form::Marked, "sign !formula-like"),
    ("\"ada@h.example'", "ada@h.example", Form::Marked, "sign !odd-beginning"),
    (". ada@h.example", "ada@h.example", Form::WithinText, "from-text !remark"),
    // What touches an address is a part of it, or it is broken.
    ("a(z@h.example", "a(z@h.example", Form::Plain, "!broken-address"),
    ("a:z@h.example", "a:z@h.example", Form::Plain, "!broken-address"),
    ("john . doe@h.example", "john . doe@h.example", Form::Plain, "!broken-address"),
    ("john. doe@h.example", "john. doe@h.example", Form::Plain, "!broken-address"),
    ("john _doe@h.example", "john _doe@h.example", Form::Plain, "!broken-address"),
    ("an\"n\"a@h.example", "an\"n\"a@h.example", Form::Plain, "!broken-address"),
    ("'anna meier'@h.example", "'anna meier'@h.example", Form::Plain, "!broken-address"),
    ("a\0na@h.example", "a\0na@h.example", Form::Plain, "!broken-address"),
    ("anna@kelp.co .uk", "anna@kelp.co .uk", Form::Plain, "!broken-address"),
    ("anna@kelp.co uk", "anna@kelp.co uk", Form::Plain, "!broken-address"),
    ("anna@kelp. co.uk", "anna@kelp. co.uk", Form::Marked, "sign !broken-address"),
    ("mara@tide wharf.com", "mara@tide wharf.com", Form::Plain, "!broken-address"),
    ("anna@h.org:25", "anna@h.org:25", Form::Plain, "!broken-address"),
    ("anna\\n@h.example", "anna\\n@h.example", Form::Plain, "!broken-address"),
    ("ada@h. example", "ada@h. example", Form::Marked, "sign !broken-address"),
    ("ada@mail. host.example", "ada@mail. host.example", Form::Marked, "sign !broken-address"),
    ("ada@mail. no-ending", "ada@mail. no-ending", Form::Marked, "sign !broken-address"),
];

#[test]
fn forms_of_one() {
    let mut wrong = Vec::new();
    for &(cell, text, form, repairs) in OF_ONE {
        let found = read_one(cell);
        if found != [(text.to_owned(), form, repairs.to_owned())] {
            wrong.push(format!("{cell:?} is {found:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    for nothing in [" \t\u{A0} ", "n/a", "-", " keine Angabe ", "?", "(none)"] {
        assert!(read_one(nothing).is_empty(), "{nothing}");
    }
}

#[test]
fn names_of_the_record_are_names_beside_its_address() {
    let names: &[&[u8]] = &["Zoë Harrow".as_bytes()];
    for (cell, with, without) in [
        ("Zoe star@h.example", "name", "from-text !remark"),
        ("HARROW, Zoe: star@h.example", "name", "from-text !remark"),
        ("zoe harrow star@h.example", "name", "from-text !remark"),
        ("star@h.example Zoe Harrow", "name", "from-text !remark"),
        // A word that may have slipped off is none.
        ("zoe harrow@h.example", "from-text !word-beside", "from-text !word-beside"),
        ("see Bea star@h.example", "from-text !remark", "from-text !remark"),
    ] {
        assert_eq!(read_with(cell, names)[0].2, with, "{cell}");
        assert_eq!(read_one(cell)[0].2, without, "{cell}");
    }
}

#[test]
fn several_in_a_cell() {
    for cell in [
        "a@h.example; b@h.example",
        "a@h.example,b@h.example",
        "a@h.example / b@h.example",
        "a@h.example/b@h.example",
        "a@h.example|b@h.example",
        "a@h.example、b@h.example",
        "a@h.example b@h.example",
        "a@h.example and b@h.example",
        "a@h.example & b@h.example",
        "<a@h.example><b@h.example>",
        "E-Mail: a@h.example, b@h.example",
        "Lovell, Ada <a@h.example>, Bea <b@h.example>",
        "\"Lovell; Ada\" <a@h.example>;b@h.example;",
        "a@h.example\nb@h.example",
        "a@h.example\r\nb@h.example",
    ] {
        let found = read_one(cell);
        let texts: Vec<_> = found.iter().map(|(text, _, _)| text.as_str()).collect();
        assert_eq!(texts, ["a@h.example", "b@h.example"], "{cell}");
        assert!(
            found.iter().all(|(_, form, codes)| *form == Form::Several && !codes.contains('!')),
            "{cell} {found:?}"
        );
    }
    assert_eq!(read_one("a@b@h.example").len(), 1);
    // Where a list is not read as a whole, somebody looks.
    for cell in
        ["a@h.example; b@@h.example", "a@h.example, please use b@h.example", "a@h.example; b(c@h.example"]
    {
        let found = read_one(cell);
        assert!(found.len() == 2 && found[0].2.ends_with("!remark"), "{cell} {found:?}");
        // What was not read is no remark on itself.
        assert!(!cell.contains("@@") || !found[1].2.contains("remark"), "{found:?}");
    }
    let named = read_one("Anna Neu <a@h.example>, Bea Alt <b@h.example>");
    assert!(named.iter().all(|(_, _, codes)| !codes.contains('!')), "{named:?}");
}

#[test]
fn one_address_in_place_of_another() {
    for (cell, meant) in [
        ("old@h.example -> new@h.example", "new@h.example"),
        ("old@h.example → new@h.example", "new@h.example"),
        ("alt: old@h.example neu: new@h.example", "new@h.example"),
        ("not old@h.example but new@h.example", "new@h.example"),
        ("new@h.example (formerly old@h.example)", "new@h.example"),
        ("old@h.example, now new@h.example", "new@h.example"),
        ("new@h.example instead of old@h.example", "new@h.example"),
        ("old@h.example (alt) new@h.example (neu)", "new@h.example"),
        ("new@h.example (neu), old@h.example (alt)", "new@h.example"),
    ] {
        let mut found = Vec::new();
        read(cell.as_bytes(), &policy(), &mut found);
        assert_eq!(found.len(), 2, "{cell}");
        for found in found {
            assert_eq!(found.codes, CodeSet::of(&[Code::Replaced]), "{cell}");
            assert_eq!(suggest_found(&found, found.codes, &policy()).unwrap().address, meant, "{cell}");
        }
    }
}

#[test]
fn suggestions_for_what_is_broken() {
    for (cell, meant) in [
        ("anna@h.org:25", Some(("anna@h.org", "what follows it was removed"))),
        ("an\"n\"a@h.example", Some(("anna@h.example", "quotation marks inside were removed"))),
        ("john . doe@h.example", Some(("john.doe@h.example", "the space inside was removed"))),
        ("anna@kelp.co .uk", Some(("anna@kelp.co.uk", "the space inside was removed"))),
        ("mara@tide wharf.com", Some(("mara@tidewharf.com", "the space inside was removed"))),
        (
            "jÃ¶rg@h.example",
            Some(("jörg@h.example", "characters were read in the encoding they were written in")),
        ),
        (
            "ï»¿anna@h.example",
            Some(("anna@h.example", "characters were read in the encoding they were written in")),
        ),
        ("tess%host.org@relay.org", Some(("tess@host.org", "the host that passed it on was removed"))),
        (
            "ada@gmail.comgmail.com",
            Some(("ada@gmail.com", "what was left of an encoding or stood twice was removed")),
        ),
        ("=ada@h.example", Some(("ada@h.example", "the sign in front was removed"))),
        ("'ada@h.example", Some(("ada@h.example", "the sign in front was removed"))),
        ("a(z@h.example", None),
        ("a***a@h.example", None),
    ] {
        let mut found = Vec::new();
        read(cell.as_bytes(), &policy(), &mut found);
        let codes = crate::examine(&found[0].text, &policy()).codes.union(found[0].codes);
        assert_ne!(policy().verdict(codes), crate::Verdict::Accept, "{cell}");
        let suggested = suggest_found(&found[0], codes, &policy());
        let told = suggested.as_ref().map(|s| (s.address.as_str(), s.reason.as_str()));
        let meant = meant.map(|(address, reason)| {
            (crate::examine(address.as_bytes(), &policy()).standard.unwrap().address, reason)
        });
        assert_eq!(told, meant.as_ref().map(|(address, reason)| (address.as_str(), *reason)), "{cell}");
    }
}

proptest! {
    #[test]
    fn simple_wrappings_are_read_as_any_cell(
        before in prop::sample::select(vec!["", " ", "<", "Ada <", "Zoë <", "ａ <", "\"Lovell, Ada\" <", "\"\" <", "- <", "a;b <", "mailto:", "mailto: ", "mailto:<", "\"", "'", "“", "[", "("]),
        address in "[ab.'+%-]{0,3}@?[b.-]{0,2}( ?@[bc.]{1,4}){0,2}",
        behind in prop::sample::select(vec!["", " ", ">", "> ", "> x", "\n", ".", ">>", ";", ", ", "'", "\"", "”", "]", ")", "?", ".]"]),
    ) {
        let cell = format!("{before}{address}{behind}");
        if let Some(simple) = simply_wrapped(cell.as_bytes()).or_else(|| signed_or_quoted(cell.as_bytes())) {
            let mut by_any = Vec::new();
            read_any(cell.as_bytes(), Beside::default(), &Policy::default(), &mut by_any);
            prop_assert_eq!(format!("{by_any:?}"), format!("[{simple:?}]"), "{}", cell);
        }
    }

    #[test]
    fn plain_lists_are_read_as_any_cell(cell in "(( ?[ab.'`%&;=-]{0,3}(@|@[b.]{1,3})?)[,;]?){0,4}") {
        prop_assume!(cell.contains([',', ';']));
        let (mut by_list, mut by_any) = (Vec::new(), Vec::new());
        if read_plain_list(cell.as_bytes(), &mut by_list) {
            read_any(cell.as_bytes(), Beside::default(), &Policy::default(), &mut by_any);
            prop_assert_eq!(format!("{by_list:?}"), format!("{by_any:?}"));
        } else {
            prop_assert!(by_list.is_empty());
        }
    }
}

#[test]
fn places_lead_back_into_the_cell() {
    let cell = "x: <ada&#64;h..example>".as_bytes();
    let mut found = Vec::new();
    read(&cell[3..], &Policy::default(), &mut found);
    assert_eq!(found[0].locate(Span::new(5, 7)).of(&cell[3..]), b"..");
    assert_eq!(found[0].locate(Span::new(3, 4)).start, 4);
}
