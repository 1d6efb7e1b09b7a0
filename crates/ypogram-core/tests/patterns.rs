//! Patterns: where a value stops fitting, where they stand in a text, and the ready-made ones.

use proptest::prelude::*;
use ypogram_core::{Pattern, ready_patterns};

fn pattern(written: &str) -> Pattern {
    Pattern::new("p", written, true, false).unwrap()
}

#[test]
fn a_miss_shows_how_far_the_value_fits_and_what_was_expected() {
    let cases: &[(&str, &str, &str)] = &[
        (r"OBS/\d{4}/[a-z]", "OBS/0117-b", "fits up to ‘OBS/0117’, then ‘/’ was expected, not ‘-b’"),
        (r"OBS/[0-9]{4}/[a-z]", "OBS/01", "fits as far as it goes, then a digit was expected"),
        (r"OBS/\d{4}/[a-z]", "obs/0117/b", "does not fit from the start; ‘O’ was expected"),
        (r"OBS/\d{4}/[a-z]", "OBS/0117/bc", "fits up to ‘OBS/0117/b’, then the end was expected, not ‘c’"),
        (r"OBS/\d{4}/[a-z]", "", "is empty; ‘O’ was expected"),
        (r"a|ab|abcd", "abce", "fits up to ‘abc’, then ‘d’ was expected, not ‘e’"),
        (r"Jürgen", "Jürger", "fits up to ‘Jürge’, then ‘n’ was expected, not ‘r’"),
        (r"Jürgen", "Jörgen", "fits up to ‘J’, then another letter or sign was expected, not ‘örgen’"),
        (
            r"[A-Za-z]+ ?[0-9]*",
            "ab.",
            "fits up to ‘ab’, then a digit, a letter, a space or the end was expected, not ‘.’",
        ),
        (r".+x", "ab", "fits as far as it goes, then any character was expected"),
        (r"[!#$%&*+/=?]", "a", "does not fit from the start; one of 10 other signs was expected"),
    ];
    for (written, value, sentence) in cases {
        let pattern = pattern(written);
        assert!(!pattern.fits(value.as_bytes()), "{written} fits {value}");
        assert_eq!(pattern.miss(value.as_bytes()).sentence(value.as_bytes()), *sentence, "{written} {value}");
    }
    let anywhere = Pattern::new("p", "b+", false, false).unwrap();
    assert_eq!(anywhere.miss(b"aca").sentence(b"aca"), "does not fit");
}

#[test]
fn a_pattern_in_a_text_is_a_whole_word() {
    let found = |written: &str, whole: bool, text: &str| {
        let pattern = Pattern::new("p", written, whole, false).unwrap();
        let found = pattern.find_all(text.as_bytes()).map(|found| found.span.of(text.as_bytes()).to_vec());
        found.map(|found| String::from_utf8(found).unwrap()).collect::<Vec<_>>()
    };
    let text = "call (030) 123 4567 or +49 40 7654321, room 12345, é12, 12é, 12_";
    assert_eq!(found(r"\(0\d+\) \d+ \d+", true, text), ["(030) 123 4567"]);
    assert_eq!(found(r"\+49 \d+ \d+", true, text), ["+49 40 7654321"]);
    assert_eq!(found(r"\d{2}", true, text), ["49", "40"]);
    assert_eq!(found(r"\d{2}", false, "12345"), ["12", "34"]);
}

#[test]
fn ready_made_patterns() {
    let all: Vec<_> = ready_patterns::all().collect();
    let countries = all.iter().filter(|ready| ready.name.starts_with("postal-code-")).count();
    assert!(countries >= 12, "{countries}");
    for (nth, ready) in all.iter().enumerate() {
        let pattern = Pattern::new(ready.name, ready.written, true, false).unwrap();
        assert!(pattern.fits(ready.example.as_bytes()), "{} {}", ready.name, ready.example);
        let text = format!("see {}, please", ready.example);
        let found: Vec<Vec<u8>> =
            pattern.find_all(text.as_bytes()).map(|found| found.span.of(text.as_bytes()).to_vec()).collect();
        assert_eq!(found, [ready.example.as_bytes()], "{}", ready.name);
        assert!(!ready.what.is_empty() && !ready.source.is_empty());
        assert!(all[..nth].iter().all(|before| before.name != ready.name), "{} twice", ready.name);
    }
    let cases: &[(&str, &[&str], &[&str])] = &[
        (
            "telephone",
            &["+43 316 8120", "+1 415 555 0132", "+44 (0)131 4960123", "+49-30-1234567", "+390612345678"],
            &["0316 8120", "+0 12 34567", "+49", "+49 30 123x", "+49 30 12345678901234"],
        ),
        (
            "telephone-area-code",
            &["0316 8120", "(0316) 8120", "030/1234567", "0151 12345678"],
            &["316 8120", "+49 30 1234567", "0", "00 12"],
        ),
        (
            "telephone-north-america",
            &["415-555-0132", "+1 (415) 555-0132", "4155550132"],
            &["115-555-0132", "415-055-0132", "415-555-013", "(415-555-0132"],
        ),
        ("ipv4", &["0.0.0.0", "255.255.255.255"], &["256.1.1.1", "1.2.3", "01.2.3.4", "1.2.3.4.5"]),
        (
            "ipv6",
            &["::", "::1", "2001:DB8::", "1:2:3:4:5:6:7:8", "fe80::1:2"],
            &["1:2:3:4:5:6:7", "1::2::3", "12345::", ":1", "1:2:3:4:5:6:7:8:9"],
        ),
        ("date", &["2024-02-29", "1999-12-31"], &["2024-13-01", "2024-1-1", "24-01-01", "2024-01-32"]),
        ("date-day-first", &["1.2.2026", "31/12/2026"], &["32.1.2026", "1.13.2026", "1.2.26"]),
        ("date-month-first", &["12/31/2026"], &["31/12/2026", "1.2.2026"]),
        ("postal-code-at", &["1010"], &["0101", "10100"]),
        ("postal-code-ca", &["K1A0B1", "V6B 4Y8"], &["D1A 0B1", "K1A-0B1", "k1a 0b1"]),
        ("postal-code-de", &["99999"], &["00999", "1069"]),
        ("postal-code-es", &["52080"], &["53000", "00100"]),
        ("postal-code-gb", &["M1 1AE", "SW1A 1AA", "GIR 0AA", "CR26XH"], &["M1 1A", "QA1 1AA", "M1 1CE"]),
        ("postal-code-nl", &["1234AB"], &["0234 AB", "1234  AB"]),
        ("postal-code-us", &["00501"], &["0501", "00501-12"]),
        (
            "web-address",
            &["http://fernhollow.example", "https://a.example:8080/x?y=1#z", "HTTPS://[2001:db8::1]/"],
            &["fernhollow.example", "ftp://a.example", "https://", "https://a b.example"],
        ),
    ];
    for (name, fitting, failing) in cases {
        let pattern = ready_patterns::named(name).unwrap().pattern();
        for (value, fits) in fitting.iter().map(|v| (v, true)).chain(failing.iter().map(|v| (v, false))) {
            assert_eq!(pattern.fits(value.as_bytes()), fits, "{name} {value}");
        }
    }
}

proptest! {
    /// How far a value fits is how far its beginnings can be completed: no beginning that goes further fits, and what does not fit at the
    /// end has something missing.
    #[test]
    fn how_far_a_value_fits(
        parts in prop::collection::vec(prop::sample::select(vec!["a", "b?", "[ab]+", "(a|ab)", "ü", "c{2}"]), 1..5),
        value in "[abcü]{0,6}",
    ) {
        let pattern = pattern(&parts.concat());
        if !pattern.fits(value.as_bytes()) {
            let miss = pattern.miss(value.as_bytes());
            prop_assert!(value.is_char_boundary(miss.fits_up_to));
            let can_go_on = |upto: usize| {
                let more = |more: &str| pattern.fits(format!("{}{more}", &value[..upto]).as_bytes());
                // Every rest that these parts may ask for.
                ["", "a", "b", "ü", "cc", "c"].iter().any(|one| {
                    ["", "a", "b", "ü", "cc"].iter().any(|two| {
                        ["", "a", "ü", "cc"].iter().any(|three| {
                            ["", "a", "ü", "cc"].iter().any(|four| more(&format!("{one}{two}{three}{four}")))
                        })
                    })
                })
            };
            let longest = (0..=value.len()).rev().filter(|&at| value.is_char_boundary(at)).find(|&at| can_go_on(at));
            prop_assert_eq!(longest.unwrap_or(0), miss.fits_up_to);
            prop_assert!(!miss.expected.is_empty() || !value.is_ascii() || pattern.written.contains('ü'));
        }
    }
}
