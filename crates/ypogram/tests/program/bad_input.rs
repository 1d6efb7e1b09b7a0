//! What is unusable gets a clear word, the right exit code, and nothing half written.

use crate::Place;

#[test]
fn unusable_inputs() {
    let mut zip = b"PK\x03\x04".to_vec();
    zip.extend([0; 40]);
    let long = format!("email\n{}@h.org\n", "a".repeat(400_000)).into_bytes();
    let files: &[(&str, &[u8])] = &[
        ("empty.csv", b""),
        ("blank.csv", b"\r\n\r\n"),
        ("sheet.csv", &zip),
        ("binary.txt", b"abc\x00def"),
        ("open.csv", b"id,email\n1,a@h.org\n2,\"b@h.org\n3,c@h.org\n"),
        ("good.csv", b"id,E-Mail\n1,a@h.org\n"),
        ("taken.csv", b"email,yp_address\na@h.org,x\n"),
        ("lines.jsonl", b"{}\n{\"a\":\"b\"}\n{\"\n"),
        ("long.csv", &long),
        ("heavy.toml", b"version = 2\n[patterns]\nlarge = \"[a-z]{999}{999}\"\nslow = \"([a-z]?){2000}x\"\n"),
    ];
    let place = Place::with(files);
    std::fs::create_dir(place.path("folder")).unwrap();
    for (call, code, told) in [
        ("clean goods.csv", 2, "goods.csv: file not found\n  → beside it there is good.csv"),
        ("clean folder", 2, "folder: this is a folder\n  → name the files in it that are meant"),
        ("clean empty.csv", 2, "empty.csv: the file is empty"),
        ("clean blank.csv", 2, "blank.csv: the file is empty"),
        ("clean sheet.csv", 2, "this is a packed archive (zip), which is not read\n  → unpack it"),
        ("clean binary.txt", 2, "this is a binary file (a zero byte at byte 3)"),
        ("clean open.csv", 2, "open.csv: the quotation mark that opens in line 3 is never closed"),
        (
            "clean good.csv --field mail",
            2,
            "there is no field ‘mail’\n  → did you mean --field E-Mail? The fields are: id, E-Mail",
        ),
        ("clean good.csv --also zzz", 2, "there is no field ‘zzz’\n  → the fields are: id, E-Mail"),
        ("clean good.csv --field id --also id", 2, "named as an address field and as a text field"),
        ("clean taken.csv", 2, "has a field ‘yp_address’ already\n  → give Ypogram's columns another prefix"),
        ("clean good.csv -o no/such/folder", 3, "the folder it belongs into does not exist"),
        ("clean good.csv -o good.csv", 3, "the outputs of clean are several, and separated values is one"),
        (
            "clean ada@h.org",
            2,
            "‘ada@h.org’ is not a file\n  → to judge an address: ypogram explain ada@h.org",
        ),
        (
            "good.csv",
            2,
            "‘good.csv’ is not a command\n  → to see what is in this file: ypogram survey good.csv; to clean it: ypogram clean good.csv",
        ),
        ("ada@h.org", 2, "to judge this address: ypogram explain ada@h.org"),
        ("clean", 2, "no source is named\n  → name a file, or - for standard input"),
        ("clean good.csv --delimiter ab", 2, "give one character"),
        (
            "clean good.csv --rules none.toml",
            2,
            "none.toml: the rulebook cannot be read: it does not exist\n",
        ),
        ("check good.csv -o no/such/file", 3, "file: cannot be written: its folder does not exist\n"),
        (
            "extract lines.jsonl --chunk-bytes 9 -o o.csv",
            2,
            "lines.jsonl, line 3, column 2: this is not JSON: ",
        ),
        ("check long.csv --longest-record 1K --chunk-bytes 99 -o o.csv", 2, "is longer than 1 KiB\n"),
        (
            "extract long.csv --longest-record 1K --chunk-bytes 99 -o o.csv",
            2,
            "long.csv: the record at byte 6 is longer than",
        ),
        ("check good.csv --rules heavy.toml --pattern large", 2, "the pattern ‘large’ is too large"),
        (
            "check long.csv --rules heavy.toml --pattern slow --longest-record 2M -o o.csv",
            2,
            "too long for the pattern ‘slow’",
        ),
    ] {
        let run = place.run(call);
        assert_eq!(run.code, code, "{call}: {}", run.stderr);
        assert!(run.stderr.contains(told), "{call}: {}", run.stderr);
        assert_eq!(run.stdout, "", "{call}");
    }
    let left: Vec<_> = std::fs::read_dir(place.path("")).unwrap().map(|e| e.unwrap().file_name()).collect();
    assert_eq!(left.len(), files.len() + 1, "nothing half written: {left:?}");
}

/// Nothing found is reported, with the field that has some, and stops a script that asks for it.
#[test]
fn nothing_found_is_told() {
    let place = Place::with(&[
        ("list.csv", b"name,remarks\nAda,ask ada@h-works.org\nBea,\nCleo,or cleo@h-works.org\n"),
        ("none.csv", b"name,remarks\nAda,\nBea,x\n"),
    ]);
    for call in [
        "check SOURCE -o out.csv --force",
        "clean SOURCE -o out --force",
        "dedupe SOURCE",
        "survey SOURCE",
        "split SOURCE -o out.csv --force",
    ] {
        let run = place.run(&format!("{} --fail-on none-found", call.replace("SOURCE", "list.csv")));
        assert_eq!(run.code, 1, "{call}: {}", run.stderr);
        assert!(run.stdout.contains("no address was found"), "{call}: {}", run.stdout);
        assert!(
            run.stdout.contains("  2  more with") && run.stdout.contains("--also remarks"),
            "{call}: {}",
            run.stdout
        );
        let run =
            place.run(&format!("{} --also remarks --fail-on none-found", call.replace("SOURCE", "list.csv")));
        assert_eq!(
            (run.code, run.stdout.contains("no address was found")),
            (0, false),
            "{call}: {}",
            run.stderr
        );
    }
    let run = place.run("extract none.csv -o found.csv --fail-on none-found");
    assert_eq!((run.code, run.stdout.contains("no address was found")), (1, true), "{}", run.stdout);
}

#[test]
fn a_header_alone_is_a_table_without_records() {
    let place = Place::with(&[("list.csv", b"id,email\n")]);
    let run = place.run("clean list.csv -o out");
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert!(run.stdout.contains("0 = 0 records read"), "{}", run.stdout);
    assert_eq!(place.tree("out").len(), 1, "only the receipt");
}

#[test]
fn outputs_that_exist_are_not_lost() {
    let place = Place::with(&[("list.csv", b"email\na@h.org\nbroken\n"), ("less.csv", b"email\na@h.org\n")]);
    assert_eq!(place.run("clean list.csv -o out -q").code, 0);
    let run = place.run("clean list.csv -o out");
    assert_eq!(run.code, 3);
    assert!(
        run.stderr.contains("out: the folder is not empty\n  → choose another folder with -o, or replace"),
        "{}",
        run.stderr
    );
    std::fs::write(place.path("out/mine.txt"), "keep me").unwrap();
    assert_eq!(place.run("clean less.csv -o out -q --force").code, 0);
    let names: Vec<_> = place.tree("out").into_keys().map(|path| path.display().to_string()).collect();
    assert_eq!(
        names,
        ["kept.csv", "mine.txt", "receipt.json"],
        "the old rejected.csv is gone, the foreign file is not"
    );
    std::fs::write(place.path("out/review.csv"), "not yours").unwrap();
    let run = place.run("clean less.csv -o out --force");
    assert_eq!(run.code, 3);
    assert!(
        run.stderr.contains("review.csv stands there and is not an output of an earlier run"),
        "{}",
        run.stderr
    );
    assert_eq!(place.read("out/review.csv"), "not yours");
}

#[cfg(unix)]
#[test]
fn a_folder_that_cannot_be_written_to() {
    let place = Place::with(&[("list.csv", b"email\na@h.org\n")]);
    // Not even the administrator may make a folder there.
    let run = place.run("clean list.csv -o /proc/ypogram-out");
    assert_eq!(run.code, 3, "{}", run.stderr);
    assert!(run.stderr.contains("/proc/ypogram-out"), "{}", run.stderr);
}

#[cfg(unix)]
#[test]
fn a_closed_pipe_ends_quietly() {
    let place = Place::with(&[("list.csv", b"email\na@h.org\n")]);
    let program = assert_cmd::cargo::cargo_bin!("ypogram");
    let script =
        format!("'{}' clean list.csv -o out --json | true; echo ${{PIPESTATUS[0]}}", program.display());
    let output = std::process::Command::new("bash")
        .arg("-c")
        .arg(script)
        .current_dir(place.path(""))
        .output()
        .unwrap();
    assert_eq!(String::from_utf8_lossy(&output.stderr), "");
    assert_eq!(String::from_utf8_lossy(&output.stdout).trim(), "0");
}

#[test]
fn data_cannot_garble_the_terminal() {
    let place =
        Place::with(&[("list.csv", "email\n\u{1b}[31mred@@h.org\nada@h.org\u{202e}gro\n".as_bytes())]);
    let run = place.run("clean list.csv -o out");
    assert!(!run.stdout.contains('\u{1b}') && !run.stdout.contains('\u{202e}'), "{}", run.stdout);
    assert!(
        run.stdout.contains("\\u{1b}[31mred@@h.org") && run.stdout.contains("\\u{202e}"),
        "{}",
        run.stdout
    );
}

#[test]
fn what_comes_by_standard_input_goes_by_that_name() {
    let open = "id,email\n1,\"a@h.org\n";
    for (call, given, told) in [
        ("clean -", "", "standard input: the file is empty"),
        ("dedupe -", "", "standard input: the file is empty"),
        ("clean - --from csv", open, "standard input: the quotation mark that opens in line 2"),
        ("dedupe - --from csv", open, "standard input: the quotation mark that opens in line 2"),
        ("check - --from csv", open, "standard input: the quotation mark that opens in line 2"),
    ] {
        let run = Place::with(&[]).run_with(call, given);
        assert_eq!(run.code, 2, "{call}: {}", run.stderr);
        assert!(run.stderr.contains(told) && !run.stderr.contains("/ypogram-"), "{call}: {}", run.stderr);
    }
    let place = Place::with(&[]);
    let run = place.run_with("clean - --from csv -o out", "id,email\n1,a@h.org\n2,A@h.org\n");
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert!(run.stdout.contains("standard input") && !run.stdout.contains("/ypogram-"), "{}", run.stdout);
    assert!(place.read("out/receipt.json").contains("\"standard input\""));
}

/// Each would take minutes if its time went with the square of its length.
#[test]
fn cells_that_nobody_writes_are_read_in_time() {
    const N: usize = 30_000;
    let cells = [
        ["(".repeat(N), "ada@gmail.com".into(), ")".repeat(N)].concat(),
        ["[ ".repeat(N), "ada@gmail.com".into(), "]".repeat(N)].concat(),
        ["<".repeat(N), "ada@gmail.com".into(), ">".repeat(N)].concat(),
        ["(1) (a) ".repeat(N / 4), "ada@gmail.com".into()].concat(),
        ["01632 960413 ".repeat(N / 4), "ada@gmail.com".into()].concat(),
        [" ".repeat(N), "ada@gmail.com".into(), " ".repeat(N), "x".into()].concat(),
    ];
    let rows: String = cells.iter().map(|cell| format!("{cell}\n")).collect();
    let place = Place::with(&[("cells.csv", format!("email\n{rows}").as_bytes())]);
    for grammar in ["smtp", "header"] {
        let run = place.run(&format!("check cells.csv --field email --grammar {grammar} --figure records"));
        assert_eq!((run.code, run.stdout.trim()), (0, "6"), "{}", run.stderr);
    }
    let run = place.run("extract cells.csv --obfuscated --figure addresses");
    assert_eq!((run.code, run.stdout.trim()), (0, "6"), "{}", run.stderr);
}

#[test]
fn nothing_raw_is_in_a_summary_and_printed_names_can_be_copied() {
    let content =
        "na\u{1b}[31mme\u{202e},email\u{9b}31m,x\nAda,ada@gmail.com,\nBo\u{1b}[2J,bo@gmail,b\u{202e}\n";
    let name = "li\u{1b}]st\u{202e}.csv";
    let place = Place::with(&[(name, content.as_bytes())]);
    let out = place.path("out").display().to_string();
    for (words, code) in [
        (vec!["survey", name], 0),
        (vec!["check", name, "-o", "checked.csv"], 0),
        (vec!["dedupe", name], 0),
        (vec!["clean", name, "-o", &out], 0),
        (vec!["split", name, "-o", "parts.csv"], 0),
        (vec!["extract", name, "-o", "found.csv"], 0),
        (vec!["check", name, "--field", "e-mail"], 2),
    ] {
        let run = place.run_words(&words, "");
        assert_eq!(run.code, code, "{words:?}: {}", run.stderr);
        let told = [run.stdout, run.stderr].concat();
        assert!(!told.contains(['\u{1b}', '\u{9b}', '\u{202e}']), "{words:?}: {told}");
        // Every command that is named reads the same file.
        let printed = told.lines().filter_map(|line| Some(&line[line.find("ypogram ")?..]));
        for command in printed.filter(|command| command.contains("$'") && !command.contains('…')) {
            assert!(command.contains(r"$'li\x1b]st\u202e.csv'"), "{command}");
        }
    }
}
