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

#[test]
fn probable_twins_are_proposed_with_their_evidence() {
    let known = "nr,name,email,mobile,street\n1,Ada Lovell,ada@h-works.org,01632 960413,3 Mill Road\n2,Bea Lovell,bea@h-works.org,01632 960413,3 Mill Road\n3,Cy Quist,cy@h-works.org,,\n";
    let many: String = (0..20).map(|nr| format!("{nr},,desk{nr}@h-works.org,01632 960999,\n")).collect();
    let place = Place::with(&[
        (
            "new.csv",
            "borrower,mail,phone,address\nA. Lovell,ada.l@mill-post.org,+44 1632 960413,\nCY QUIST,cy@@h-works.org,,\nBea Lovell,bea@h-works.org,,\nDesk,desk@mill-post.org,01632 960999,\nNobody Else,ne@mill-post.org,,3 Mill Rd\n"
                .as_bytes(),
        ),
        ("known.csv", [known, &many].concat().as_bytes()),
    ]);
    let call = "compare new.csv --field mail --with known.csv --near twins.csv --near-field name=borrower --near-field name=name";
    let run = place.run(call);
    assert!(run.code == 0 && run.stdout.contains("Probable twins (2 pairs"), "{}{}", run.stdout, run.stderr);
    assert!(
        run.stdout.contains("by 1 name, number or street that more than 16 known records share"),
        "{}",
        run.stdout
    );
    // Whose mailbox is known is nobody's probable twin, and those who share a house are two.
    assert_eq!(
        place.read("twins.csv"),
        "record,known_source,known_record,evidence,name,known_name,telephone,known_telephone,street,known_street,address,known_address\n\
         1,known.csv,1,close-name same-telephone,A. Lovell,Ada Lovell,+44 1632 960413,01632 960413,,3 Mill Road,ada.l@mill-post.org,ada@h-works.org\n\
         2,known.csv,3,same-name,CY QUIST,Cy Quist,,,,,cy@@h-works.org,cy@h-works.org\n"
    );
    // The same where next to nothing fits into memory, and the next step leaves out what goes with --near alone.
    let near = place.read("twins.csv");
    let run = place.run(&format!("{call} --force --memory 1M"));
    assert!(run.code == 0 && place.read("twins.csv") == near, "{}", run.stderr);
    assert!(!run.stdout.contains("--near-field"), "{}", run.stdout);
    let figure = place.run(&format!("{call} --force --figure probable-twins"));
    assert_eq!(figure.stdout, "2\n");
    for (option, expected) in [
        ("--near-field name=borower", "did you mean --near-field name=borrower?"),
        ("--near-field phon=mobile", "did you mean telephone=mobile?"),
        ("--near-field street", "as in name=borrower"),
    ] {
        let run = place.run(&format!("compare new.csv --field mail --with known.csv --near x.csv {option}"));
        assert!(run.code > 1 && run.stderr.contains(expected), "{option}: {}", run.stderr);
        assert!(!place.path("x.csv").exists());
    }
}
