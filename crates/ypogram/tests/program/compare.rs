//! `ypogram compare` on files.

use crate::{Place, table};

#[test]
fn hashes_and_withdrawn_lists_are_known_in_any_spelling() {
    let place = Place::with(&[
        ("new.csv", b"nr,email\n1,a.da+x@gmail.com\n2,bea@h-works.org\n3,Bea@h-works.org\n4,cleo@h-works.org\n5,x@@y\n6,dora@mill.h-mill.org\n7,new@h-works.org\n"),
        ("known.csv", b"name,email\nBea,bea@h-works.org\nOld,old@h-works.org\n,none\n"),
        ("withdrawn.txt", b"# by phone\nCleo@h-works.org\n*.h-mill.org\n"),
    ]);
    let sum = std::process::Command::new("sh")
        .args(["-c", "printf ada@gmail.com | sha256sum | cut -d' ' -f1; printf nobody@h-works.org | sha256sum | cut -d' ' -f1"])
        .output();
    let Some(sum) = sum.ok().filter(|sum| sum.stdout.len() > 128) else {
        return eprintln!("sha256sum is not there");
    };
    std::fs::write(place.path("hashed.txt"), &sum.stdout).unwrap();
    let call = "compare new.csv --field email --with known.csv --with hashed.txt --withdrawn withdrawn.txt";
    let run = place.run(&format!("{call} -o out"));
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert!(
        run.stdout.starts_with("1 new · 3 known · 2 withdrawn · 0 duplicate · 1 unusable — 7 records"),
        "{}",
        run.stdout
    );
    assert!(
        run.stdout
            .contains("hashed.txt holds only hashes (2): other spellings of a hashed address cannot match"),
        "{}",
        run.stdout
    );
    let known = table(&place.read("out/known.csv"));
    let told: Vec<[&str; 4]> = known
        .iter()
        .map(|row| ["nr", "yp_known_source", "yp_known_record", "yp_known_rule"].map(|name| &*row[name]))
        .collect();
    assert_eq!(
        told,
        [
            ["1", "hashed.txt", "1", "sha-256"],
            ["2", "known.csv", "1", "exact"],
            ["3", "known.csv", "1", "case"]
        ]
    );
    let said: serde_json::Value = serde_json::from_str(&place.run(&format!("{call} --json")).stdout).unwrap();
    let counts = &said["counts"];
    assert_eq!(counts["states"]["withdrawn"], 2);
    assert_eq!(
        [
            &counts["known_records"],
            &counts["known_in_both"],
            &counts["known_missing"],
            &counts["known_unusable"]
        ],
        [5, 2, 2, 1]
    );
    assert_eq!(place.run(&format!("{call} --figure known-missing")).stdout, "2\n");
    // Withdrawn by hash, marked in one file, and to standard output.
    std::fs::write(place.path("left.txt"), &sum.stdout).unwrap();
    let run =
        place.run("compare new.csv --field email --with known.csv --withdrawn left.txt --mark -o - --to csv");
    assert!(run.stdout.contains("\n1,a.da+x@gmail.com,withdrawn,"), "{}{}", run.stdout, run.stderr);
    assert!(run.stderr.contains("1 withdrawn"), "{}", run.stderr);
    let again = place.run(&format!("{call} -o out"));
    assert!(again.code == 3 && again.stderr.contains("out: the folder is not empty"), "{}", again.stderr);
    assert_eq!(place.run(&format!("{call} -o out --force -q")).code, 0);
    for (call, told) in [
        ("compare new.csv", "--with <KNOWN>"),
        ("compare new.csv --with none.csv", "none.csv: file not found"),
        ("compare new.csv --with known.csv --known-field mail", "there is no field ‘mail’"),
        ("compare new.csv --with known.csv -o a.csv", "add --mark for one file of all records"),
        ("compare new.csv --with known.csv --mark -o known.csv --force", "known.csv"),
        ("compare new.csv --with known.csv --missing new.csv --force", "new.csv"),
    ] {
        let run = place.run(call);
        assert!(run.code > 1 && run.stderr.contains(told), "{call}: {}", run.stderr);
    }
}

#[test]
fn a_single_address_and_a_column_of_a_database() {
    let place = Place::with(&[("new.csv", b"email\nADA@h-works.org\nnew@h-works.org\n")]);
    let app = rusqlite::Connection::open(place.path("app.sqlite")).unwrap();
    app.execute_batch(
        "CREATE TABLE members (nr, office, mail); INSERT INTO members VALUES (1, 'new@h-works.org', 'ada@h-works.org');
         CREATE TABLE 'members.office' (mail); INSERT INTO 'members.office' VALUES ('bea@h-works.org')",
    )
    .unwrap();
    drop(app);
    for (call, states) in [
        ("new.csv --with app.sqlite#members.mail", "1 new · 1 known · 0"),
        // A table that is called so counts before a column.
        ("new.csv --with app.sqlite#members.office", "2 new · 0 known · 0"),
        ("Ada@h-works.org --with app.sqlite#members.mail", "0 new · 1 known · 0"),
        ("ada@h-works.org ADA@H-Works.org cy@h-works.org --with new.csv", "1 new · 2 known · 0"),
        ("asdf@@ --with new.csv", "0 new · 0 known · 0 withdrawn · 0 duplicate · 1 unusable"),
    ] {
        let run = place.run(&format!("compare {call}"));
        assert!(run.code == 0 && run.stdout.starts_with(states), "{call}: {}{}", run.stdout, run.stderr);
    }
    for (call, expected) in [
        ("new.csv --with app.sqlite#members.male", "did you mean --field mail?"),
        ("new.csv --with app.sqlite#member.mail", "its tables are: members, members.office"),
        ("gone@home.csv --with new.csv", "gone@home.csv: file not found"),
    ] {
        let run = place.run(&format!("compare {call}"));
        assert!(run.code == 2 && run.stderr.contains(expected), "{call}: {}", run.stderr);
    }
}
