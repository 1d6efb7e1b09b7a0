//! A corpus of labelled snippets: every address out of any text, and nothing that is not one.

use std::collections::BTreeMap;

use proptest::prelude::*;
use ypogram_core::text::{self, Options, Seen, SkipReason};
use ypogram_core::{Policy, examine};

fn unescaped(text: &str) -> String {
    let mut out = text.replace("\\n", "\n").replace("\\r", "\r").replace("\\t", "\t");
    while let Some(start) = out.find("\\u{") {
        let end = start + out[start..].find('}').expect("closed");
        let c =
            u32::from_str_radix(&out[start + 3..end], 16).ok().and_then(char::from_u32).expect("a character");
        out.replace_range(start..=end, &c.to_string());
    }
    out
}

fn found_in(text: &str, options: Options) -> Vec<String> {
    let policy = Policy::default();
    let mut found = Vec::new();
    text::look(text.as_bytes(), 0..text.len(), &policy, options, |seen| {
        if let Seen::Match(hit) = seen {
            let standard = examine(&hit.text, &policy).standard;
            found.push(
                standard.map_or_else(|| format!("?{}", String::from_utf8_lossy(&hit.text)), |s| s.address),
            );
        }
    });
    found
}

#[test]
fn corpus() {
    let (mut expected_count, mut found_count, mut right_count, mut snippets) = (0, 0, 0, 0);
    let mut wrong = Vec::new();
    let mut kinds: BTreeMap<&str, usize> = BTreeMap::new();
    let lines = include_str!("extraction.tsv").lines().filter(|line| !line.starts_with("# "));
    for line in lines {
        let cells: Vec<&str> = line.split('\t').collect();
        let (kind, text) = (cells[0], unescaped(cells[1]));
        let mut expected: Vec<String> = Vec::new();
        match cells.get(2) {
            Some(quoted) if quoted.starts_with('"') => expected.push((*quoted).to_owned()),
            Some(all) => expected.extend(all.split(' ').filter(|a| !a.is_empty()).map(str::to_owned)),
            None => {}
        }
        let found = found_in(&text, Options::default());
        if kind.starts_with('~') {
            println!("ambiguous: {text:?} gives {found:?}");
            continue;
        }
        *kinds.entry(kind).or_default() += 1;
        snippets += 1;
        expected_count += expected.len();
        found_count += found.len();
        right_count += found.iter().filter(|address| expected.contains(address)).count();
        if found != expected {
            wrong.push(format!("{kind}: {text:?} gave {found:?}, not {expected:?}"));
        }
    }
    let percent = |part: usize, whole: usize| 100.0 * part as f64 / whole as f64;
    println!(
        "{snippets} snippets of {} kinds: recall {:.1} %, precision {:.1} %",
        kinds.len(),
        percent(right_count, expected_count),
        percent(right_count, found_count)
    );
    assert!(snippets >= 150, "{snippets} snippets");
    assert!(wrong.is_empty(), "\n{}", wrong.join("\n"));
}

#[test]
fn obfuscated() {
    let options = Options { obfuscated: true, ..Options::default() };
    for (text, expected) in [
        ("ada at fernhollow dot org", vec!["ada@fernhollow.org"]),
        ("write to ada (at) fernhollow.org now", vec!["ada@fernhollow.org"]),
        ("ada[at]fernhollow[dot]org", vec!["ada@fernhollow.org"]),
        ("ada {at} mail {dot} fernhollow {dot} org", vec!["ada@mail.fernhollow.org"]),
        ("ada(at)fernhollow(dot)co(dot)uk", vec!["ada@fernhollow.co.uk"]),
        ("ada dot lovell at fernhollow dot org", vec!["ada.lovell@fernhollow.org"]),
        ("ada arroba fernhollow punto org", vec!["ada@fernhollow.org"]),
        ("ada (ät) fernhollow punkt org", vec!["ada@fernhollow.org"]),
        ("ada @ fernhollow.org", vec!["ada@fernhollow.org"]),
        ("write a d a @ f e r n h o l l o w . o r g please", vec!["ada@fernhollow.org"]),
        ("so 1 2 @ 3 4 . 5", vec![]),
        ("we met at fernhollow.org yesterday", vec![]),
        ("look at stars dot the sky", vec![]),
        ("3 pcs @ 4.50 each", vec![]),
        ("ada@fernhollow.org, bea (at) fernhollow.org", vec!["ada@fernhollow.org", "bea@fernhollow.org"]),
        ("ada@fernhollow[dot]org", vec!["ada@fernhollow.org"]),
        ("ada@fernhollow (dot) org", vec!["ada@fernhollow.org"]),
        ("ada@mail dot fernhollow dot org", vec!["ada@mail.fernhollow.org"]),
        ("ada@fernhollow-dot-org", vec!["ada@fernhollow.org"]),
        ("ada-at-fernhollow-dot-org", vec!["ada@fernhollow.org"]),
        ("ada_at_fernhollow_dot_org", vec!["ada@fernhollow.org"]),
        ("ADA AT FERNHOLLOW DOT ORG", vec!["ada@fernhollow.org"]),
        ("Ada <ada at fernhollow.org>", vec!["ada@fernhollow.org"]),
        ("ada [ at ] fernhollow [ dot ] org", vec!["ada@fernhollow.org"]),
        ("ada[@]fernhollow[.]org", vec!["ada@fernhollow.org"]),
        ("ada(dot)lovell(at)fernhollow(dot)org", vec!["ada.lovell@fernhollow.org"]),
        ("ada.lovell AT fernhollow.org", vec![]),
        ("meet me at the dot com boom", vec![]),
        ("she worked at a dot com in London", vec![]),
        ("start-at-noon-dot-com", vec![]),
        ("look at our (dot) pattern", vec![]),
        ("stay at home dot com was the name", vec![]),
    ] {
        assert_eq!(found_in(text, options), expected, "{text}");
        let plain = found_in(text, Options::default());
        assert!(plain.len() <= text.matches('@').count(), "{text}");
    }
}

#[test]
fn every_at_sign_is_accounted_for() {
    let policy = Policy::default();
    for (text, reasons) in [
        ("@ada", vec![SkipReason::Handle]),
        ("4 @ 5", vec![SkipReason::Alone]),
        ("icon@2x.png", vec![SkipReason::FileName]),
        ("a@1.2.3", vec![SkipReason::Version]),
        ("https://a:b@h.org/", vec![SkipReason::UserInfo]),
        ("git@h.org:x/y.git", vec![SkipReason::Remote]),
        ("sip:ada@h.org", vec![SkipReason::OtherUri]),
        ("Message-ID: <1@h.org>", vec![SkipReason::MessageId]),
        ("ada@host", vec![SkipReason::OneLabel]),
        ("name@…", vec![SkipReason::Incomplete]),
        ("ada@h.zzzz", vec![SkipReason::UnknownTld]),
        ("ada..b@h.org", vec![SkipReason::Malformed]),
        ("ada@[192.0.2.1]", vec![SkipReason::Literal]),
        ("a@b@h.org", vec![SkipReason::SeveralAtSigns, SkipReason::SeveralAtSigns]),
    ] {
        let mut told = Vec::new();
        text::look(text.as_bytes(), 0..text.len(), &policy, Options::default(), |seen| match seen {
            Seen::Match(hit) => panic!("{text}: {hit:?}"),
            Seen::Skipped(_, reason) => told.push(reason),
        });
        assert_eq!(told, reasons, "{text}");
    }
    // An @ that belongs to a hidden address is taken and not passed over as well; rows come in the order of the text.
    let hidden = b"ada @ h-works.org, bea@h-works.org, cleo (at) h-works.org";
    let (mut taken, mut passed) = (Vec::new(), 0);
    text::look(
        hidden,
        0..hidden.len(),
        &policy,
        Options { obfuscated: true, ..Options::default() },
        |seen| match seen {
            Seen::Match(hit) => taken.push(hit.as_found.start),
            Seen::Skipped(..) => passed += 1,
        },
    );
    assert_eq!((taken, passed), (vec![0, 19, 36], 0));
    let any = Options { any_tld: true, ..Options::default() };
    let mut taken = 0;
    text::look(b"ada@h.zzzz", 0..10, &policy, any, |seen| taken += u32::from(matches!(seen, Seen::Match(_))));
    assert_eq!(taken, 1);
}

#[test]
fn borders_cut_nothing() {
    let text = "bo@k[dot]org x Ada Lovell <ada@fernhollow.org>; mailto:bea@fernhollow.org?x=1 cleo%40fernhollow.org @dara edda@fernhollow.org, \
        finn (at) fernhollow (dot) org or gwen@fernhollow[dot]org, 邮箱hal@fernhollow.org获取 and R&amp;D@fernhollow.org; iris @ fernhollow.org, jo(at)k.org";
    let policy = Policy::default();
    for obfuscated in [false, true] {
        let options = Options { obfuscated, tell_hidden: true, ..Options::default() };
        // Looked at in two parts, the second from `cut` on.
        let seen_in = |cut: usize| {
            let mut told = Vec::new();
            for body in [0..cut, cut..text.len()] {
                text::look(text.as_bytes(), body, &policy, options, |seen| {
                    told.push(match seen {
                        Seen::Match(hit) => String::from_utf8_lossy(&hit.text).into_owned(),
                        Seen::Skipped(span, reason) => format!("{} {span:?}", reason.word()),
                    });
                });
            }
            told
        };
        let whole = seen_in(0);
        assert_eq!(whole.len(), 12, "{whole:?}");
        for cut in 0..=text.len() {
            assert_eq!(seen_in(cut), whole, "cut at {cut}");
        }
    }
}

proptest! {
    /// An address among words of any script, glued to them or not, is found as it is and nothing else is.
    #[test]
    fn an_address_is_found_between_any_words(
        local in "[a-z][a-z0-9]{1,6}([._-][a-z0-9]{2,5}){0,2}",
        host in "[a-z][a-z0-9]{2,8}",
        tld in prop::sample::select(vec!["org", "com.tr", "co.jp", "museum", "de"]),
        before in prop::sample::select(BEFORE),
        behind in prop::sample::select(BEHIND),
    ) {
        let address = format!("{local}@{host}.{tld}");
        let text = format!("{before}{address}{behind}");
        prop_assert_eq!(found_in(&text, Options::default()), vec![address], "{:?}", text);
    }
}

/// What may stand directly in front of an address and is no part of it.
const BEFORE: &[&str] = &[
    "",
    "\n",
    "邮箱",
    "邮箱：",
    "请写信给 ",
    "メールは",
    "메일은",
    "อีเมล",
    "ອີເມວ",
    "អ៊ីមែល",
    "ל-",
    "ל",
    "للتواصل",
    "मुझे",
    "მისამართი:",
    "почта: ",
    "Γράψτε στο ",
    "「",
    "（",
    "„",
    "« ",
    "👉",
    "<b>",
    "&lt;",
    "\\u003c",
    "=3C",
    "Email:",
    "x=",
    "Ann <",
    "mailto:",
];

/// The same directly behind one.
const BEHIND: &[&str] = &[
    "",
    "\n",
    "获取信息",
    "。谢谢",
    "、",
    "まで",
    "입니다.",
    "ได้เลย",
    "ໄດ້",
    "បាន",
    "।",
    "،",
    "-ზე",
    "ზე",
    "-ra",
    "'a",
    "’dan",
    "·",
    "»",
    "）",
    "👍",
    "</b>",
    "&gt;",
    "\\u003e",
    "=3E",
    ".",
    ". Then",
    ".Then",
    "; x",
    ">",
    "?subject=x",
    "--so",
];
