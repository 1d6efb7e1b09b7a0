//! Files that are damaged, or of no format at all: the program says what is wrong, or takes what there is.

use ypogram_trials::campaign::records::BITS;
use ypogram_trials::{Draw, cases, run, said};

/// What files of some formats have in them.
const WORDS: [&[u8]; 9] = [
    b"BEGIN:VCARD\r\n",
    b"END:VCARD\n",
    b"EMAIL;ENCODING=QUOTED-PRINTABLE:a=\n",
    b"\ndn: cn=a\nmail:: ",
    b"[{\"a\":1},",
    b"PK\x03\x04",
    b"SQLite format 3\0",
    b"\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1",
    b"From a\nFrom: ",
];

/// Workbooks and databases with some bytes changed, or cut off: what can be read is read, or the program says what is wrong.
#[test]
fn damaged_files_are_told() {
    let folder = tempfile::tempdir().unwrap();
    let rows: String = (0..300).map(|nr| format!("{nr},Ada {nr},ada{nr}@h-works.org,2026-11-30\n")).collect();
    std::fs::write(folder.path().join("good.csv"), format!("nr,name,email,date\n{rows}")).unwrap();
    for name in ["good.xlsx", "good.sqlite"] {
        let output = run(folder.path(), &format!("check good.csv -q -o {name}"));
        assert!(output.status.success(), "{}", said(&output));
        let whole = std::fs::read(folder.path().join(name)).unwrap();
        let damaged = name.replace("good", "damaged");
        for seed in 0..cases(60) {
            let mut draw = Draw::new(seed);
            let mut bytes = whole.clone();
            for _ in 0..1 + draw.below(20) {
                let at = draw.below(bytes.len());
                bytes[at] = draw.below(256) as u8;
            }
            if draw.below(4) == 0 {
                bytes.truncate(draw.below(whole.len()));
            }
            std::fs::write(folder.path().join(&damaged), bytes).unwrap();
            for call in ["check --prefix new_", "extract"] {
                let output = run(folder.path(), &format!("{call} {damaged} -o rows.csv --force"));
                let told = said(&output);
                assert!(matches!(output.status.code(), Some(0..=2)), "{seed} {call} {name}: {told}");
                assert!(!told.contains("fault of its own"), "{seed} {call} {name}: {told}");
            }
        }
    }
}

/// Bytes of no format at all: the program tells what is wrong, or takes what there is, and never fails of itself.
#[test]
fn nothing_is_too_odd() {
    for seed in 0..cases(60) {
        let mut draw = Draw::new(seed + 1_000_000);
        let folder = tempfile::tempdir().unwrap();
        let mut bytes = Vec::new();
        for _ in 0..draw.below(300) {
            match draw.below(8) {
                0 => bytes.push(draw.below(256) as u8),
                1 => bytes.extend_from_slice(b"boundary=x\n--x\nContent-Type: multipart/mixed;"),
                2 => bytes.extend_from_slice(b"{\"a\":[\""),
                3 => bytes.extend_from_slice(b"\"]}\n"),
                4 => bytes.extend_from_slice(draw.of::<&[u8]>(&WORDS)),
                _ => bytes.extend_from_slice(draw.of(&BITS).as_bytes()),
            }
        }
        let name = format!(
            "x.{}",
            draw.of(&[
                "csv", "txt", "tsv", "json", "jsonl", "eml", "mbox", "html", "gz", "csv.zst", "vcf", "ldif",
                "xlsx", "xls", "ods", "sqlite", "odd",
            ])
        );
        std::fs::write(folder.path().join(&name), bytes).unwrap();
        for call in [
            "survey",
            "check --grammar header",
            "clean",
            "dedupe",
            "extract --obfuscated",
            "extract --unique",
        ] {
            let output = run(
                folder.path(),
                &format!("{call} {name} -o o --force --chunk-bytes {}", 1 + draw.below(99)),
            );
            let told = said(&output);
            assert!(matches!(output.status.code(), Some(0..=3)), "{seed} {call} {name}: {told}");
            assert!(
                !told.contains("panicked") && !told.contains("fault of its own"),
                "{seed} {call} {name}: {told}"
            );
            let left = ypogram_trials::files(folder.path());
            assert!(
                !left.keys().any(|path| path.to_string_lossy().contains("partial")),
                "{seed} {call}: {left:?}"
            );
        }
    }
}
