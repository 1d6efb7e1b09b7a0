//! `ypogram settle`: decisions come back from whatever program, take effect, and are remembered.

use std::process::Command;

use crate::{Place, Run, table};

/// A slip, one that is rejected and can be mended, a throw-away service, and a mailbox of two persons.
const LIST: &[u8] = b"nr;name;email;joined\n\
    1;Ada Lovell;ada@h-works.org;01.02.2026\n\
    2;Bea Marsh;bea@gmial.com;007\n\
    3;Cy Quill;cy..quill@h-works.org;1e5\n\
    4;Dara Sand;dara@yopmail.com;\n\
    5;Edda Lovell;ada@h-works.org;\n\
    6;Finn Reed;not-an-address;\n";

fn cleaned(rules: &str) -> Place {
    let place =
        Place::with(&[("list.csv", LIST), ("ypogram.toml", format!("version = 2\n{rules}").as_bytes())]);
    let run = place.run("clean list.csv --person name -o out -q");
    assert_eq!(run.code, 0, "{}", run.stderr);
    place
}

/// The numbers of the records in each output.
fn ends(place: &Place) -> Vec<(&'static str, Vec<String>)> {
    let files = ["kept", "review", "rejected", "duplicates"];
    let numbers = |file: &str| -> Vec<String> {
        let rows = std::fs::read_to_string(place.path(&format!("out/{file}.csv"))).unwrap_or_default();
        csv::ReaderBuilder::new()
            .delimiter(b';')
            .from_reader(rows.as_bytes())
            .records()
            .map(|row| row.unwrap()[0].to_owned())
            .collect()
    };
    files.map(|file| (file, numbers(file))).into()
}

fn all(
    kept: &[&str],
    review: &[&str],
    rejected: &[&str],
    duplicates: &[&str],
) -> Vec<(&'static str, Vec<String>)> {
    let owned = |numbers: &[&str]| numbers.iter().map(|number| (*number).to_owned()).collect();
    vec![
        ("kept", owned(kept)),
        ("review", owned(review)),
        ("rejected", owned(rejected)),
        ("duplicates", owned(duplicates)),
    ]
}

fn settled(place: &Place, returned: &str) -> Run {
    let run = place.run(&format!("settle out {returned}"));
    assert_eq!(run.code, 0, "{}", run.stderr);
    run
}

/// `bounces` finds where a mailbox has moved to, and every record of it follows, kept or not.
#[test]
fn a_mailbox_that_has_moved_takes_its_records_along() {
    let place = cleaned("");
    let moved = |rows: &str| {
        std::fs::write(place.path("moved.csv"), format!("recipient,what,new_address\n{rows}")).unwrap();
        place.run("settle out moved.csv")
    };
    for (rows, expected) in [
        ("ADA@h-works.org,moved,ada@x@y\n", "line 2: the new address ‘ada@x@y’ is rejected"),
        ("ada,moved,a@h-works.org\n", "line 2: ‘ada’ is no address"),
        (
            "ada@h-works.org,moved,a@h-works.org\nada@H-works.org,moved,b@h-works.org\n",
            "line 3: ‘ada@H-works.org’ has moved",
        ),
    ] {
        let before = place.tree("out");
        let run = moved(rows);
        assert!(run.code == 2 && run.stderr.contains(expected), "{}", run.stderr);
        assert!(place.tree("out") == before, "nothing is written");
    }
    // Whoever is gone or full does not move, whoever does not say where to is counted, and who is in no record is named.
    let run = moved(
        "Ada@H-works.org,moved,ada@mill-post.org\nx@h-works.org,moved,y@h-works.org\nbea@gmial.com,moved,\ndara@yopmail.com,full,d@h-works.org\n",
    );
    assert_eq!(run.code, 0, "{}", run.stderr);
    for note in [
        "2 records have taken the new address of a mailbox that has moved",
        "1 mailbox that has moved is in no record, such as x@h-works.org",
        "1 mailbox has moved without saying where to",
    ] {
        assert!(run.stdout.contains(note), "{}", run.stdout);
    }
    assert_eq!(ends(&place), all(&["1"], &["2", "4", "5"], &["3", "6"], &[]));
    assert!(place.read("out/kept.csv").contains(";ada@mill-post.org;"), "{}", place.read("out/kept.csv"));
    let receipt: serde_json::Value = serde_json::from_str(&place.read("out/receipt.json")).unwrap();
    assert_eq!(receipt["decisions"]["moved"], 2);
    // It has moved, and moves on.
    let run = moved("ada@h-works.org,moved,b@h-works.org\n");
    assert!(run.code == 0 && run.stderr.contains("nothing is left to do"), "{}", run.stderr);
    assert_eq!(moved("ada@mill-post.org,moved,ada.l@h-works.org\n").code, 0);
    assert!(place.read("out/kept.csv").contains(";ada.l@h-works.org;"), "{}", place.read("out/kept.csv"));
}

#[test]
fn decisions_come_back_from_any_program() {
    let decisions = [("5", "Keep "), ("2", "take"), ("4", "drop"), ("3", "CY@h-works.org")];
    let rows = |delimiter: char| -> String {
        let row = |(record, decision): &(&str, &str)| format!("x{delimiter}{decision}{delimiter}{record}\n");
        format!("joined{delimiter}yp_decision{delimiter}yp_record\n")
            + &decisions.iter().map(row).collect::<String>()
    };
    let utf16: Vec<u8> = rows('\t').encode_utf16().flat_map(u16::to_le_bytes).collect();
    let expected = all(&["1", "2", "3", "5"], &[], &["4", "6"], &[]);
    for (name, bytes) in [
        ("r.csv", rows(';').into_bytes()),
        ("r.tsv", [b"\xFF\xFE".to_vec(), utf16].concat()),
        ("r.txt", rows(',').replace('\n', "\r\n").into_bytes()),
    ] {
        let place = cleaned("");
        std::fs::write(place.path(name), bytes).unwrap();
        let run = settled(&place, name);
        assert_eq!(ends(&place), expected, "{name}: {}", run.stdout);
        assert!(run.stdout.contains("4 other cells were changed"), "{name}: {}", run.stdout);
        let kept = place.read("out/kept.csv");
        // Own cells are those of the source, whatever came back, and the address is the decided one.
        for row in [
            "2;Bea Marsh;bea@gmial.com;007;bea@gmail.com;accept;",
            "3;Cy Quill;cy..quill@h-works.org;1e5;cy@h-works.org;accept;",
        ] {
            assert!(kept.contains(row), "{name}: {kept}");
        }
        let receipt: serde_json::Value = serde_json::from_str(&place.read("out/receipt.json")).unwrap();
        let counted = r#"{"dropped":1,"kept":1,"taken":1,"typed":1}"#;
        assert_eq!(receipt["decisions"].to_string(), counted, "{name}");
        // The same once more changes nothing, and is no error.
        let before = place.tree("out");
        settled(&place, name);
        assert_eq!(place.tree("out"), before);
    }
    // In the folder's own file, and as a sheet.
    let place = cleaned("");
    let review = place.read("out/review.csv").replacen(";5;;", ";5;drop;", 1);
    std::fs::write(place.path("out/review.csv"), review).unwrap();
    settled(&place, "");
    assert_eq!(ends(&place), all(&["1"], &["2", "4"], &["3", "6"], &["5"]));
    #[cfg(feature = "spreadsheet")]
    {
        std::fs::write(place.path("r.csv"), rows(',').replace("x,Keep ,5\n", "")).unwrap();
        assert_eq!(place.run("check r.csv --field joined -q --prefix x_ -o r.xlsx").code, 0);
        settled(&place, "r.xlsx");
        assert_eq!(ends(&place), all(&["1", "2", "3"], &[], &["4", "6"], &["5"]));
    }
}

/// Spreadsheet programs make numbers, dates and empty cells of what they open.
#[test]
fn a_spreadsheet_program_changes_nothing_but_decisions() {
    let decide = "import csv\nrows = list(csv.reader(open('out/review.csv'), delimiter=';'))\n\
        at = rows[0].index('yp_decision')\n\
        for row, decision in zip(rows[1:], ['take', 'drop', 'keep']): row[at] = decision\n";
    let as_csv = format!("{decide}csv.writer(open('r.csv', 'w')).writerows(rows)");
    let as_book = format!(
        "{decide}import openpyxl\nbook = openpyxl.Workbook()\nsheet = book.active\n\
         number = lambda cell: float(cell) if cell.replace('e', '').replace('.', '').isdigit() and cell.count('.') < 2 else cell or None\n\
         for row in rows: sheet.append([number(cell) for cell in row])\nbook.save('r.xlsx')"
    );
    let expected = all(&["1", "2", "5"], &[], &["3", "4", "6"], &[]);
    let by = |place: &Place, program: &str, arguments: &[&str]| {
        let output = Command::new(program).args(arguments).current_dir(place.path("")).output();
        output.is_ok_and(|output| output.status.success())
    };
    let python = |place: &Place, script: &str| {
        ["python3", "/usr/bin/python3"].iter().any(|python| by(place, python, &["-c", script]))
    };
    for (script, saved) in [(&as_csv, "r.csv"), (&as_book, "r.xlsx"), (&as_csv, "r.ods")] {
        let place = cleaned("");
        let office = ["--headless", "--convert-to", "ods", "r.csv"];
        if !python(&place, script) || saved == "r.ods" && !by(&place, "soffice", &office) {
            eprintln!("skipped: nothing here saves {saved}");
            continue;
        }
        if cfg!(not(feature = "spreadsheet")) && saved != "r.csv" {
            continue;
        }
        settled(&place, saved);
        assert_eq!(ends(&place), expected, "{saved}");
    }
}

#[test]
fn what_cannot_be_is_told_with_its_line() {
    let place = cleaned("");
    let before = place.tree("out");
    for (row, told) in [
        ("2,yes", "r.csv, line 2: ‘yes’ is no decision"),
        ("9,keep", "r.csv, line 2: ‘9’ is none of the records to decide about"),
        ("1,drop", "‘1’ is none of the records"),
        ("4,take", "‘take’: nothing is suggested for this record"),
        ("3,keep", "‘keep’: the record is rejected (double-dot)"),
        ("2,a@b@c", "‘a@b@c’ is rejected: There is more than one @."),
        ("2,take\n2,take", "line 3: there is a decision about record 2 already"),
        ("2,", "out: nothing is decided"),
    ] {
        std::fs::write(place.path("r.csv"), format!("yp_record,yp_decision\n{row}\n")).unwrap();
        let run = place.run("settle out r.csv");
        assert_eq!(run.code, 2, "{row}");
        assert!(run.stderr.contains(told), "{row}: {}", run.stderr);
        assert_eq!(place.tree("out"), before, "{row}");
    }
    for (call, code, told) in [
        ("settle out list.csv", 2, "there are no columns ‘yp_record’ and ‘yp_decision’"),
        ("settle none", 2, "none: there is no receipt.json in it"),
        ("clean list.csv -o bare --no-copy -q", 0, ""),
        ("settle bare", 2, "bare: what clean keeps for decisions is not in it"),
    ] {
        let run = place.run(call);
        assert_eq!((run.code, run.stderr.contains(told)), (code, true), "{call}: {}", run.stderr);
    }
    // Nobody's decisions are overwritten.
    std::fs::write(place.path("out/review.csv"), "yp_record;yp_decision\n2;take\n").unwrap();
    std::fs::write(place.path("r.csv"), "yp_record,yp_decision\n4,drop\n").unwrap();
    for call in ["clean list.csv --person name -o out --force", "settle out r.csv", "settle --take sure out"]
    {
        let run = place.run(call);
        assert_eq!(run.code, 3, "{call}");
        assert!(run.stderr.contains("review.csv was changed since it was written"), "{call}: {}", run.stderr);
        let run = place.run(&format!("{call} --discard-decisions -q").replace("out -q", "-q out"));
        assert_eq!(run.code, 0, "{call}: {}", run.stderr);
        std::fs::write(place.path("out/review.csv"), "yp_record;yp_decision\n2;take\n").unwrap();
    }
}

#[test]
fn questions_are_asked_and_taken_up_again() {
    let place = cleaned("");
    let asked = |answers: &str| place.run_with("settle --ask out", answers);
    let run = asked("\n\n\n\n");
    assert_eq!((run.code, run.stderr.contains("nothing was answered")), (0, true), "{}", run.stderr);
    let run = asked("take\nperhaps\nquit\n");
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert!(run.stderr.contains("4 questions about 4 records"), "{}", run.stderr);
    assert!(run.stderr.contains("keep, take, drop, an address? "), "{}", run.stderr);
    assert!(run.stderr.contains("suggested: bea@gmail.com (sure: a known slip)"), "{}", run.stderr);
    assert!(run.stderr.contains("‘perhaps’ is no decision"), "{}", run.stderr);
    assert!(run.stderr.contains("1 answer is kept, and nothing is settled yet"), "{}", run.stderr);
    assert_eq!(ends(&place), all(&["1"], &["2", "4", "5"], &["3", "6"], &[]));
    assert_eq!(place.run("clean list.csv --person name -o out --force").code, 3);
    // Rejected, throw-away, shared: left for later, dropped, kept.
    let run = asked("\ndrop\nkeep\n");
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert!(run.stderr.contains("3 questions about 3 records"), "{}", run.stderr);
    assert!(run.stderr.contains("stands against 1: 1 · Ada Lovell · ada@h-works.org"), "{}", run.stderr);
    assert_eq!(ends(&place), all(&["1", "2", "5"], &[], &["3", "4", "6"], &[]));
    let run = place.run("settle --take likely out --figure decisions.taken");
    assert_eq!(run.stdout, "2\n");
    assert_eq!(ends(&place), all(&["1", "2", "3", "5"], &[], &["4", "6"], &[]));
    assert!(place.run("settle --take likely out").stderr.contains("no suggestion is likely"));
}

#[test]
fn decisions_are_remembered() {
    let rules = "[decisions]\nfile = 'decided.csv'\n[lists.left]\nentries = ['dara@yopmail.com']\nfinding = 'left-us'\nseverity = 'note'\n";
    let place = cleaned(rules);
    std::fs::write(place.path("r.csv"), "yp_record,yp_decision\n2,take\n4,keep\n5,keep\n3,take\n").unwrap();
    let run = settled(&place, "r.csv");
    assert!(run.stdout.contains("3 decisions are remembered in"), "{}", run.stdout);
    let remembered = table(&place.read("decided.csv"));
    let cells = |row: &std::collections::BTreeMap<String, String>| {
        ["as_found", "person", "findings", "decision", "address"].map(|column| row[column].clone())
    };
    // What was rejected is not remembered: nothing would be answered from that.
    assert_eq!(
        remembered.iter().map(cells).collect::<Vec<_>>(),
        [
            ["bea@gmial.com", "Bea Marsh", "typing-slip", "take", "bea@gmail.com"],
            ["dara@yopmail.com", "Dara Sand", "disposable", "keep", ""],
            ["ada@h-works.org", "Edda Lovell", "shared-mailbox", "keep", ""],
        ]
    );
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt as _;
        let mode = |name: &str| std::fs::metadata(place.path(name)).unwrap().permissions().mode() & 0o777;
        assert_eq!(
            (mode("decided.csv"), mode("out/.ypogram"), mode("out/.ypogram/source-1")),
            (0o600, 0o700, 0o600)
        );
    }
    // Next month: another order, the same person and another one, the slip of somebody else.
    let next = "nr;name;email\n1;Ada Lovell;Ada@h-works.org\n2;Lovell Edda;ada@h-works.org\n3;Edda Lovell;ada@h-works.org\n\
                4;Gus Hay;ada@h-works.org\n5;B Marsh;<Bea@Gmial.com>\n6;Dara Sand;dara@yopmail.com\n";
    std::fs::write(place.path("list.csv"), next).unwrap();
    let run = place.run("clean list.csv --person name -o out --force");
    assert!(run.stdout.contains("from memory  3"), "{}", run.stdout);
    // 2 is of the same person in another order, and 3 a duplicate of it; 4 is of a third one.
    assert_eq!(ends(&place), all(&["1", "2", "5", "6"], &["4"], &[], &["3"]));
    let run = place.run("check list.csv -q --columns yp_address,yp_verdict --to csv");
    assert!(run.stdout.contains("bea@gmail.com;accept\ndara@yopmail.com;accept\n"), "{}", run.stdout);
    let run = place.run_with("check --each -", "bea@gmial.com\nbea@gmial.co\n");
    let lines: Vec<&str> = run.stdout.lines().collect();
    assert!(
        lines[0].contains(r#""decided":"taken""#) && lines[0].contains(r#""verdict":"accept""#),
        "{}",
        lines[0]
    );
    assert!(!lines[1].contains("decided"), "{}", lines[1]);

    // A list of one's own that asks for a review is asked every time.
    std::fs::write(place.path("ypogram.toml"), rules.replace("'note'", "'review'")).unwrap();
    let run = place.run("clean list.csv --person name -o out --force -q");
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert_eq!(ends(&place)[1].1, ["4", "6"]);
    let run = place.run("lists check decisions");
    assert_eq!(run.code, 1);
    assert!(
        run.stdout.contains("line 3: dara@yopmail.com  what it answers is asked every time"),
        "{}",
        run.stdout
    );
    assert_eq!(place.run("lists remove decisions dara@yopmail.com").code, 0);
    assert_eq!(place.run("lists change decisions bea@gmial.com --set decision=drop").code, 0);
    assert!(place.run("lists show decisions").stdout.contains("bea@gmial.com\tBea Marsh\ttyping-slip\tdrop"));
    std::fs::write(
        place.path("decided.csv"),
        "as_found,person,findings,decision,address,decided,reason\na@b.org,,,no,,,\n",
    )
    .unwrap();
    let run = place.run("check list.csv");
    assert!(run.stderr.contains("decided.csv, line 2: ‘no’ is no decision"), "{}", run.stderr);
}

/// A run that was killed at its very end left a temporary folder, and this one has nothing left to do; what others hold stays.
#[cfg(unix)]
#[test]
fn a_call_with_nothing_to_do_clears_what_was_left() {
    let place = cleaned("");
    let temporary = place.path("tmp");
    for name in ["ypogram-left", "ypogram-held", "others"] {
        std::fs::create_dir_all(temporary.join(name)).unwrap();
        std::fs::write(temporary.join(name).join("copy.csv"), "ada@h-works.org\n").unwrap();
    }
    let held = std::fs::File::open(temporary.join("ypogram-held")).unwrap();
    held.lock().unwrap();
    let settle = || {
        let mut command = Command::new(assert_cmd::cargo::cargo_bin!("ypogram"));
        command
            .args(["settle", "out", "--take", "sure"])
            .current_dir(place.path(""))
            .env("TMPDIR", &temporary);
        command.output().unwrap()
    };
    let names = || {
        let mut names: Vec<String> = std::fs::read_dir(&temporary)
            .unwrap()
            .map(|entry| entry.unwrap().file_name().to_string_lossy().into_owned())
            .collect();
        names.sort();
        names
    };
    settle();
    std::fs::create_dir(temporary.join("ypogram-again")).unwrap();
    let run = settle();
    assert_eq!(run.status.code(), Some(0), "{}", String::from_utf8_lossy(&run.stderr));
    assert!(String::from_utf8_lossy(&run.stderr).contains("nothing is left to do"));
    assert_eq!(names(), ["others", "ypogram-held"]);
}
