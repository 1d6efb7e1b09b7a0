//! Texts put into each format by someone else's rules and taken out again by ours: the same text, and places that lead back
//! into the file.

use std::path::Path;

use proptest::prelude::*;
use tempfile::TempDir;
use ypogram_io::OpenOptions;
use ypogram_io::pieces::{Limits, Opened, Piece, PieceOptions, Places};

/// A stretch of text as it was found: field, text, and for each byte its place in the file (none where only the start of an
/// encoded part is known).
#[derive(Debug, PartialEq)]
struct Found {
    field: String,
    text: String,
    places: Option<Vec<usize>>,
    start: usize,
    record: Option<u64>,
}

fn read(name: &str, content: &[u8], piece_bytes: usize) -> Vec<Found> {
    let folder = TempDir::new().unwrap();
    let path = folder.path().join(name);
    std::fs::write(&path, content).unwrap();
    read_path(&path, piece_bytes)
}

fn read_path(path: &Path, piece_bytes: usize) -> Vec<Found> {
    let options = PieceOptions {
        open: OpenOptions { chunk_bytes: piece_bytes, ..OpenOptions::default() },
        overlap: 0,
        id: None,
        limits: Limits::default(),
    };
    let mut opened = Opened::open(path, &options).unwrap();
    let (mut found, mut records) = (Vec::new(), 0);
    loop {
        let mut piece = Piece::default();
        if !opened.next(&mut piece).unwrap() {
            return found;
        }
        piece.load("a file").unwrap();
        let offset = piece.offset as usize;
        let counted = piece
            .segments("a file", &mut |segment| {
                let places = (!matches!(segment.places, Places::Part(_)))
                    .then(|| (0..=segment.text.len()).map(|at| offset + segment.places.of(at)).collect());
                found.push(Found {
                    field: segment.field.to_owned(),
                    text: String::from_utf8_lossy(segment.text).into_owned(),
                    places,
                    start: offset + segment.places.of(0),
                    record: segment.record.map(|record| record + records),
                });
            })
            .unwrap();
        records += counted.records;
    }
}

/// Each ASCII letter of a text stands in the file where its place says, unless it was written as an escape.
fn assert_places_lead_back(found: &Found, content: &[u8], escape: u8) {
    for (at, byte) in found.text.bytes().enumerate().filter(|(_, byte)| byte.is_ascii_alphanumeric()) {
        let there = content[found.places.as_ref().expect("places")[at]];
        assert!(there == byte || there == escape, "{:?} at {at}: {}", found.text, there as char);
    }
}

fn text() -> impl Strategy<Value = String> {
    prop_oneof!["[ -~]{0,20}", "[a-z\"\\\\\n\t@.é\u{1F989}]{0,20}", Just("ada@fernhollow.org".to_owned()),]
}

/// RFC 2047 §4.1 and RFC 2045 §6.8, written out here: no crate of ours.
fn base64(bytes: &[u8]) -> String {
    const LETTERS: &[u8; 64] = b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    let mut out = String::new();
    for three in bytes.chunks(3) {
        let bits = three.iter().fold(0_u32, |bits, &b| bits << 8 | u32::from(b)) << (8 * (3 - three.len()));
        for place in 0..4 {
            let letter = LETTERS[(bits >> (18 - 6 * place) & 63) as usize] as char;
            out.push(if place <= three.len() { letter } else { '=' });
        }
    }
    out.as_bytes().chunks(76).map(|line| std::str::from_utf8(line).unwrap()).collect::<Vec<_>>().join("\r\n")
}

/// RFC 2045 §6.7.
fn quoted_printable(text: &str) -> String {
    let mut out = String::new();
    let mut width = 0;
    for byte in text.bytes() {
        let plain = byte.is_ascii_alphanumeric() || matches!(byte, b'@' | b'.');
        let unit = if plain { (byte as char).to_string() } else { format!("={byte:02X}") };
        if width + unit.len() > 72 {
            out.push_str("=\r\n");
            width = 0;
        }
        width += unit.len();
        out.push_str(&unit);
    }
    out
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn json_strings(texts in prop::collection::vec(text(), 0..6), piece_bytes in 8_usize..200) {
        let value = serde_json::json!({ "a": texts, "b": { "c": texts.last() } });
        for content in [serde_json::to_vec(&value).unwrap(), serde_json::to_vec_pretty(&value).unwrap()] {
            let found = read("x.json", &content, piece_bytes);
            let expected: Vec<&String> = texts.iter().chain(texts.last()).filter(|text| !text.is_empty()).collect();
            let got: Vec<&String> = found.iter().map(|found| &found.text).filter(|text| !text.is_empty()).collect();
            prop_assert_eq!(got, expected);
            found.iter().for_each(|found| assert_places_lead_back(found, &content, b'\\'));
        }
        let lines: Vec<u8> = texts
            .iter()
            .flat_map(|text| [&serde_json::to_vec(&serde_json::json!({ "t": text })).unwrap()[..], b"\n"].concat())
            .collect();
        if !texts.is_empty() {
            let found = read("x.jsonl", &lines, piece_bytes);
            for found in &found {
                prop_assert_eq!(&found.text, &texts[found.record.unwrap() as usize]);
                prop_assert_eq!(&found.field, "t");
                assert_places_lead_back(found, &lines, b'\\');
            }
        }
    }

    #[test]
    fn cells_of_tables(texts in prop::collection::vec("[a-z@., \"]{0,12}", 1..20), piece_bytes in 8_usize..200) {
        let mut writer = csv::Writer::from_writer(Vec::new());
        writer.write_record(["name", "notes"]).unwrap();
        for text in &texts {
            writer.write_record([text.as_str(), "x@y"]).unwrap();
        }
        let content = writer.into_inner().unwrap();
        let found = read("x.csv", &content, piece_bytes);
        let notes = found.iter().filter(|found| found.field == "notes").count();
        prop_assert_eq!(notes, texts.len());
        for found in found.iter().filter(|found| found.field == "name") {
            // Cells are given as they stand, quotes doubled and all.
            let text = &texts[found.record.unwrap() as usize];
            prop_assert_eq!(&found.text.replace("\"\"", "\""), text);
            assert_places_lead_back(found, &content, b'"');
        }
    }

    #[test]
    fn parts_of_mail(text in "[a-zA-Z@.é =?_]{1,120}", subject in "[a-z@. ]{1,30}") {
        let text = text.trim().to_owned();
        prop_assume!(!text.is_empty() && !subject.trim().is_empty());
        for (encoding, body) in [("base64", base64(text.as_bytes())), ("quoted-printable", quoted_printable(&text))] {
            let mail = format!(
                "From: ada@fernhollow.org\r\nSubject: {subject}\r\nMIME-Version: 1.0\r\n\
                 Content-Type: multipart/mixed; boundary=cut\r\n\r\n--cut\r\nContent-Type: text/plain; charset=utf-8\r\n\
                 Content-Transfer-Encoding: {encoding}\r\n\r\n{body}\r\n--cut\r\nContent-Type: image/png\r\n\
                 Content-Transfer-Encoding: base64\r\n\r\n{}\r\n--cut--\r\n",
                base64(b"owl@picture.org")
            );
            let found = read("x.eml", mail.as_bytes(), 64);
            let is_body = |found: &&Found| found.field == "part 1" && found.text.trim_end() == text;
            let bodies: Vec<_> = found.iter().filter(is_body).collect();
            prop_assert_eq!(bodies.len(), 1, "{}: {:?}", encoding, found);
            prop_assert_eq!(bodies[0].start, mail.find(&format!("\r\n\r\n{body}")).unwrap() + 4, "the start of the encoded part");
            prop_assert!(found.iter().any(|found| found.text.contains("ada@fernhollow.org")), "headers are read");
            prop_assert!(found.iter().any(|found| found.text.contains(subject.trim())));
            prop_assert!(!found.iter().any(|found| found.text.contains("picture")), "pictures are no text");
        }
    }

    #[test]
    fn utf_16(text in text(), big: bool) {
        prop_assume!(!text.is_empty());
        let mut content = if big { vec![0xFE, 0xFF] } else { vec![0xFF, 0xFE] };
        content.extend(text.encode_utf16().flat_map(|unit| if big { unit.to_be_bytes() } else { unit.to_le_bytes() }));
        let found = read("x.txt", &content, 1 << 16);
        let whole: String = found.iter().map(|found| found.text.trim_start_matches('\u{FEFF}')).collect();
        prop_assert_eq!(&whole, &text);
        for found in &found {
            for (at, byte) in found.text.bytes().enumerate().filter(|(_, byte)| byte.is_ascii_alphanumeric()) {
                let place = found.places.as_ref().unwrap()[at];
                prop_assert_eq!(content[place + usize::from(big)], byte);
            }
        }
    }
}

#[test]
fn json_at_any_depth_with_keys_and_half_pairs() {
    let deep = format!("{}\"ada@h.org\"{}", "[".repeat(5000), "]".repeat(5000));
    assert_eq!(read("x.json", deep.as_bytes(), 64)[0].start, 5001);
    let nested = format!("{}\"ada@h.org\"{}", "{\"a\":".repeat(5000), "}".repeat(5000));
    assert_eq!(
        read("x.json", nested.as_bytes(), 64)[0].field.len(),
        2 * 128 - 1,
        "the path ends, the text does not"
    );

    let content = r#"{"by": {"bea@h.org": ["cy@h.org", {"k": "d"}, "e"]}, "half": "\ud83dfay@h.org \ud83d\ude00 \uDC00"}"#;
    let found = read("x.json", content.as_bytes(), 64);
    let told: Vec<_> = found.iter().map(|found| (found.field.as_str(), found.text.as_str())).collect();
    let expected = [
        ("by", "bea@h.org"),
        ("by.bea@h.org", "cy@h.org"),
        ("by.bea@h.org.k", "d"),
        ("by.bea@h.org", "e"),
        ("half", "\u{FFFD}fay@h.org \u{1F600} \u{FFFD}"),
    ];
    assert_eq!(told, expected);
    assert_places_lead_back(found.last().unwrap(), content.as_bytes(), b'\\');
}

#[test]
fn a_header_of_many_encoded_words() {
    let words = ["=?utf-8?q?ada=40h.org,?=", "plain@h.org,"].map(|word| [word, word].join(" "));
    let content = format!("From: {}\n\nbody\n", vec![words.join(" "); 400].join(" "));
    let found = read("x.eml", content.as_bytes(), 64);
    assert_eq!(found[0].text.matches("ada@h.org,").count(), 800);
    assert_eq!(found[0].text.split(' ').filter(|word| *word == "plain@h.org,").count(), 800);
}

#[test]
fn a_mailbox_of_messages() {
    let message = |name: &str| {
        format!("From {name} Mon Nov 23 10:00:00 2026\nFrom: {name}@h.org\n\nHello {name}\n>From here on\n\n")
    };
    let content: String = ["ada", "bea", "cleo"].map(message).concat();
    for piece_bytes in [16, 100, 1 << 20] {
        let found = read("x.mbox", content.as_bytes(), piece_bytes);
        let bodies: Vec<_> = found.iter().filter(|found| found.text.contains("Hello")).collect();
        assert_eq!(bodies.len(), 3, "{piece_bytes}");
        for (number, (found, name)) in (0..).zip(bodies.iter().zip(["ada", "bea", "cleo"])) {
            assert_eq!((found.record, found.text.contains(name)), (Some(number), true), "{piece_bytes}");
            assert_eq!(&content[found.start..found.start + 5], "Hello");
        }
    }
}
