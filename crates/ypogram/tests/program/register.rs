//! `ypogram register`: each mailbox once, whoever asks.

use serde_json::Value;

use crate::{Place, table};

const LIST: &str = "nr,email\n1,ada@h-works.org\n2,Ada@h-works.org\n3,a.da+x@gmail.com\n4,ada@gmail.com\n5,asdf@h-works.org\n6,x@@y\n";

fn answers(place: &Place, lines: &str) -> Vec<String> {
    let run = place.run_with("register ask s.register --source form", lines);
    assert_eq!(run.code, 0, "{}", run.stderr);
    let answer =
        |line: &str| serde_json::from_str::<Value>(line).unwrap()["answer"].as_str().unwrap().to_owned();
    run.stdout.lines().map(answer).collect()
}

#[test]
fn each_mailbox_is_admitted_once() {
    let place = Place::with(&[("list.csv", LIST.as_bytes())]);
    let run = place.run("register new s.register");
    assert!(run.code == 0 && run.stdout.contains("by the rule ‘provider’"), "{}", run.stderr);
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt as _;
        let mode = std::fs::metadata(place.path("s.register")).unwrap().permissions().mode();
        assert_eq!(mode & 0o777, 0o600);
    }
    // One that is refused stops all.
    let run = place.run("register add s.register list.csv --json");
    let said: Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!(
        (run.code, &said["stopped"], &said["counts"]["admissible"]),
        (1, &Value::from(true), &Value::from(2))
    );
    assert_eq!(
        said["counts"]["answers"].to_string(),
        r#"{"admitted":0,"known":2,"refused":2,"withdrawn":0}"#
    );
    assert!(place.run("register stats s.register").stdout.starts_with("0 admitted"));
    let run = place.run("register add s.register list.csv --admissible-only -o answers.csv");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let rows = table(&place.read("answers.csv"));
    let told: Vec<&str> = rows.iter().map(|row| &*row["yp_answer"]).collect();
    assert_eq!(told, ["admitted", "known", "admitted", "known", "refused", "refused"]);
    assert_eq!((&*rows[1]["yp_known_source"], rows[1]["yp_known_since"].len()), ("list.csv", 20));
    let run = place.run("register add s.register list.csv --admissible-only --admit review --json");
    let said: Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!(
        said["counts"]["answers"].to_string(),
        r#"{"admitted":1,"known":4,"refused":1,"withdrawn":0}"#
    );

    // Asked line by line, as it was typed.
    let lines =
        "bea@h-works.org\nBEA@h-works.org\n bea@h-works.org\n\nadA+news@gmail.com\nasdf2@h-works.org\n";
    assert_eq!(answers(&place, lines), ["admitted", "known", "refused", "refused", "known", "admitted"]);
    let run = place.run("register look s.register bea@h-works.org A.D.A@gmail.com new@h-works.org");
    assert_eq!(run.code, 1);
    assert!(run.stdout.contains("bea@h-works.org  known, since 20"), "{}", run.stdout);
    assert!(
        run.stdout.contains("from form") && run.stdout.contains("new@h-works.org  unknown"),
        "{}",
        run.stdout
    );

    // Withdrawn for ever, in any spelling, though only a hash is kept.
    assert_eq!(place.run("register withdraw s.register ada@h-works.org").code, 0);
    std::fs::write(place.path("left.txt"), "ada@gmail.com\nnobody@h-works.org\n").unwrap();
    let run = place.run("register withdraw s.register left.txt --forget");
    assert_eq!(
        (run.code, &*run.stdout),
        (0, "2 withdrawn, 0 without a usable address — 2 records\n"),
        "{}",
        run.stderr
    );
    let lines = "ADA@h-works.org\na.d.a+other@googlemail.com\nnobody@h-works.org\n";
    assert_eq!(answers(&place, lines), ["withdrawn", "withdrawn", "withdrawn"]);
    let everything = place.bytes("s.register");
    let hidden = |text: &str| !everything.windows(text.len()).any(|bytes| bytes == text.as_bytes());
    assert!(hidden("nobody@h-works.org") && hidden("a.da+x@gmail.com"), "what is forgotten is in no file");
    let log = std::fs::read(place.path("s.register-wal")).unwrap_or_default();
    assert!(log.is_empty(), "nor in its log");
    assert_eq!(place.run("register remove s.register nobody@h-works.org ada@h-works.org").code, 0);
    assert_eq!(answers(&place, "nobody@h-works.org\nada@h-works.org\n"), ["admitted", "admitted"]);

    let run = place.run("register list s.register");
    let listed = table(&run.stdout);
    assert!(run.stdout.starts_with("address,state,since,source,key\n"), "{}", run.stdout);
    assert_eq!(listed.len(), 5);
    assert!(
        place
            .run("register stats s.register")
            .stdout
            .starts_with("5 admitted · 0 withdrawn · 1 withdrawn and forgotten")
    );
    let run = place.run("register verify s.register");
    assert_eq!((run.code, run.stdout.contains("whole; 5 mailboxes")), (0, true), "{}", run.stdout);
    // By another rulebook keys are others.
    std::fs::write(
        place.path("ypogram.toml"),
        "version = 2\n[same-mailbox.domains]\n'h-works.org' = { alias-of = 'gmail.com' }\n",
    )
    .unwrap();
    let run = place.run("register verify s.register");
    assert_eq!((run.code, run.stdout.contains("have another key today")), (1, true), "{}", run.stdout);
}

#[test]
fn what_is_no_register_is_refused() {
    let place = Place::with(&[("list.csv", LIST.as_bytes()), ("empty.register", b"")]);
    assert_eq!(place.run("register new s.register --same case").code, 0);
    let other = rusqlite::Connection::open(place.path("other.sqlite")).unwrap();
    other.execute_batch("CREATE TABLE own (n)").unwrap();
    std::fs::copy(place.path("s.register"), place.path("newer.register")).unwrap();
    rusqlite::Connection::open(place.path("newer.register"))
        .unwrap()
        .execute_batch("PRAGMA user_version = 9")
        .unwrap();
    let damaged: Vec<u8> = place.bytes("s.register").iter().map(|byte| byte ^ 0x55).collect();
    std::fs::write(place.path("damaged.register"), damaged).unwrap();
    for (call, code, told) in [
        (
            "register look none.register a@h-works.org",
            2,
            "there is no such register\n  → make one with ypogram register new none.register",
        ),
        ("register look list.csv a@h-works.org", 2, "list.csv: this is not a register"),
        ("register look other.sqlite a@h-works.org", 2, "this is not a register"),
        ("register look empty.register a@h-works.org", 2, "this is not a register"),
        ("register look damaged.register a@h-works.org", 2, "this is not a register"),
        ("register look newer.register a@h-works.org", 2, "of version 9, and this program knows version 1"),
        (
            "register look s.register a@h-works.org --same everywhere",
            2,
            "its rule is ‘case’, not ‘everywhere’",
        ),
        ("register new s.register", 3, "a register is never replaced"),
        ("register new no/where.register", 3, "no/where.register"),
        ("register add s.register list.csv --field mail", 2, "there is no field ‘mail’"),
        ("register add s.register list.csv -o s.register --force", 2, "s.register"),
        ("register withdraw s.register nothing", 2, "neither an address nor a file"),
        ("register withdraw s.register x@@y", 2, "it has no mailbox"),
        ("register remove s.register a@h-works.org --forget", 2, "--forget is for withdraw"),
    ] {
        let run = place.run(call);
        assert_eq!((run.code, run.stderr.contains(told)), (code, true), "{call}: {}", run.stderr);
    }
    let leftovers = std::fs::read_dir(place.path("")).unwrap().flatten().map(|entry| entry.file_name());
    assert!(leftovers.into_iter().all(|name| !name.to_string_lossy().starts_with(".register-")));
}

/// A form asks for days; who is forgotten meanwhile stays withdrawn.
#[test]
fn who_is_forgotten_beside_a_running_ask_is_not_admitted() {
    use std::io::{BufRead as _, BufReader, Write as _};
    use std::process::{Command, Stdio};

    let place = Place::with(&[]);
    assert_eq!(place.run("register new s.register").code, 0);
    let mut form = Command::new(env!("CARGO_BIN_EXE_ypogram"))
        .args(["register", "ask", "s.register"])
        .current_dir(place.path(""))
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let (mut lines, mut answers) =
        (form.stdin.take().unwrap(), BufReader::new(form.stdout.take().unwrap()).lines());
    let mut ask = |address: &str| {
        writeln!(lines, "{address}").unwrap();
        let answer: Value = serde_json::from_str(&answers.next().unwrap().unwrap()).unwrap();
        answer["answer"].as_str().unwrap().to_owned()
    };
    assert_eq!(ask("bea@h-works.org"), "admitted");
    for address in ["ada@h-works.org", "bea@h-works.org"] {
        assert_eq!(place.run(&format!("register withdraw s.register {address} --forget")).code, 0);
    }
    assert_eq!(
        ["Ada@h-works.org", "bea@h-works.org", "cy@h-works.org"].map(&mut ask),
        ["withdrawn", "withdrawn", "admitted"]
    );
    drop(lines);
    assert!(form.wait().unwrap().success());
}
