//! `ypogram demo`: works from the program alone, twice, and leaves what the user changed.

use crate::Place;

#[test]
fn shows_the_full_example() {
    let place = Place::with(&[]);
    let run = place.run("demo");
    assert_eq!(run.code, 0, "{}", run.stderr);
    insta::assert_snapshot!(run.stdout);

    std::fs::write(place.path("fernhollow-demo/members.csv"), "email,notes\nada@fernhollow.example,\n")
        .unwrap();
    let again = place.run("demo");
    assert_eq!(again.code, 0, "{}", again.stderr);
    assert!(again.stdout.contains("1 = 1 record read"), "{}", again.stdout);
}
