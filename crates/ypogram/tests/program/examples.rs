//! Every example of the help, the README and the guides, run on the demo's files as a newcomer would.

use std::path::Path;

use crate::Place;

/// The demo's files, and small ones under the other names that examples use.
fn place() -> Place {
    let place = Place::with_demo();
    std::fs::create_dir(place.path("mails")).unwrap();
    let mail = "From: Ada <ada.quarrel@marshmill.example>\n\nWrite to bo@marshmill.example.\n";
    let page = "<a href=\"mailto:info@marshmill.example\">write</a> or see photo@2x.png";
    for (name, content) in [
        ("mails/one.eml", mail),
        ("page.html", page),
        ("notes.txt", "Bo asked for bo@marshmill.example\n"),
        ("chat.log", "ada: bo@marshmill.example?\nbo: BO@marshmill.example\n"),
        ("list.txt", "ada@marshmill.example\nbroken\n"),
        ("sign-ups.csv", "email,joined\nbo@marshmill.example,2026-01-02\n"),
        ("a.csv", "email\nada@marshmill.example\n"),
        ("b.csv", "email\nADA@marshmill.example\n"),
        ("replies.csv", "email\nada.quarrel@marshmill.example\n"),
        ("responses.csv", "email,answer\nada.quarrel@marshmill.example,yes\n"),
    ] {
        std::fs::write(place.path(name), content).unwrap();
    }
    let run = place.run("clean members.csv -q");
    assert_eq!(run.code, 0, "{}", run.stderr);
    place
}

/// The commands among indented lines; what stands behind three spaces says what they do.
fn examples(text: &str, indent: usize) -> Vec<String> {
    let start = " ".repeat(indent) + "ypogram ";
    let commands = text.lines().filter_map(|line| line.strip_prefix(&start));
    commands.map(|line| line.split("   ").next().unwrap().trim().to_owned()).collect()
}

#[test]
fn every_example_can_be_copied() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut groups = Vec::new();
    let guides = std::fs::read_dir(root.join("docs")).unwrap().map(|entry| entry.unwrap().path());
    for path in
        guides.filter(|path| path.extension().is_some_and(|e| e == "md")).chain([root.join("README.md")])
    {
        groups.push((path.display().to_string(), examples(&std::fs::read_to_string(&path).unwrap(), 4)));
    }
    for command in ["survey", "extract", "check", "dedupe", "clean", "split", "lists", "explain", "rules"] {
        let help = Place::with(&[]).run(&format!("{command} --help")).stdout;
        groups.push((format!("{command} --help"), examples(&help, 2)));
    }
    let (mut tried, mut failed) = (0, Vec::new());
    for (from, commands) in groups {
        let place = place();
        for command in commands {
            let words = shlex::split(&command).unwrap_or_else(|| panic!("{from}: {command}: quotes"));
            // Examples that write the same file stand for themselves.
            for output in ["cleaned", "members-cleaned", "a-cleaned"] {
                if words[0] == "clean" {
                    let _ = std::fs::remove_dir_all(place.path(output));
                }
            }
            if let Some(at) = words.iter().position(|word| word == "-o") {
                let _ = std::fs::remove_file(place.path(&words[at + 1]));
            }
            let run = place.run_words(&words.iter().map(String::as_str).collect::<Vec<_>>(), "");
            let told = matches!(&*words[0], "explain" | "rules" | "lists") && run.code == 1;
            // The demo has a rulebook already.
            let there = command.starts_with("rules start") && run.stderr.contains("the file exists");
            if run.code != 0 && !told && !there {
                failed.push(format!("{from}: ypogram {command}: {} {}", run.code, run.stderr));
            }
            tried += 1;
        }
    }
    assert!(failed.is_empty(), "{}", failed.join("\n"));
    assert!(tried > 60, "{tried} examples were found");
}

#[test]
fn the_next_steps_that_are_told_can_be_copied() {
    let place = place();
    std::fs::create_dir(place.path("the lists")).unwrap();
    std::fs::copy(place.path("members.csv"), place.path("the lists/members.csv")).unwrap();
    let mut tried = 0;
    for words in [
        &["survey", "the lists/members.csv"][..],
        &["check", "the lists/members.csv", "-o", "checked.csv"],
        &["dedupe", "the lists/members.csv"],
    ] {
        let run = place.run_words(words, "");
        assert_eq!(run.code, 0, "{words:?}: {}", run.stderr);
        for line in run.stdout.lines() {
            let Some((_, command)) = line.split_once(": ypogram ") else { continue };
            let command = command.replace("--show …", "--show finding=double-dot");
            let words = shlex::split(&command).unwrap_or_else(|| panic!("{command}: quotes"));
            let _ = std::fs::remove_dir_all(place.path("members-cleaned"));
            let run = place.run_words(&words.iter().map(String::as_str).collect::<Vec<_>>(), "");
            assert_eq!(run.code, 0, "{line}: {}", run.stderr);
            tried += 1;
        }
    }
    assert!(tried >= 5, "{tried} next steps were told");
}
