//! The file of decisions: what is no decision, what is appended, which one counts, and which no longer changes anything.

use std::path::Path;
use std::sync::Arc;

use ypogram_core::Policy;
use ypogram_jobs::Progress;
use ypogram_jobs::decisions::{AnswerKind, Memory, Remembered};
use ypogram_jobs::each::{self, EachOptions, Line};

const HEADER: &str = "as_found,person,findings,decision,address,decided,reason\n";

fn memory(folder: &Path, text: &str) -> ypogram_io::Result<Memory> {
    let path = folder.join("decisions.csv");
    std::fs::write(&path, text).unwrap();
    Memory::load(&path)
}

fn remembered(as_found: &str, kind: AnswerKind, address: &str) -> Remembered {
    Remembered {
        as_found: as_found.into(),
        person: "Ada".into(),
        findings: "typing-slip".into(),
        kind,
        address: address.into(),
        decided: "2026-11-30".into(),
        reason: String::new(),
    }
}

#[test]
fn what_is_no_decision_is_named_with_its_line() {
    let folder = tempfile::tempdir().unwrap();
    let good = "ada@gmial.com,Ada,typing-slip,keep,,,\n";
    for (text, message) in [
        (format!("{HEADER}{good},Bea,typing-slip,keep,,,\n"), "line 3: it names no address"),
        (format!("{HEADER}{good}bea@gmial.com,,typing-slip,,,,\n"), "line 3: there is no decision"),
        (format!("{HEADER}bea@gmial.com,,typing-slip,maybe,,,\n"), "line 2: ‘maybe’ is no decision"),
        (
            format!("{HEADER}\"b\nea@gmial.com\",,,keep,,,\n{good}x@y.org,,,take,,,\n"),
            "line 5: ‘take’ needs the address in the column ‘address’",
        ),
        ("as_found,decision\nada@gmial.com,keep\n".to_owned(), "there is no column ‘person’"),
    ] {
        let error = memory(folder.path(), &text).unwrap_err();
        assert!(error.to_string().contains(message), "{text}: {error}");
    }
    for nothing in ["", HEADER] {
        assert!(memory(folder.path(), nothing).unwrap().is_empty());
    }
    assert!(Memory::load(&folder.path().join("none.csv")).unwrap().is_empty());
}

#[test]
fn what_is_appended_goes_into_the_columns_that_the_file_has() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("decisions.csv");
    let kept = remembered("ada@gmial.com", AnswerKind::Kept, "");
    let typed = remembered("bea@gmial.com", AnswerKind::Typed, "bea;b@gmail.com");
    let taken = remembered("ada@gmial.com", AnswerKind::Taken, "ada@gmail.com");
    // The columns stand otherwise, one is somebody's own, and the last line has no end.
    let theirs = "decision;as_found;ours;person;findings;address;decided;reason\nkeep;ada@gmial.com;x;Ada;typing-slip;;;";
    std::fs::write(&path, theirs).unwrap();
    for (decided, added) in [
        (vec![kept.clone()], ""),
        (
            vec![kept.clone(), typed.clone()],
            "\n\"bea;b@gmail.com\";bea@gmial.com;;Ada;typing-slip;;2026-11-30;\n",
        ),
        (vec![taken.clone()], "take;ada@gmial.com;;Ada;typing-slip;ada@gmail.com;2026-11-30;\n"),
        // Decided again, since a later decision came between.
        (vec![kept.clone()], "keep;ada@gmial.com;;Ada;typing-slip;;2026-11-30;\n"),
        (vec![kept, typed], ""),
    ] {
        let before = std::fs::read_to_string(&path).unwrap();
        let count = Memory::append(&path, &decided).unwrap();
        assert_eq!(std::fs::read_to_string(&path).unwrap(), format!("{before}{added}"));
        assert_eq!(count, u64::from(!added.is_empty()));
    }
    let all = Memory::load(&path).unwrap();
    let kinds: Vec<(u64, AnswerKind)> = all.entries().map(|(line, entry)| (line, entry.kind)).collect();
    let [kept, typed, taken] = [AnswerKind::Kept, AnswerKind::Typed, AnswerKind::Taken];
    assert_eq!(kinds, [(2, kept), (3, typed), (4, taken), (5, kept)]);
    let new = folder.path().join("new.csv");
    Memory::append(&new, &[remembered("ada@gmial.com", AnswerKind::Dropped, "")]).unwrap();
    let row = "ada@gmial.com,Ada,typing-slip,drop,,2026-11-30,\n";
    assert_eq!(std::fs::read_to_string(&new).unwrap(), format!("{HEADER}{row}"));
}

#[test]
fn files_that_cannot_be_appended_to_stay_as_they_are() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("decisions.csv");
    let text = format!("\u{feff}{HEADER}ada@gmial.com,Ada,typing-slip,keep,,,\n");
    let utf16: Vec<u8> = text.encode_utf16().flat_map(u16::to_le_bytes).collect();
    std::fs::write(&path, &utf16).unwrap();
    assert_eq!(Memory::load(&path).unwrap().len(), 1);
    let error = Memory::append(&path, &[remembered("bea@gmial.com", AnswerKind::Kept, "")]).unwrap_err();
    assert!(error.to_string().contains("decisions cannot be appended to this file"), "{error}");
    assert_eq!(std::fs::read(&path).unwrap(), utf16);
}

#[test]
fn decisions_that_change_nothing_any_more_are_told_with_why() {
    let folder = tempfile::tempdir().unwrap();
    let text = format!(
        "{HEADER}ada@gmial.com,Ada,typing-slip,drop,,,\n\
         ada@gmial.com,Ada,typing-slip,keep,,,\n\
         bea@gmail.com,Bea,typing-slip,keep,,,\n\
         cleo@no-ending,Cleo,typing-slip,keep,,,\n\
         dara@gmial.com,Dara,word-beside,keep,,,\n"
    );
    let idle = memory(folder.path(), &text).unwrap().idle(&Policy::default());
    let told: Vec<(u64, &str)> = idle.iter().map(|idle| (idle.line, &*idle.why)).collect();
    assert_eq!(
        told,
        [
            (2, "the decision in line 3 counts"),
            (4, "nothing is asked about the address any more"),
            (5, "the address is rejected"),
            (6, "something else is asked as well: typing-slip"),
        ]
    );
}

#[test]
fn the_last_decision_that_answers_all_that_is_asked_counts() {
    let folder = tempfile::tempdir().unwrap();
    let slip = "ada@gmial.com";
    for (rows, value, verdict, decided, address) in [
        ("", slip, "review", None, slip),
        ("ada@gmial.com,,typing-slip,keep,,,", slip, "accept", Some("kept"), slip),
        ("ada@gmial.com,,typing-slip,keep,,,", "<Ada@GMIAL.com>", "accept", Some("kept"), slip),
        ("ada@gmial.com,,typing-slip,drop,,,", slip, "reject", Some("dropped"), slip),
        ("ada@gmial.com,,typing-slip,take,ada@gmail.com,,", slip, "accept", Some("taken"), "ada@gmail.com"),
        ("ada@gmial.com,,typing-slip,ada@h-works.org,,,", slip, "accept", Some("typed"), "ada@h-works.org"),
        // It answers something else, or is about another address.
        ("ada@gmial.com,,word-beside,keep,,,", slip, "review", None, slip),
        ("bea@gmial.com,,typing-slip,keep,,,", slip, "review", None, slip),
        // A later one counts, unless it does not answer what is asked.
        (
            "ada@gmial.com,,typing-slip,drop,,,\nada@gmial.com,,typing-slip,keep,,,",
            slip,
            "accept",
            Some("kept"),
            slip,
        ),
        (
            "ada@gmial.com,,typing-slip,drop,,,\nada@gmial.com,,word-beside,keep,,,",
            slip,
            "reject",
            Some("dropped"),
            slip,
        ),
        // What is rejected is not asked about.
        ("ada@no-ending,,unknown-ending,keep,,,", "ada@no-ending", "reject", None, "ada@no-ending"),
    ] {
        let policy = Policy::default();
        let options = EachOptions {
            line: Line::Value,
            policy: &policy,
            patterns: vec![],
            house: Default::default(),
            from_lists: vec![],
            remembered: Some(Arc::new(memory(folder.path(), &format!("{HEADER}{rows}\n")).unwrap())),
        };
        let mut output = Vec::new();
        each::run(value.as_bytes(), &mut output, &options, &Progress::default()).unwrap();
        let answer: serde_json::Value = serde_json::from_slice(&output).unwrap();
        let told = (answer["verdict"].as_str(), answer["decided"].as_str(), answer["address"].as_str());
        assert_eq!(told, (Some(verdict), decided, Some(address)), "{rows}: {value}");
    }
}
