//! Input that somebody made to do harm: terminal codes in names, formulas, paths, patterns that take for ever, files that unpack to far more
//! than they are.

use std::io::Write as _;
use std::path::Path;
use std::process::Stdio;
use std::time::{Duration, Instant};

use calamine::Reader as _;

use crate::campaign::memory::peak_of;
use crate::campaign::{Outcome, Scale, in_parallel};
use crate::program::{command, files, run as run_program, said};

/// A run on a small hostile file that takes longer is one that hangs.
const PATIENCE: Duration = Duration::from_secs(60);

/// A run on a small hostile file may need so much memory, in megabytes: twice the 1 GB that is the default of `--memory`.
const ROOM: u64 = 2048;

/// Tries all of it.
pub fn run(scale: Scale) -> Outcome {
    let mut outcome = Outcome::default();
    terminal_codes(&mut outcome);
    formulas(&mut outcome);
    names_that_are_paths(&mut outcome);
    patterns_that_take_for_ever(&mut outcome);
    files_that_are_more_than_they_seem(scale, &mut outcome);
    a_finding_in_every_record(scale, &mut outcome);
    outcome
}

/// Sets the title of a terminal, moves in it, hides text.
const CODES: &str = "\u{1b}]0;owned\u{7}\u{1b}[2J\u{9b}31m\u{8}";

/// Nothing that is printed for people holds a control character, wherever it comes from.
fn terminal_codes(outcome: &mut Outcome) {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text).expect("written");
    let list = format!(
        "email{CODES},na{CODES}me\nada@h-works.org,a{CODES}b\n{CODES}bea@h-works.org,x\ncleo@{CODES}gmial.com,y\nada@h-works.org,{CODES}\n"
    );
    let named = format!("li{CODES}st.csv");
    write(&named, &list);
    write("plain.csv", &list);
    write("own.txt", &format!("h-works.org\nx{CODES}.example\n"));
    write(
        "mail.mbox",
        &format!("From a\nFrom: x{CODES} <ada@h-works.org>\nSubject: {CODES}\n\n{CODES} bea@h-works.org\n"),
    );
    write(
        "ypogram.toml",
        "version = 2\n[lists.own]\nfile = \"own.txt\"\nseverity = \"review\"\n[patterns]\np = 'a+'\n",
    );
    let calls: [&[&str]; 17] = [
        &["survey", &named],
        &["survey", &named, "--full"],
        &["check", &named, "-o", "a.csv"],
        &["clean", &named, "-o", "out"],
        &["clean", &named, "-o", "page", "--html", "page.html"],
        &["settle", "out", "--take", "likely"],
        &["dedupe", &named],
        &["dedupe", &named, "--near", "near.csv", "-o", "b.csv"],
        &["compare", &named, "--with", "plain.csv"],
        &["domains", &named, "-o", "c.csv"],
        &["links", &named],
        &["extract", "mail.mbox", &named, "-o", "d.csv"],
        &["bounces", "mail.mbox"],
        &["lists", "check", "own"],
        &["explain", &format!("a{CODES}@h-works.org")],
        &["check", &format!("no{CODES}such.csv")],
        &["check", "plain.csv", "--field", CODES],
    ];
    for words in calls {
        let made = command(folder.path(), "").args(words).stdin(Stdio::null()).output().expect("it runs");
        outcome.count("calls with terminal codes");
        let text = said(&made);
        let bad = text.chars().find(|c| c.is_control() && !matches!(c, '\n' | '\t'));
        outcome.expect(bad.is_none(), || format!("hostile: {words:?} prints {bad:?}"));
        outcome.expect(matches!(made.status.code(), Some(0..=3)), || format!("hostile: {words:?}: {text}"));
    }
    let page = std::fs::read_to_string(folder.path().join("page.html")).unwrap_or_default();
    let bad = page.chars().find(|c| c.is_control() && !matches!(c, '\n' | '\t'));
    outcome.expect(bad.is_none(), || format!("hostile: the page holds {bad:?}"));
}

/// No cell of a workbook that is written is a formula, whatever stands in it.
fn formulas(outcome: &mut Outcome) {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let cells = ["=1+1", "+1", "-1", "@SUM(A1)", "\t=1", "=HYPERLINK(\"x\")", "=cmd|' /C calc'!A0"];
    let rows: String =
        cells.iter().map(|cell| format!("\"{}\",ada@h-works.org\n", cell.replace('"', "\"\""))).collect();
    std::fs::write(folder.path().join("list.csv"), format!("=name,email\n{rows}")).expect("written");
    for (call, name) in [("check list.csv -q -o a.xlsx", "a.xlsx"), ("clean list.csv -q -o b.xlsx", "b.xlsx")]
    {
        let made = run_program(folder.path(), call);
        outcome.count("workbooks");
        outcome.expect(made.status.success(), || format!("hostile: {call}: {}", said(&made)));
        let mut book: calamine::Xlsx<_> =
            calamine::open_workbook(folder.path().join(name)).expect("a workbook");
        for sheet in book.sheet_names() {
            let formulas = book.worksheet_formula(&sheet).expect("a sheet");
            let written: Vec<_> = formulas.used_cells().filter(|(.., formula)| !formula.is_empty()).collect();
            outcome.expect(written.is_empty(), || format!("hostile: {call} writes formulas: {written:?}"));
        }
    }
    let made = run_program(folder.path(), "check list.csv -q --guard-formulas -o c.csv");
    let text = std::fs::read_to_string(folder.path().join("c.csv")).unwrap_or_default();
    // Numbers are no formulas.
    let is_number = |line: &str| line.starts_with("\"+1\",") || line.starts_with("\"-1\",");
    let is_formula = |line: &str| line.trim_start_matches('"').starts_with(['=', '+', '-', '@', '\t']);
    let is_guarded = text.lines().all(|line| is_number(line) || !is_formula(line));
    outcome.expect(made.status.success() && is_guarded, || {
        format!("hostile: --guard-formulas leaves formulas: {text}")
    });
}

/// Names of sheets, tables and files make no file elsewhere.
fn names_that_are_paths(outcome: &mut Outcome) {
    let outer = tempfile::tempdir().expect("a temporary folder");
    let folder = outer.path().join("inner");
    std::fs::create_dir(&folder).expect("made");
    let database = rusqlite::Connection::open(folder.join("x.sqlite")).expect("made");
    database
        .execute_batch(
            "CREATE TABLE \"../../up\" (email TEXT); INSERT INTO \"../../up\" VALUES ('ada@h-works.org')",
        )
        .expect("made");
    drop(database);
    for name in ["-x.csv", "a b;touch owned.csv", "$(touch owned).csv", "%2e%2e%2fup.csv"] {
        std::fs::write(folder.join(name), "email\nada@h-works.org\nbroken@@h\n").expect("written");
    }
    let place = format!("./{}", "a b;touch owned.csv");
    let calls: [&[&str]; 7] = [
        &["check", "x.sqlite", "-o", "a.csv"],
        &["clean", "x.sqlite", "-o", "out"],
        &["extract", "x.sqlite", "-o", "b.csv"],
        &["check", "--", "-x.csv"],
        &["clean", &place],
        &["survey", "$(touch owned).csv"],
        &["clean", "%2e%2e%2fup.csv"],
    ];
    for words in calls {
        let made = command(&folder, "").args(words).stdin(Stdio::null()).output().expect("it runs");
        outcome.count("names that are paths");
        outcome.expect(matches!(made.status.code(), Some(0..=3)), || {
            format!("hostile: {words:?}: {}", said(&made))
        });
    }
    let outside: Vec<_> = files(outer.path()).into_keys().filter(|path| !path.starts_with(&folder)).collect();
    outcome.expect(outside.is_empty(), || format!("hostile: files outside of the folder: {outside:?}"));
    outcome.expect(!folder.join("owned").exists(), || "hostile: a name was run by a shell".to_owned());
}

/// Patterns that other engines take for ever on: sixteen times the input takes about sixteen times as long.
fn patterns_that_take_for_ever(outcome: &mut Outcome) {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let rules =
        "version = 2\n[patterns]\na = '(a+)+b'\nb = '(a|a)*c'\nc = '(.*)*(.*)*d'\nd = '(a?){60}a{60}'\n";
    std::fs::write(folder.path().join("ypogram.toml"), rules).expect("written");
    let takes = |letters: usize| {
        std::fs::write(folder.path().join("list.csv"), format!("id,email\n1,{}\n", "a".repeat(letters)))
            .expect("written");
        let begun = Instant::now();
        let made = run_program(
            folder.path(),
            "check list.csv --field email --pattern a --pattern b --pattern c --pattern d -q -o rows.csv --force",
        );
        (begun.elapsed(), made)
    };
    let (short, _) = takes(100_000);
    let (long, made) = takes(1_600_000);
    outcome.count("patterns grown");
    outcome
        .expect(matches!(made.status.code(), Some(0 | 1)), || format!("hostile: patterns: {}", said(&made)));
    let floor = short.max(Duration::from_millis(20));
    outcome.expect(long < floor * 64, || {
        format!("hostile: patterns: {short:?} for 100,000 letters, {long:?} for sixteen times as many")
    });
}

/// Small files that unpack, nest or join to very much: an end within a minute and two gigabytes, and an error that says what is wrong.
fn files_that_are_more_than_they_seem(scale: Scale, outcome: &mut Outcome) {
    let large = scale.cases(64, 1024) as usize * (1 << 20);
    let zeros = |piece: &[u8]| {
        let mut packed = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
        (0..large / piece.len()).for_each(|_| packed.write_all(piece).expect("packed"));
        packed.finish().expect("packed")
    };
    let deep = 200_000;
    let mut parts = String::from("From: ada@h-works.org\nContent-Type: multipart/mixed; boundary=b0\n\n");
    for nth in 0..3000 {
        parts.push_str(&format!("--b{nth}\nContent-Type: multipart/mixed; boundary=b{}\n\n", nth + 1));
    }
    let wide: String = (0..20_000).map(|nth| format!("f{nth},")).collect();
    let cases: Vec<(&str, Vec<u8>)> = vec![
        ("one-line.csv.gz", zeros(&[b'a'; 1 << 16])),
        ("many-lines.csv.gz", zeros(b"email,x\n")),
        ("no-line.txt.gz", zeros(&[0; 1 << 16])),
        ("twice.csv.gz.gz", zeros(b"email\n")),
        ("deep.json", "[".repeat(deep).into_bytes()),
        ("deep-object.json", "{\"a\":".repeat(deep).into_bytes()),
        ("deep.jsonl", ("{\"a\":".repeat(deep) + "\n").into_bytes()),
        ("open-quote.csv", [b"email,note\nada@h-works.org,\"".to_vec(), vec![b'x'; 24 << 20]].concat()),
        ("wide.csv", format!("{wide}email\n{wide}ada@h-works.org\n").repeat(20).into_bytes()),
        ("parts.eml", parts.into_bytes()),
        ("signs.txt", "@".repeat(4 << 20).into_bytes()),
        ("dots.txt", "a.".repeat(2 << 20).into_bytes()),
        ("quoted.txt", "\"a\\\"".repeat(1 << 20).into_bytes()),
        ("brackets.txt", "<a@".repeat(1 << 20).into_bytes()),
        ("tags.html", "<a href='mailto:".repeat(1 << 18).into_bytes()),
        ("entities.html", "&#64".repeat(1 << 20).into_bytes()),
        ("encoded.txt", "=?utf-8?b?".repeat(1 << 19).into_bytes()),
        ("folded.vcf", format!("BEGIN:VCARD\nEMAIL:{}\nEND:VCARD\n", "a\n ".repeat(1 << 20)).into_bytes()),
        ("folded.ldif", format!("dn: cn=a\nmail: {}\n", "a\n ".repeat(1 << 20)).into_bytes()),
        ("book.xlsx", bomb(large)),
    ];
    let tried = in_parallel(cases.len() as u64, |nth, outcome| {
        let (name, bytes) = &cases[nth as usize];
        more_than_it_seems(name, bytes, outcome);
    });
    outcome.join(tried);
}

fn more_than_it_seems(name: &str, bytes: &[u8], outcome: &mut Outcome) {
    let folder = tempfile::tempdir().expect("a temporary folder");
    std::fs::write(folder.path().join(name), bytes).expect("written");
    for call in
        ["survey", "check --field email", "clean", "extract", "extract --obfuscated", "redact --as mask"]
    {
        let call = match call {
            "survey" => format!("survey {name}"),
            call => format!("{call} {name} -o made --force"),
        };
        let (ended, peak) = peak_of(folder.path(), &call, PATIENCE);
        outcome.count("files that are more than they seem");
        let Some(ended) = ended else {
            outcome.faults.push(format!("hostile: {call} does not end within {} s", PATIENCE.as_secs()));
            continue;
        };
        let text = said(&ended);
        let is_calm = ["panicked", "fault of its own", "overflow"].iter().all(|word| !text.contains(word));
        outcome.expect(is_calm && matches!(ended.status.code(), Some(0..=3)), || {
            format!("hostile: {call}: {:?} {}", ended.status, text.chars().take(500).collect::<String>())
        });
        outcome.expect(peak < ROOM, || format!("hostile: {call} takes {peak} MB"));
        let _ = std::fs::remove_dir_all(folder.path().join("made"));
        let _ = std::fs::remove_file(folder.path().join("made"));
    }
}

/// A workbook whose sheet unpacks to so many bytes.
fn bomb(bytes: usize) -> Vec<u8> {
    let mut book = rust_xlsxwriter::Workbook::new();
    let sheet = book.add_worksheet_with_constant_memory().expect("a sheet");
    sheet.write_string(0, 0, "email").expect("a cell");
    // A cell holds 32,767 characters at most; rows of the same text pack well.
    let text = "a".repeat(30_000);
    (0..(bytes / 30_000) as u32).for_each(|row| {
        sheet.write_string(row + 1, 0, &text).expect("a cell");
    });
    book.save_to_buffer().expect("written")
}

/// Every record has findings: the summary stays as short as ever, and the figures add up.
fn a_finding_in_every_record(scale: Scale, outcome: &mut Outcome) {
    let folder = tempfile::tempdir().expect("a temporary folder");
    let records = scale.cases(50_000, 1_000_000);
    let row = |nth: u64| match nth % 4 {
        0 => format!("broken{nth}@@h..org,{nth}\n"),
        1 => format!(".{nth}@gmial.com,{nth}\n"),
        2 => format!("\"a{nth}\"@x{nth}.zzzz,{nth}\n"),
        _ => format!("noreply{nth}@mailinator.com,{nth}\n"),
    };
    let path = folder.path().join("list.csv");
    let mut file = std::io::BufWriter::new(std::fs::File::create(&path).expect("made"));
    file.write_all(b"email,nr\n").expect("written");
    (0..records).for_each(|nth| file.write_all(row(nth).as_bytes()).expect("written"));
    file.flush().expect("written");
    for call in ["check list.csv -o rows.csv", "clean list.csv -o out", "survey list.csv"] {
        let made = run_program(folder.path(), call);
        let text = said(&made);
        outcome.add("records that all have findings", records);
        outcome.expect(matches!(made.status.code(), Some(0 | 1)) && text.lines().count() < 60, || {
            format!("hostile: {call}: {} lines, {:?}", text.lines().count(), made.status)
        });
    }
    outcome.expect(count_of(&folder.path().join("rows.csv")) == records + 1, || {
        "hostile: check lost records".into()
    });
}

fn count_of(path: &Path) -> u64 {
    std::fs::read(path).unwrap_or_default().iter().filter(|byte| **byte == b'\n').count() as u64
}
