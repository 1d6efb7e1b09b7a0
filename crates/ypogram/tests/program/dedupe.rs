//! `ypogram dedupe`: the view, survivors, marks, merging, several sources, and what cannot be.

use crate::{Place, table};

const LIST: &[u8] = b"id,email,name,phone,joined\n\
1,night.owl@gmail.com,Ada Lovell,,2020-01-01\n\
2,NightOwl+news@googlemail.com,\"Lovell, Ada\",01632 1,2022-05-01\n\
3,bea@h-works.org,Bea,,soon\n\
4,,Cleo,,\n\
5,nightowl@gmail.com,Dara,01632 2,2021-01-01\n\
6,dara..b@h-works.org,Dara,,\n\
7,Bea@h-works.org,Bea,,2019-03-04\n";

fn ids(place: &Place, name: &str) -> String {
    table(&place.read(name)).iter().map(|row| row["id"].clone()).collect::<Vec<_>>().join(" ")
}

#[test]
fn the_demo_list() {
    let place = Place::with_demo();
    let run = place.run("dedupe members.csv");
    insta::assert_snapshot!("dedupe_demo", run.stdout);
    assert!(run.stderr.contains("give a file with -o"), "{}", run.stderr);
    assert_eq!(place.run("dedupe members.csv --threads 5 --chunk-bytes 300 --memory 1K").stdout, run.stdout);
}

/// Where nothing stands between the lines of a text, those that stay are copied from it as they are; else each is written anew.
#[test]
fn lines_of_text_stay_lines() {
    let kept = "ada@h-works.org\nno address\nbea@gmail.com\n";
    for text in [
        "ada@h-works.org\nno address\nADA@h-works.org\nbea@gmail.com\nb.e.a@gmail.com\n",
        "ada@h-works.org\nno address\nAda@h-works.org\nbea@gmail.com",
        "\nada@h-works.org\n\nno address\nada@H-works.org\nbea@gmail.com\n\n",
        "ada@h-works.org\r\nno address\r\nbea@gmail.com\r\nbea@gmail.com\r\n",
        "\u{feff}ada@h-works.org\nno address\nbea@gmail.com\nbea@gmail.com\n",
    ] {
        let place = Place::with(&[("list.txt", text.as_bytes())]);
        for chunks in ["", "--chunk-bytes 20 --threads 3", "--survivor fullest"] {
            let run = place.run(&format!("dedupe list.txt -o out.txt -q --force {chunks}"));
            assert_eq!(run.code, 0, "{}", run.stderr);
            assert_eq!(place.read("out.txt"), kept, "{text:?} {chunks}");
        }
    }
}

#[test]
fn survivors_and_what_they_won_over() {
    let place = Place::with(&[("list.csv", LIST)]);
    for (survivor, kept) in [
        ("first", "1 3 4 6"),
        ("last", "4 5 6 7"),
        ("fullest", "2 3 4 6"),
        ("best", "2 3 4 6"),
        ("newest:joined", "2 4 6 7"),
        ("oldest:joined", "1 4 6 7"),
        ("where:name=dara,bea", "3 4 5 6"),
    ] {
        let run = place.run(&format!(
            "dedupe list.csv -o kept.csv --dropped dropped.csv --shared drop --survivor {survivor} --force"
        ));
        assert_eq!(run.code, 0, "{survivor}: {}", run.stderr);
        assert_eq!(ids(&place, "kept.csv"), kept, "{survivor}");
        assert_eq!(
            place.read("kept.csv").lines().next(),
            Some("id,email,name,phone,joined"),
            "whole records"
        );
        for row in table(&place.read("dropped.csv")) {
            assert!(kept.split(' ').any(|id| id == row["yp_same_as"]), "{survivor}: {row:?}");
        }
    }
    let told = place.run("dedupe list.csv -o kept.csv --survivor newest:joined --shared drop --force").stdout;
    assert!(told.contains("1 cell is neither a date nor a number"), "{told}");
    assert!(told.contains("3 + 3 + 1 = 7 records read ✓"), "{told}");

    // Another person's record stays as well, unless told otherwise.
    let run = place.run("dedupe list.csv -o kept.csv --no-address none.csv --force");
    assert_eq!(
        (run.code, ids(&place, "kept.csv"), ids(&place, "none.csv")),
        (0, "1 3 5 6".into(), "4".into())
    );
    let run = place.run("dedupe list.csv -o kept.csv --shared review --id id --dropped dropped.csv --force");
    assert_eq!(
        (run.code, ids(&place, "kept.csv"), ids(&place, "kept-review.csv")),
        (0, "1 3 4 6".into(), "5".into())
    );
    assert_eq!(table(&place.read("kept-review.csv"))[0]["yp_same_as"], "1");
    let run = place.run("dedupe list.csv -o kept.csv --review review.csv --force");
    assert!(run.stderr.contains("add --shared review"), "{}", run.stderr);
    place.run("dedupe list.csv -o kept.csv --within name --force");
    assert_eq!(
        ids(&place, "kept.csv"),
        "1 2 3 4 5 6",
        "only Bea is there twice under one spelling of the name"
    );
    place.run("dedupe list.csv -o kept.csv --by name --same case --force");
    assert_eq!(ids(&place, "kept.csv"), "1 2 3 4 5 6");
}

#[test]
fn marks_reports_and_differences() {
    let place = Place::with(&[("list.csv", LIST)]);
    assert_eq!(
        place
            .run("dedupe list.csv --mark -o marked.csv --groups groups.csv --rule-differences rules.csv")
            .code,
        0
    );
    let told: Vec<_> = table(&place.read("marked.csv"))
        .iter()
        .map(|row| [&row["yp_key"], &row["yp_same_as"], &row["yp_same_count"]].map(String::as_str).join("|"))
        .collect();
    let expected = [
        "nightowl@gmail.com||3",
        "nightowl@gmail.com|1|3",
        "bea@h-works.org||2",
        "||",
        "nightowl@gmail.com|1|3",
        "||1",
        "bea@h-works.org|3|2",
    ];
    assert_eq!(told, expected);
    insta::assert_snapshot!("dedupe_groups", place.read("groups.csv"));
    insta::assert_snapshot!("dedupe_rule_differences", place.read("rules.csv"));
}

#[test]
fn merges_and_writes_down_what_it_filled() {
    let place = Place::with(&[("list.csv", LIST)]);
    let run = place.run("dedupe list.csv -o kept.csv --merge --collect name --shared drop");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let kept = table(&place.read("kept.csv"));
    assert_eq!((&*kept[0]["phone"], &*kept[0]["name"]), ("01632 1", "Ada Lovell; Lovell, Ada; Dara"));
    assert_eq!(
        place.read("kept-changes.csv"),
        "record,field,value,from_record\n1,name,\"Lovell, Ada\",2\n1,name,Dara,5\n1,phone,01632 1,2\n"
    );
    assert!(run.stdout.contains("3 cells that were filled written to kept-changes.csv"), "{}", run.stdout);
}

#[test]
fn probable_twins_are_proposed_and_kept() {
    let list = "email,name\nada.lovell@gmail.com,Ada\nada.lovell@gmial.com,\nbea@outlook.com,\nbea@hotmail.com,\n\
                cleo.ash@h-works.org,Cleo Ash\ncleo.ahs@h-works.org,\"Ash, Cleo\"\ncleo.oak@h-works.org,Cleo Ash\n";
    let place = Place::with(&[("list.csv", list.as_bytes())]);
    let run = place.run("dedupe list.csv --near twins.csv -o kept.csv");
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert_eq!(table(&place.read("kept.csv")).len(), 7, "none is dropped");
    let rows = table(&place.read("twins.csv"));
    let told: Vec<_> =
        rows.iter().map(|r| [&*r["likeness"], &*r["record"], &*r["other_record"]].join(" ")).collect();
    assert_eq!(told, ["typing-slip 2 1", "same-operator 4 3", "same-person 6 5"]);
    assert!(run.stdout.contains("Probable twins (3 pairs"), "{}", run.stdout);
}

#[test]
fn several_sources_and_text() {
    let place = Place::with(&[
        ("a.csv", b"email,name\nada@h-works.org,A\n"),
        ("b.csv", b"name,email,city\nA,ADA@h-works.org,X\nC,cleo@h-works.org,Y\n"),
        ("list.txt", b"ada@h-works.org\n\nADA@h-works.org\nbea@h-works.org\n"),
    ]);
    let run = place.run("dedupe a.csv b.csv -o kept.csv --field email");
    assert_eq!(
        place.read("kept.csv"),
        "email,name,city,yp_source\nada@h-works.org,A,,a.csv\ncleo@h-works.org,C,Y,b.csv\n"
    );
    assert!(run.stdout.contains("a.csv has no field city"), "{}", run.stdout);
    let twice = place.run("dedupe a.csv ./a.csv -o twice.csv").stdout;
    assert!(twice.contains("is given twice"), "{twice}");
    assert_eq!(place.run("dedupe list.txt -o out.txt -q").code, 0);
    assert_eq!(place.read("out.txt"), "ada@h-works.org\nbea@h-works.org\n", "text stays text");
    for extra in ["", "--survivor last"] {
        let run = place.run_with(&format!("dedupe - -o - -q {extra}"), "ada@h-works.org\nADA@h-works.org\n");
        let stays = if extra.is_empty() { "ada@h-works.org\n" } else { "ADA@h-works.org\n" };
        assert_eq!(run.stdout, stays, "{}", run.stderr);
    }
}

#[test]
fn what_cannot_be_is_told_and_nothing_is_left() {
    let place = Place::with(&[
        ("list.csv", LIST),
        ("ypogram.toml", b"[same-mailbox.domains]\n\"a.org\" = \"nobody\"\n"),
    ]);
    for (call, told) in [
        ("dedupe list.csv --no-rules --survivor newest:joinde -o out.csv", "did you mean"),
        ("dedupe list.csv --no-rules --survivor oddly", "give first, last, fullest"),
        ("dedupe list.csv --no-rules --by nmae -o out.csv", "there is no field ‘nmae’"),
        ("dedupe list.csv --no-rules -o out.csv --dropped out.csv", "named for two outputs"),
        ("dedupe list.csv --no-rules --memory lots", "give a size such as 256M"),
        ("dedupe list.csv", "a.org: no mailbox rule of ‘nobody’ is known"),
        ("dedupe list.csv --no-rules --mark", "--output"),
    ] {
        let run = place.run(call);
        assert_eq!(run.code, 2, "{call}: {}", run.stdout);
        assert!(run.stderr.contains(told), "{call}: {}", run.stderr);
    }
    assert!(!place.path("out.csv").exists());

    // What is finished early is not published where a later output cannot be.
    let call = "dedupe list.csv --no-rules --near near.csv --rule-differences rules.csv --groups there.csv";
    std::fs::write(place.path("there.csv"), "by hand").unwrap();
    assert_eq!(place.run(call).code, 3);
    for name in ["near.csv", "rules.csv"] {
        assert!(!place.path(name).exists(), "{name}");
    }
}

#[test]
fn scripts_get_data_and_codes() {
    let slip = b"email\nada@h-works.org\nowl@gmial.com\nada@h-works.org\n";
    let place = Place::with(&[("slip.csv", slip), ("list.csv", LIST)]);
    for (call, code) in [
        ("dedupe slip.csv --fail-on reject", 0),
        ("dedupe slip.csv --fail-on review", 1),
        ("dedupe list.csv --fail-on reject", 1),
        ("dedupe slip.csv -o kept.csv --fail-on review", 1),
    ] {
        assert_eq!(place.run(call).code, code, "{call}");
    }
    let run = place.run("dedupe slip.csv --groups -");
    assert_eq!(table(&run.stdout).len(), 2, "standard output carries the data alone: {}", run.stdout);
    assert!(run.stderr.contains("Same mailbox"), "{}", run.stderr);
    let json: serde_json::Value = serde_json::from_str(&place.run("dedupe slip.csv --json").stdout).unwrap();
    let counts = ["/records", "/mailboxes", "/outcomes/duplicate", "/verdicts/review", "/no_address"]
        .map(|name| json["counts"].pointer(name).unwrap().as_u64().unwrap());
    assert_eq!(counts, [3, 2, 1, 1, 0]);
}
