//! What is printed fits the terminal that it is printed to. `script` plays the terminal, where it is installed.

#![cfg(target_os = "linux")]

use std::process::Command;

use crate::Place;

/// Calls whose output has to fit; a command that is to be copied may be longer.
const CALLS: [&str; 17] = [
    "survey members.csv",
    "survey members.csv --also notes",
    "survey loans.csv --rules loans.toml",
    "survey members.csv --against loans.csv",
    "check members.csv -o a.csv --force",
    "check roster.csv -o b.csv --force",
    "check members.csv --first 8",
    "clean members.csv --field email -o out --force",
    "dedupe members.csv",
    "compare loans.csv --with members.csv --known-field email",
    "extract sign-up-sheet.txt -o c.csv --force",
    "bounces returned.mbox",
    "domains members.csv --first 5",
    "links members.csv --by phone",
    "split loans.csv --parts first-name,last-name -o d.csv --force",
    "explain night.owl@gmial,com ada@gmail.com",
    "rules",
];

/// What a terminal of so many columns gets; nothing where none can be played.
fn printed(place: &Place, columns: usize, call: &str) -> Option<String> {
    let program = env!("CARGO_BIN_EXE_ypogram");
    let played = format!("stty cols {columns} rows 50; {program} --color never {call}");
    let output = Command::new("script")
        .args(["-qec", &played, "/dev/null"])
        .current_dir(place.path(""))
        .output()
        .ok()?;
    let text = String::from_utf8(output.stdout).expect("UTF-8").replace('\r', "");
    (!text.is_empty()).then_some(text)
}

/// Columns that a line takes: the demo's are all one wide, but for marks that stand on the character before.
fn width(line: &str) -> usize {
    line.chars().filter(|c| !('\u{300}'..='\u{36f}').contains(c)).count()
}

#[test]
fn lines_fit_the_terminal() {
    let place = Place::with_demo();
    if printed(&place, 80, "--version").is_none() {
        return eprintln!("script is not there: no terminal was played");
    }
    for columns in [60, 80, 100, 160] {
        for call in CALLS {
            let text = printed(&place, columns, call).unwrap();
            assert!(text.lines().count() > 2, "{call}: {text}");
            let is_command = |line: &str| line.contains("ypogram ") || line.trim_start().starts_with("--");
            let wide = text.lines().find(|line| width(line) > columns && !is_command(line));
            assert_eq!(wide, None, "{call} in {columns} columns");
        }
    }
}

/// A wider terminal shows more of a line, and a file has the width of a page whatever the terminal.
#[test]
fn width_is_used() {
    let place = Place::with_demo();
    let call = "survey members.csv";
    let Some(narrow) = printed(&place, 80, call) else {
        return eprintln!("script is not there: no terminal was played");
    };
    let wide = printed(&place, 160, call).unwrap();
    let widest = |text: &str| text.lines().map(width).max().unwrap();
    assert!(widest(&narrow) <= 80 && widest(&wide) > 110, "{} {}", widest(&narrow), widest(&wide));
    assert!(wide.contains("angle-brackets 39, trimmed 36, local-part-case 28"), "{wide}");
    // Where there is no room for both, bars go before figures do.
    assert!(narrow.contains("as it stood") && wide.contains('█'), "{narrow}");
    let in_file = printed(&place, 60, &format!("{call} > summary.txt"));
    assert_eq!(in_file, None, "nothing is printed");
    assert_eq!(place.read("summary.txt"), place.run(call).stdout);
}

/// Where next steps need a line for their command, it stands below the words, and the figures end in one column.
#[test]
fn next_steps_stand_below_one_another() {
    let place = Place::with_demo();
    let call = "compare open-nights.csv --with members.csv --withdrawn withdrawn.txt -o out";
    let Some(text) = printed(&place, 80, call) else {
        return eprintln!("script is not there: no terminal was played");
    };
    let steps: Vec<&str> = text.lines().skip_while(|line| *line != "Next").skip(1).collect();
    assert_eq!(
        steps,
        [
            "   17  new, to be used:",
            "       out/new.csv",
            "  400  known, and missing among the new:",
            "       ypogram compare open-nights.csv --with members.csv --withdrawn withdrawn.txt --missing missing.csv",
        ]
    );
}
