//! Every example of the help, the README and the guides, run on the demo's files as a newcomer would.

use std::path::Path;
use std::process::Command;

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
        ("sign-ups.txt", "ada@marshmill.example\nADA@marshmill.example\n"),
        ("sign-ups.csv", "email,joined\nbo@marshmill.example,2026-01-02\n"),
        ("a.csv", "email\nada@marshmill.example\n"),
        ("b.csv", "email\nADA@marshmill.example\n"),
        ("leave-out.csv", "recipient,what\nada.quarrel@marshmill.example,gone\n"),
        (
            "moved.csv",
            "recipient,what,new_address\nzeno.inglewood@quarryfarm.example,moved,zeno@quarryfarm.example\n",
        ),
        ("replies.csv", "email\nada.quarrel@marshmill.example\n"),
        ("returned.csv", "yp_record,yp_decision\n21,drop\n"),
        ("responses.csv", "email,answer\nada.quarrel@marshmill.example,yes\n"),
    ] {
        std::fs::write(place.path(name), content).unwrap();
    }
    for call in [
        "clean members.csv -q",
        "check members.csv --columns member_no,name,email -q -o app.sqlite#members",
        "check returned.csv --no-rules --prefix x_ --columns yp_record,yp_decision -q -o returned-review.xlsx",
    ] {
        let run = place.run(call);
        assert_eq!(run.code, 0, "{}", run.stderr);
    }
    let review = place.read("members-cleaned/review.csv");
    std::fs::write(place.path("members-cleaned/review.csv"), review.replacen(",9,,", ",9,keep,", 1)).unwrap();
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
    for command in [
        "survey",
        "extract",
        "check",
        "dedupe",
        "clean",
        "split",
        "lists",
        "explain",
        "rules",
        "rules export",
        "settle",
        "run",
        "compare",
        "register",
        "bounces",
    ] {
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
            // What stands behind `<` is its input.
            let (call, input) =
                words.split_at(words.iter().position(|word| word == "<").unwrap_or(words.len()));
            let input = input.get(1).map(|file| place.bytes(file)).unwrap_or_default();
            let run = place.run_words(&call.iter().map(String::as_str).collect::<Vec<_>>(), input);
            let told =
                matches!(&*words[0], "explain" | "rules" | "lists" | "bounces" | "register") && run.code == 1;
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

/// Every next step runs as it is printed and gives the number beside it: as many rows, or the number in what it says.
#[test]
fn next_steps_give_the_number_beside_them() {
    let place = place();
    std::fs::create_dir(place.path("the lists")).unwrap();
    std::fs::copy(place.path("members.csv"), place.path("the lists/members.csv")).unwrap();
    let mut tried = 0;
    for call in [
        &["survey", "the lists/members.csv"][..],
        &["survey", "members.csv", "--where", "class=free", "--person", "name"],
        &["check", "the lists/members.csv", "-o", "checked.csv"],
        &["check", "members.csv", "--field", "email", "--without", "free", "-o", "checked.csv"],
        &["clean", "the lists/members.csv", "--field", "email", "-o", "first"],
        &["clean", "members.csv", "--same", "exact", "--shared", "keep", "-o", "first"],
        &["dedupe", "the lists/members.csv"],
        &["dedupe", "members.csv", "--also", "notes", "--survivor", "last", "--id", "member_no"],
        &["split", "members.csv", "--parts", "first-name", "-o", "split.csv"],
        &["extract", "sign-up-sheet.txt", "-o", "found.csv"],
    ] {
        for output in ["checked.csv", "split.csv", "found.csv"] {
            let _ = std::fs::remove_file(place.path(output));
        }
        let _ = std::fs::remove_dir_all(place.path("first"));
        let run = place.run_words(call, "");
        assert_eq!(run.code, 0, "{call:?}: {}", run.stderr);
        let (above, steps) =
            run.stdout.split_once("\nNext\n").unwrap_or_else(|| panic!("{call:?}: {}", run.stdout));
        assert!(above.lines().count() <= 41, "{call:?} fits a page: {above}");
        assert!(above.lines().all(|line| line.chars().count() <= 100), "{call:?}: {above}");
        assert!((1..=3).contains(&steps.lines().count()), "{call:?}: {steps}");
        for line in steps.lines() {
            let (number, step) = line.trim().split_once("  ").unwrap();
            let (_, command) = step.split_once(":  ").unwrap_or_else(|| panic!("{line}"));
            assert!(gives(&place, command.trim(), number), "{call:?}: {line}");
            tried += 1;
        }
    }
    assert!(tried > 25, "{tried} next steps were told");
}

/// Whether a step, a file or a command, gives that number.
fn gives(place: &Place, step: &str, number: &str) -> bool {
    let rows = |text: &str| csv_rows(text).to_string() == number.replace(',', "");
    let Some(command) = step.strip_prefix("ypogram ") else { return rows(&place.read(step)) };
    let mut words = shlex::split(command).unwrap_or_else(|| panic!("{command}: quotes"));
    for pair in words.windows(2).filter(|pair| pair[0].starts_with('-')) {
        // What an earlier step wrote.
        if matches!(&*pair[0], "-o" | "--dropped" | "--report") {
            let _ = std::fs::remove_file(place.path(&pair[1]));
            let _ = std::fs::remove_dir_all(place.path(&pair[1]));
        }
    }
    for left in ["unique-review.csv", "members-cleaned"] {
        let _ = std::fs::remove_file(place.path(left));
        let _ = std::fs::remove_dir_all(place.path(left));
    }
    if words[0] == "settle" {
        // The other steps are about the folder as it was.
        let folder = words.last().unwrap();
        assert!(
            Command::new("cp")
                .args(["-r", folder, "settled"])
                .current_dir(place.path(""))
                .status()
                .unwrap()
                .success()
        );
        words.pop();
        words.push("settled".to_owned());
    }
    let run = place.run_words(&words.iter().map(String::as_str).collect::<Vec<_>>(), "");
    let _ = std::fs::remove_dir_all(place.path("settled"));
    assert_eq!(run.code, 0, "{step}: {}", run.stderr);
    if command.contains(" --show ") || command.contains("--show-skipped") {
        return rows(&run.stdout);
    }
    if let Some(at) = words.iter().position(|word| word == "--report") {
        return rows(&place.read(&words[at + 1]));
    }
    let told = format!("{}{}", run.stdout, run.stderr);
    told.split(|c: char| !c.is_ascii_digit() && c != ',').any(|word| word == number)
}

fn csv_rows(text: &str) -> usize {
    csv::ReaderBuilder::new().flexible(true).from_reader(text.as_bytes()).records().count()
}

/// Every line of a survey and of `check` opens as many records as it counts.
#[test]
fn every_line_opens_the_records_it_counts() {
    let place = place();
    let mut opened = 0;
    for call in [
        "survey members.csv --full --person name",
        "survey members.csv --full --where class!=free,field=notes,filled=yes",
        "survey members.csv --full --also notes --rare",
        "check members.csv --full --also notes -o checked.csv",
    ] {
        let base = call.replace(" --full", "").replace(" --rare", "").replace(" -o checked.csv", "");
        let run = place.run(call);
        assert_eq!(run.code, 0, "{call}: {}", run.stderr);
        for line in run.stdout.lines() {
            let Some((figure, condition)) = line.split_once("--show ") else { continue };
            if line.contains("--show …") || line.contains(": ypogram ") {
                continue;
            }
            let mut words: Vec<String> = base.split(' ').map(str::to_owned).collect();
            words.extend(["--show".to_owned(), shlex::split(condition).unwrap().remove(0), "-q".into()]);
            let shown = place.run_words(&words.iter().map(String::as_str).collect::<Vec<_>>(), "");
            assert_eq!(shown.code, 0, "{line}: {}", shown.stderr);
            // What is reported about a field that is not always filled is opened by its empty cells, which stand second.
            let numbers: Vec<u64> = figure
                .split("  ")
                .filter_map(|cell| cell.trim().split(' ').next()?.replace(',', "").parse().ok())
                .collect();
            let nth = if condition.ends_with("filled=no") && numbers.len() > 2 { 1 } else { 0 };
            let is_count = |number: &u64| *number == csv_rows(&shown.stdout) as u64;
            assert!(numbers.get(nth).is_some_and(is_count), "{call}: {line}: {}", csv_rows(&shown.stdout));
            opened += 1;
        }
    }
    assert!(opened > 150, "{opened}");
}
