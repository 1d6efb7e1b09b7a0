//! `ypogram explain` and `ypogram rules`: what people read.

use crate::Place;

#[test]
fn three_kinds() {
    let place = Place::with(&[]);
    let accepted = place.run("explain \"Owl,␣Night\"␣<Night.Owl+News@GMail.com>");
    assert_eq!(accepted.code, 0);
    insta::assert_snapshot!("explain-accepted", accepted.stdout);
    let rejected = place.run("explain Ada..Lovell@fern_hollow.org");
    assert_eq!(rejected.code, 1);
    insta::assert_snapshot!("explain-rejected", rejected.stdout);
    let slip = place.run("explain owl@gmial.com --json");
    assert_eq!(slip.code, 0);
    insta::assert_snapshot!("explain-slip-json", slip.stdout);
}

#[test]
fn wide_letters_and_overrides_keep_the_marks_in_place() {
    let place = Place::with(&[]);
    let run = place.run("explain 星\u{202E}x@h.org");
    assert!(!run.stdout.contains('\u{202E}'));
    let lines: Vec<&str> = run.stdout.lines().collect();
    assert_eq!((lines[0], lines[1]), ("  星\\u{202e}x@h.org   rejected", "    ^^^^^^^^ 1"), "{}", run.stdout);
}

#[test]
fn rules_tell_what_is_in_force() {
    let place = Place::with(&[("ypogram.toml", b"[severity]\nrole-account = 'reject'\n")]);
    let run = place.run("rules");
    assert!(run.stdout.contains("reject *  role-account"), "{}", run.stdout);
    assert!(place.run("rules double-dots").stderr.contains("did you mean ‘double-dot’?"));
    assert!(
        place
            .run("rules role-account --json")
            .stdout
            .contains("\"severity\": \"reject\",\n    \"default_severity\": \"note\"")
    );

    let place = Place::with(&[]);
    assert_eq!(place.run("rules start").code, 0);
    let run = place.run("rules check");
    assert!(
        run.stdout.contains("understood; it changes 0 severities, and keeps 0 patterns and 0 lists"),
        "{}",
        run.stderr
    );
    assert_eq!(place.run("rules start").code, 3, "a rulebook is not overwritten");
    // Every setting that the start shows is one that is understood.
    let on: String = place
        .read("ypogram.toml")
        .lines()
        .map(|line| match line.strip_prefix("# ") {
            Some(setting) if setting.contains(" = ") => format!("{setting}\n"),
            _ => format!("{line}\n"),
        })
        .collect();
    std::fs::write(place.path("on.toml"), on).unwrap();
    let run = place.run("rules check on.toml");
    assert!(run.stderr.contains("on.toml: line ") && run.stderr.contains("partners.csv"), "{}", run.stderr);
    std::fs::write(place.path("partners.csv"), "domain,our contact\nlensworks.example,Ida\n").unwrap();
    std::fs::write(place.path("withdrawn.txt"), "").unwrap();
    let run = place.run("rules check on.toml");
    assert!(
        run.stdout.contains("changes 2 severities, and keeps 2 patterns and 2 lists"),
        "{} {}",
        run.stdout,
        run.stderr
    );
}
