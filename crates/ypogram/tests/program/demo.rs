//! `ypogram demo`: works from the program alone, twice, and leaves what the user changed.

use crate::Place;

#[test]
fn shows_the_full_example() {
    let place = Place::with(&[]);
    let run = place.run("demo");
    assert_eq!(run.code, 0, "{}", run.stderr);
    insta::assert_snapshot!(run.stdout);
    // What it proposes runs where it says.
    let (_, steps) = run.stdout.split_once("Go on from here\n  cd fernhollow-demo\n").unwrap();
    let mut tried = 0;
    for command in steps.lines().filter_map(|line| line.trim().split("  ").next()?.strip_prefix("ypogram ")) {
        if command.contains("your-own") {
            continue;
        }
        let mut words = shlex::split(command).unwrap();
        if words[0] == "settle" {
            words.pop();
            words.push("fernhollow-demo/cleaned".to_owned());
            let step = place.run_words(&words.iter().map(String::as_str).collect::<Vec<_>>(), "");
            assert_eq!(step.code, 0, "{command}: {}", step.stderr);
            continue;
        }
        let step = Place::with_demo().run_words(&words.iter().map(String::as_str).collect::<Vec<_>>(), "");
        assert!(
            step.code <= 1 && step.stderr.is_empty() || command.starts_with("extract"),
            "{command}: {}",
            step.stderr
        );
        tried += 1;
    }
    assert!(tried >= 5, "{tried}");

    std::fs::write(place.path("fernhollow-demo/members.csv"), "email,notes\nada@fernhollow.example,\n")
        .unwrap();
    let again = place.run("demo");
    assert_eq!(again.code, 0, "{}", again.stderr);
    assert!(again.stdout.contains("1 = 1 record read"), "{}", again.stdout);
}
