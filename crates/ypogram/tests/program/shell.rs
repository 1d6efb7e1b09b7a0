//! What shells and manuals get: completion, man pages, colours, the version.

use std::collections::BTreeSet;

use assert_cmd::Command;
use serde_json::Value;

use crate::Place;

/// What a shell offers behind these words, the last of which is being typed.
fn completed(place: &Place, words: &str) -> BTreeSet<String> {
    let words: Vec<&str> = words.split(' ').collect();
    let output = Command::cargo_bin("ypogram")
        .unwrap()
        .current_dir(place.path(""))
        .env("COMPLETE", "bash")
        .env("_CLAP_COMPLETE_INDEX", (words.len() - 1).to_string())
        .env("_CLAP_COMPLETE_COMP_TYPE", "9")
        .env("_CLAP_COMPLETE_SPACE", "true")
        .env("_CLAP_IFS", "\n")
        .arg("--")
        .args(&words)
        .output()
        .unwrap();
    assert!(output.status.success(), "{words:?}");
    String::from_utf8(output.stdout).unwrap().lines().map(|line| line.trim().to_owned()).collect()
}

#[test]
fn a_shell_completes_what_is_at_hand() {
    let place = Place::with_demo();
    for (words, offered) in [
        ("ypogram sur", "survey"),
        ("ypogram check --fie", "--field"),
        ("ypogram check --grammar ht", "html"),
        ("ypogram check mem", "members.csv"),
        ("ypogram check members.csv --field em", "email"),
        ("ypogram check members.csv --columns name,jo", "name,joined"),
        ("ypogram check equipment.xlsx --field bo", "borrower"),
        ("ypogram clean members.csv --without dis", "disposable"),
        ("ypogram rules free-p", "free-provider"),
        ("ypogram lists show part", "partners"),
        ("ypogram run m", "monthly"),
        ("ypogram check loans.csv --pattern telephone-a", "telephone-area-code"),
    ] {
        let all = completed(&place, words);
        assert!(all.contains(offered), "{words}: {all:?}");
    }
    assert!(completed(&place, "ypogram check no-such.csv --field em").is_empty());
    for shell in ["bash", "zsh", "fish", "powershell", "elvish"] {
        let script = place.run(&format!("completions {shell}"));
        assert!(script.code == 0 && script.stdout.contains("ypogram"), "{shell}");
    }
    assert_eq!(place.run("completions csh").code, 2);
}

#[test]
fn every_command_has_its_page() {
    let place = Place::with(&[]);
    let made = place.run("man -o pages");
    assert_eq!(made.code, 0, "{}", made.stderr);
    let pages = place.tree("pages");
    let page = |name: &str| String::from_utf8(pages[std::path::Path::new(name)].clone()).unwrap();
    assert!(page("ypogram.1").contains("ypogram\\-clean(1)") || page("ypogram.1").contains("clean"));
    assert!(page("ypogram-rules-export.1").contains("test\\-values"));
    assert!(made.stdout.starts_with(&pages.len().to_string()) && pages.len() > 40, "{}", made.stdout);
    let again = place.run("man -o pages");
    assert!(again.code == 3 || again.code == 2, "{}", again.stderr);
    assert_eq!(place.run("man -o pages --force").code, 0);
}

#[test]
fn colours_and_the_version() {
    let place = Place::with_demo();
    let escapes = |call: &str| {
        let run = place.run(call);
        (run.stdout + &run.stderr).matches('\u{1B}').count()
    };
    for call in ["survey members.csv", "explain night.owl@gmial.com", "check --help", "check no-such.csv"] {
        assert_eq!(escapes(call), 0, "{call}");
        assert!(escapes(&format!("{call} --color always")) > 0, "{call}");
        assert_eq!(escapes(&format!("{call} --color=never")), 0, "{call}");
    }
    let version = place.run("--version").stdout;
    for said in ["ypogram 0.", "\ncommit: ", "\nreference data: 20", "\nfeatures: "] {
        assert!(version.contains(said), "{version}");
    }
    assert_eq!(place.run("-V").stdout.lines().count(), 1);
}

/// A call that cannot be read is told as every other error, with what to do.
#[test]
fn calls_that_cannot_be_read() {
    let place = Place::with_demo();
    for (call, message, hint) in [
        ("chek members.csv", "‘chek’ is not a command", "did you mean ‘ypogram check’?"),
        ("members.csv", "‘members.csv’ is not a command", "ypogram survey members.csv"),
        ("night.owl@gmial.com", "is not a command", "ypogram explain night.owl@gmial.com"),
        ("explain members.csv", "‘members.csv’ is a file", "ypogram check members.csv"),
        ("check members.csv --feild email", "check has no option ‘--feild’", "did you mean ‘--field’?"),
        ("check members.csv --merge", "check has no option ‘--merge’", "dedupe, clean"),
        ("check members.csv --grammar smpt", "--grammar cannot be ‘smpt’", "did you mean ‘smtp’?"),
        ("check members.csv --grammar", "--grammar needs a value", "ypogram check --help"),
        ("check members.csv --threads many", "--threads cannot be ‘many’", "whole number"),
        ("explain", "<ADDRESS> is missing", "ypogram explain --help"),
        (
            "check --rules a.toml --no-rules members.csv",
            "--rules and --no-rules exclude each other",
            "leave one out",
        ),
        ("dedupe members.csv --json --json", "--json is given twice", "give it once"),
        ("clean members.csv --without fre", "neither a class nor a finding", "did you mean ‘free’?"),
        ("survey members.csv --show form=mailtoo", "there is no form ‘mailtoo’", "did you mean form=mailto?"),
        ("check equipment.xlsx --sheet Equipmint", "there is no sheet", "did you mean ‘Equipment’?"),
    ] {
        let run = place.run(call);
        assert_eq!((run.code, &*run.stdout), (2, ""), "{call}");
        let lines: Vec<&str> = run.stderr.lines().collect();
        assert!(
            lines.len() == 2 && lines[0].starts_with("ypogram: ") && lines[1].starts_with("  → "),
            "{}",
            run.stderr
        );
        assert!(lines[0].contains(message) && lines[1].contains(hint), "{call}: {}", run.stderr);
    }
}

/// A script gets JSON with --quiet too, and learns that there was nothing.
#[test]
fn what_scripts_get() {
    let place =
        Place::with(&[("none.csv", b"name,email\nAda,\n"), ("one.csv", b"email\nada@quarryfarm.org\n")]);
    for command in ["survey", "check", "clean", "dedupe", "extract", "domains", "links"] {
        // Rows have standard output to themselves.
        let rows = if matches!(command, "check" | "extract") { "-o rows.csv" } else { "" };
        let run = place.run(&format!("{command} none.csv --no-rules --json -q --force {rows}"));
        let json: Value =
            serde_json::from_str(&run.stdout).unwrap_or_else(|_| panic!("{command}: {}", run.stderr));
        assert!(json.is_object() && run.stderr.is_empty(), "{command}: {}", run.stderr);
        let told = place.run(&format!("{command} none.csv --no-rules --force"));
        assert!(told.code == 0 && told.stderr.contains("no address was found"), "{command}: {}", told.stderr);
        assert_eq!(
            place.run(&format!("{command} none.csv --no-rules -q --force --fail-on none-found")).code,
            1,
            "{command}"
        );
        let found = place.run(&format!("{command} one.csv --no-rules --force"));
        assert!(!found.stderr.contains("was found"), "{command}: {}", found.stderr);
    }
    let tried = Place::with_demo();
    let json = |call: &str| -> Value { serde_json::from_str(&tried.run(call).stdout).unwrap() };
    assert_eq!(json("rules check --json")["counts"]["patterns"], 1);
    let values = json("rules try --pattern loan OBS/0117/b OBS/01x7/b --json");
    assert_eq!((&values[0]["fits"], &values[1]["fits"]), (&Value::Bool(true), &Value::Bool(false)));
    assert!(values[1]["why"].as_str().unwrap().contains("fits up to"));
    // Added columns can be named with and without their prefix.
    let named = |columns: &str| tried.run(&format!("check members.csv -q --columns {columns}")).stdout;
    assert_eq!(named("name,address,verdict=Verdict"), named("name,yp_address,yp_verdict=Verdict"));
    assert!(tried.run("extract members.csv -q --columns yp_address").stdout.starts_with("address\n"));
}

/// The table of `docs/exit-codes.md`, tried.
#[test]
fn exit_codes_are_those_of_the_table() {
    let place = Place::with_demo();
    std::fs::write(place.path("good.csv"), "email\nada@quarryfarm.org\n").unwrap();
    std::fs::write(place.path("bad.csv"), "email\nada@quarryfarm.zzzz\n").unwrap();
    std::fs::write(place.path("none.csv"), "email\n\"\"\n").unwrap();
    std::fs::write(place.path("twice.txt"), "mill.org\nmill.org\n").unwrap();
    let gzip = [0x1F, 0x8B, 8, 0, 0, 0, 0, 0, 0, 3, 0x4B];
    std::fs::write(place.path("cut.csv.gz"), gzip).unwrap();
    std::fs::write(place.path("letter.eml"), "From: ada@quarryfarm.org\nSubject: The dome\n\nIt is open.\n")
        .unwrap();
    assert_eq!(place.run("register new guests.register").code, 0);
    for (code, calls) in [
        (
            0,
            &[
                "check good.csv -q -o a.csv",
                "check bad.csv -q -o b.csv",
                "check none.csv -q -o c.csv",
                "check good.csv -q -o d.csv --fail-on reject",
                "explain ada@quarryfarm.org",
                "rules try --pattern loan OBS/0117/b",
                "lists test ada@mailinator.com",
                "lists check partners.csv",
                "register add guests.register good.csv",
                "register look guests.register ada@quarryfarm.org",
                "register verify guests.register",
                "compare good.csv --with members.csv --known-field email --fail-on none-found",
                "redact good.csv --as mask -q -o masked.csv",
                "redact search none.csv",
                "rules check",
                "rules export --for regex",
                "completions fish",
                "bounces letter.eml -q",
                "clean members.csv --field email -q -o cleaned",
                "settle cleaned --take sure -q",
            ][..],
        ),
        (
            1,
            &[
                "check bad.csv -q -o e.csv --fail-on reject",
                "check bad.csv -q -o f.csv --fail-on review",
                "check bad.csv -q -o g.csv --fail-on unknown-tld",
                "survey none.csv -q --fail-on none-found",
                "clean none.csv -q -o h --fail-on none-found",
                "dedupe bad.csv -q --fail-on reject",
                "extract none.csv -q -o i.csv --fail-on none-found",
                "domains none.csv -q --fail-on none-found",
                "links good.csv --behind nobody.example",
                "compare bad.csv --with members.csv --known-field email --fail-on reject",
                "explain ada@quarryfarm.zzzz",
                "rules try --pattern loan OBS/01x7/b",
                "lists test ada@quarryfarm.org",
                "lists show partners --like zzzz",
                "lists check twice.txt",
                "register add guests.register bad.csv",
                "register look guests.register bo@quarryfarm.org",
                "bounces returned.mbox -q",
                "bounces letter.eml -q --fail-on none-found",
                "settle cleaned --take sure -q --fail-on review",
                "redact search good.csv",
                "check --each",
            ],
        ),
        (
            2,
            &[
                "check no-such.csv",
                "check good.csv --field no-such",
                "check good.csv --rules no-such.toml",
                "check cut.csv.gz -q -o j.csv",
                "check good.csv -o good.csv --force",
                "clean",
                "nonsense",
            ],
        ),
        (3, &["check good.csv -q -o a.csv", "check good.csv -q -o no-such-folder/a.csv"]),
    ] {
        for call in calls {
            // The lines of a value that cannot be used, for what reads standard input.
            let run =
                place.run_with(call, "x".repeat(if *call == "check --each" { (1 << 20) + 1 } else { 0 }));
            assert_eq!(run.code, code, "{call}: {}{}", run.stdout, run.stderr);
        }
    }
}
