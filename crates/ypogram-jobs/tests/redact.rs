//! Copies of random lists and messages: nothing is left in them, they come back byte for byte, and any threads and chunks write the same.

use std::fs::File;
use std::path::Path;

use data_encoding::BASE64;
use proptest::prelude::*;
use tempfile::TempDir;
use ypogram_core::Policy;
use ypogram_core::redact::{Mask, MaskDomain, RedactKey};
use ypogram_core::text::REACH;
use ypogram_io::OpenOptions;
use ypogram_io::pieces::{Limits, PieceOptions};
use ypogram_jobs::Progress;
use ypogram_jobs::redact::{
    RedactBy, RedactMap, RedactOptions, RedactReport, Replaced, SearchOptions, prove, restore, run, search,
};

/// What may stand next to one another in a list or message, with how many addresses that is.
const TEXTS: [(&str, u64); 14] = [
    ("ada@fernhollow.org", 1),
    ("ADA@fernhollow.org", 1),
    ("night.owl+news@gmail.com", 1),
    ("<bo@fernhollow.org>", 1),
    ("mailto:cy@fernhollow.org?subject=x", 1),
    ("dara (at) fernhollow (dot) org", 1),
    ("eve%40fernhollow.org", 1),
    ("fay&#64;fernhollow.org", 1),
    ("grüße", 0),
    ("star party on 2024-03-09", 0),
    ("=", 0),
    ("@home", 0),
    ("01632 960413", 0),
    ("", 0),
];

fn texts() -> impl Strategy<Value = Vec<usize>> {
    prop::collection::vec(0..TEXTS.len(), 0..12)
}

fn together(texts: &[usize], between: &str) -> String {
    texts.iter().map(|text| TEXTS[*text].0).collect::<Vec<_>>().join(between)
}

fn addresses_in(texts: &[usize]) -> u64 {
    texts.iter().map(|text| TEXTS[*text].1).sum()
}

fn ways() -> impl Strategy<Value = RedactBy> {
    prop_oneof![
        Just(RedactBy::Token(RedactKey::new([7; 32]))),
        Just(RedactBy::Hash),
        Just(RedactBy::Mask(Mask { keep: (0, 0), run: None, domain: MaskDomain::Hide })),
    ]
}

fn options(by: RedactBy, threads: usize, chunk_bytes: usize) -> RedactOptions {
    let open = OpenOptions { chunk_bytes, ..OpenOptions::default() };
    RedactOptions {
        pieces: PieceOptions { open, overlap: REACH, id: None, limits: Limits::default() },
        hide: Vec::new(),
        by,
        policy: Policy::default(),
        threads,
        hash_key: 1,
    }
}

/// A copy of `source` of which the proof says that nothing is left, what was replaced, and the way back.
fn copied(options: &RedactOptions, source: &Path) -> (Vec<u8>, RedactReport, RedactMap) {
    let copy = source.with_file_name(format!("copy-{}", source.file_name().unwrap().to_str().unwrap()));
    let (mut replaced, mut map, progress) = (Replaced::default(), RedactMap::default(), Progress::default());
    let out = File::create(&copy).unwrap();
    let report = run(options, source, out, (&mut replaced, Some(&mut map)), &progress).unwrap();
    let left = prove(options, copy.clone(), &replaced, &progress).unwrap();
    assert_eq!(left, [], "{}", String::from_utf8_lossy(&std::fs::read(&copy).unwrap()));
    (std::fs::read(&copy).unwrap(), report, map)
}

/// Makes a copy in every way, and gives how many addresses are told of it.
fn holds(by: &RedactBy, name: &str, bytes: &[u8]) -> Result<u64, TestCaseError> {
    let folder = TempDir::new().unwrap();
    let source = folder.path().join(name);
    std::fs::write(&source, bytes).unwrap();
    let (copy, report, map) = copied(&options(by.clone(), 1, 1 << 19), &source);
    let (again, ..) = copied(&options(by.clone(), 2, 4096), &source);
    prop_assert_eq!(&again, &copy, "threads and chunks");
    if !matches!(by, RedactBy::Mask(_)) {
        let mut back = Vec::new();
        let restored = restore(&copy, &map, &mut back).unwrap();
        prop_assert_eq!((restored.missing, restored.unsure), (0, 0));
        prop_assert_eq!(String::from_utf8_lossy(&back), String::from_utf8_lossy(bytes));
    }
    if matches!(by, RedactBy::Token(_)) {
        let found = SearchOptions {
            sources: vec![source.with_file_name(format!("copy-{name}"))],
            pieces: options(by.clone(), 1, 1 << 19).pieces,
            policy: Policy::default(),
            threads: 1,
        };
        let found = search(&found, &Progress::default()).unwrap();
        prop_assert_eq!(found.addresses, 0, "{:?} in {}", found.first, String::from_utf8_lossy(&copy));
    }
    Ok(report.addresses)
}

/// A text as it is sent in a message.
#[derive(Clone, Copy, Debug)]
enum Sent {
    AsItIs,
    Base64,
    /// Quoted-printable (RFC 2045 §6.7) in which so many bytes of each ten are escaped, with a soft line break after so many bytes.
    Quoted(usize, usize),
}

fn ways_of_sending() -> impl Strategy<Value = Sent> {
    prop_oneof![
        Just(Sent::AsItIs),
        Just(Sent::Base64),
        (0..=10_usize, 5..60_usize).prop_map(|(escaped, width)| Sent::Quoted(escaped, width)),
    ]
}

fn as_sent(text: &str, sent: Sent) -> String {
    let (name, body) = match sent {
        Sent::AsItIs => ("8bit", text.to_owned()),
        Sent::Base64 => {
            let digits = BASE64.encode(text.as_bytes());
            (
                "base64",
                digits
                    .as_bytes()
                    .chunks(60)
                    .map(|line| format!("{}\r\n", String::from_utf8_lossy(line)))
                    .collect(),
            )
        }
        Sent::Quoted(escaped, width) => {
            let byte = |(nth, byte): (usize, &u8)| match byte {
                b'\r' | b'\n' => (*byte as char).to_string(),
                b'=' | 0x80.. => format!("={byte:02X}"),
                _ if nth * 7 % 10 < escaped => format!("={byte:02X}"),
                _ => (*byte as char).to_string(),
            };
            let soft = |nth: usize| if nth > 0 && nth.is_multiple_of(width) { "=\r\n" } else { "" };
            let bytes = text.as_bytes().iter().enumerate();
            ("quoted-printable", bytes.map(|(nth, b)| soft(nth).to_owned() + &byte((nth, b))).collect())
        }
    };
    format!("Content-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: {name}\r\n\r\n{body}\r\n")
}

/// Without its addresses a text may look as if it were in another encoding, in which a token is glued to what stands before it.
#[test]
fn a_copy_is_in_the_encoding_of_its_source() {
    let folder = TempDir::new().unwrap();
    let source = folder.path().join("a.txt");
    let bytes = [b"\xFF", "ada@例子。com".as_bytes()].concat();
    std::fs::write(&source, &bytes).unwrap();
    let by = RedactBy::Token(RedactKey::new([7; 32]));
    let (copy, report, map) = copied(&options(by, 1, 1 << 19), &source);
    let mut back = Vec::new();
    restore(&copy, &map, &mut back).unwrap();
    assert_eq!((report.addresses, back), (1, bytes));
}

/// Where a broken word follows an address directly, what stands in their places looks like one address.
#[test]
fn words_directly_behind_addresses_are_hidden() {
    for (text, addresses) in [
        ("see a@b.example-mulle-muleill_a@d.example-mulle-ler@e.example or ada@fernhollow.org", 2),
        ("a@owl\u{feff}stmailanna_mulle@.h-works.co.uokm", 1),
    ] {
        let folder = TempDir::new().unwrap();
        let source = folder.path().join("a.txt");
        std::fs::write(&source, text).unwrap();
        let (copy, report, map) =
            copied(&options(RedactBy::Token(RedactKey::new([7; 32])), 1, 1 << 19), &source);
        let shown = String::from_utf8_lossy(&copy);
        assert!(
            !shown.contains("mulle") && !shown.contains("d.example") && !shown.contains("ada"),
            "{shown}"
        );
        let mut back = Vec::new();
        restore(&copy, &map, &mut back).unwrap();
        assert_eq!((report.addresses, String::from_utf8(back).unwrap().as_str()), (addresses, text));
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    /// A list: as many addresses are replaced as there are.
    #[test]
    fn lists(rows in prop::collection::vec((texts(), texts()), 1..40), by in ways()) {
        let cell = |texts: &[usize]| format!("\"{}\"", together(texts, " \n "));
        let rows_of = |(nth, (a, b)): (usize, &(Vec<usize>, Vec<usize>))| format!("{nth},{},{}\n", cell(a), cell(b));
        let list = format!("n,mail,notes\n{}", rows.iter().enumerate().map(rows_of).collect::<String>());
        let all: u64 = rows.iter().map(|(a, b)| addresses_in(a) + addresses_in(b)).sum();
        prop_assert_eq!(holds(&by, "a.csv", list.as_bytes())?, all);
    }

    /// A message, whose parts and headers are sent in every way.
    #[test]
    fn messages(
        parts in prop::collection::vec((texts(), ways_of_sending()), 0..5),
        header in texts(),
        words in any::<bool>(),
        by in ways(),
    ) {
        let text = together(&header, ", ");
        let value = match words && !text.is_empty() {
            true => text.as_bytes().chunks(30).map(|word| format!("=?utf-8?B?{}?=", BASE64.encode(word))).collect::<Vec<_>>().join("\r\n "),
            false => text,
        };
        let parts: String = parts.iter().map(|(texts, sent)| format!("--b\r\n{}", as_sent(&together(texts, "\r\n"), *sent))).collect();
        let mail = format!("Subject: x\r\nX-Notes: {value}\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n{parts}--b--\r\n");
        holds(&by, "a.eml", mail.as_bytes())?;
    }
}
