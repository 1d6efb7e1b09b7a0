//! The house's own address format, through the program.

use serde_json::Value;

use crate::{Place, table};

const DOTTED: &str = r#"given "." family "@fernhollow.example""#;

/// What the program says of each record of `list`, by the columns that are asked for.
fn checked(place: &Place, list: &str, options: &[&str], columns: &[&str]) -> Vec<Vec<String>> {
    let words = [&["check", list, "-q", "-o", "out.csv"], options].concat();
    let run = place.run_words(&words, Vec::new());
    assert_eq!(run.code, 0, "{options:?}: {}", run.stderr);
    let rows = table(&place.read("out.csv"));
    std::fs::remove_file(place.path("out.csv")).unwrap();
    rows.iter().map(|row| columns.iter().map(|column| row[*column].clone()).collect()).collect()
}

/// The roster of the demo has each kind of fault; the summary counts them, and names who would get one address.
#[test]
fn the_roster_has_each_kind_of_fault() {
    let place = Place::with_demo();
    let run = place.run_words(&["check", "roster.csv", "--house", DOTTED, "-o", "checked.csv"], Vec::new());
    insta::assert_snapshot!("house_roster", run.stdout);
    let rows = table(&place.read("checked.csv"));
    let words: Vec<&str> = rows.iter().map(|row| &*row["yp_house"]).collect();
    for part in
        ["fits", "order", "separator", "given", "family", "surplus", "sub-domain", "domain", "given family"]
    {
        assert!(words.contains(&part), "{part}: {words:?}");
    }
    let proposed = rows.iter().filter(|row| !row["yp_house_proposal"].is_empty()).count();
    let faulty =
        rows.iter().filter(|row| row["yp_findings"].split(' ').any(|code| code == "house-format")).count();
    assert_eq!((proposed, faulty), (14, 14));
    // What is proposed fits, and so do the decisions that take it.
    let right: String = rows.iter().filter(|row| !row["email"].is_empty()).fold(
        "given,family,email\n".to_owned(),
        |out, row| {
            let address =
                if row["yp_house_proposal"].is_empty() { &row["email"] } else { &row["yp_house_proposal"] };
            out + &format!("{},{},{address}\n", row["given"], row["family"])
        },
    );
    std::fs::write(place.path("right.csv"), right).unwrap();
    let all = checked(&place, "right.csv", &["--house", DOTTED], &["yp_house"]);
    assert!(all.iter().all(|row| row[0] == "fits"), "{all:?}");

    let run = place.run_words(&["clean", "roster.csv", "--house", DOTTED, "-o", "out", "--json"], Vec::new());
    let said: Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!(said["counts"]["house"]["fits"], 7);
    assert_eq!(
        said["counts"]["house_clashes"].to_string(),
        r#"[{"address":"ugo.inglewood@fernhollow.example","earlier":20,"later":21}]"#
    );
    assert_eq!(table(&place.read("out/review.csv")).len(), 14);
    let receipt: Value = serde_json::from_str(&place.read("out/receipt.json")).unwrap();
    assert_eq!(receipt["rulebook"]["house"]["format"][0], DOTTED);
}

/// Whoever keeps an address that does not fit is not asked again, and whoever types another one has that one held against the format.
#[test]
fn decisions_answer_what_does_not_fit() {
    let place = Place::with_demo();
    let words = ["clean", "roster.csv", "--house", DOTTED, "-o", "out", "-q"];
    assert_eq!(place.run_words(&words, Vec::new()).code, 0);
    std::fs::write(
        place.path("back.csv"),
        "yp_record,yp_decision\n6,keep\n7,hugo.zeller@fernhollow.example\n8,petra_a@fernhollow.example\n",
    )
    .unwrap();
    let run = place.run("settle out back.csv --json");
    let said: Value = serde_json::from_str(&run.stdout).unwrap_or_else(|_| panic!("{}", run.stderr));
    assert_eq!(said["counts"]["house"]["fits"], 8, "{}", run.stdout);
    let house = |file: &str| -> Vec<(String, String)> {
        let rows = table(&place.read(file));
        rows.iter().map(|row| (row["yp_record"].clone(), row["yp_house"].clone())).collect()
    };
    let decided: Vec<_> = house("out/kept.csv")
        .into_iter()
        .filter(|(record, _)| ["6", "7", "8"].contains(&&**record))
        .collect();
    let expected = [("6", "order"), ("7", "fits"), ("8", "family separator")];
    assert_eq!(decided, expected.map(|(record, words)| (record.to_owned(), words.to_owned())));
    assert_eq!(house("out/review.csv").len(), 11);
}

#[test]
fn the_rulebook_says_where_names_stand_and_how_they_are_written() {
    let list = "staff no,Rufname,surname,mail\n17,Jürgen,Müßig,juergen.muessig@fernhollow.example\n18,Zoë,Marsh,zoe.marsh@gmail.com\n19,Bo,Marsh,bo.marsh@mail.fernhollow.example\n";
    let column = ["yp_house", "yp_house_proposal"];
    for (rules, expected) in [
        (
            "format = '''F'''",
            [
                ["given family", "jurgen.mussig@fernhollow.example"],
                ["", ""],
                ["sub-domain", "bo.marsh@fernhollow.example"],
            ],
        ),
        (
            "format = '''F'''\nfold = 'german'",
            [["fits", ""], ["", ""], ["sub-domain", "bo.marsh@fernhollow.example"]],
        ),
        (
            "format = '''F'''\nfold = 'german'\neveryone = true",
            [
                ["fits", ""],
                ["domain", "zoe.marsh@fernhollow.example"],
                ["sub-domain", "bo.marsh@fernhollow.example"],
            ],
        ),
        // The names the other way round; one format for each domain.
        (
            "format = ['''F''', '''family given(1) \"@gmail.com\"''']\nfold = 'german'\ngiven = 'surname'\nfamily = 'Rufname'",
            [
                ["order", "muessig.juergen@fernhollow.example"],
                ["given surplus", "zoem@gmail.com"],
                ["order sub-domain", "marsh.bo@fernhollow.example"],
            ],
        ),
        (
            "format = '''field \"staff no\" \".\" family \"@fernhollow.example\"'''\nfold = 'german'",
            [
                ["literal", "17.muessig@fernhollow.example"],
                ["", ""],
                ["literal sub-domain", "19.marsh@fernhollow.example"],
            ],
        ),
    ] {
        let rules = format!(
            "version = 2\n[domains]\npublic = ['example']\n[house]\n{}\n",
            rules.replace("'''F'''", &format!("'''{DOTTED}'''"))
        );
        let place = Place::with(&[("list.csv", list.as_bytes()), ("ypogram.toml", rules.as_bytes())]);
        let found = checked(&place, "list.csv", &["--field", "mail"], &column);
        assert_eq!(found, expected.map(|row| row.map(str::to_owned).to_vec()), "{rules}");
    }
    let place = Place::with(&[
        ("list.csv", list.as_bytes()),
        ("ypogram.toml", b"version = 2\n[house]\nformat = 'given \".\" famly \"@x.org\"'\n"),
    ]);
    for (call, expected) in [
        (
            "check list.csv -o x.csv",
            "ypogram.toml: house format: there is no part ‘famly’; did you mean family?\n    given \".\" famly \"@x.org\"\n              ^^^^^\n",
        ),
        (
            "check list.csv -o x.csv --house 'field \"staff nr\" \"@x.org\"'",
            "‘staff nr’\n  → did you mean field 'staff no'?",
        ),
        (
            "rules try --house '(given \"@x.org\"' a@x.org",
            "this parenthesis is never closed\n    (given \"@x.org\"\n    ^\n",
        ),
        ("rules learn-house list.csv --given nme", "‘nme’\n  → "),
    ] {
        let words = shlex::split(call).unwrap();
        let run = place.run_words(&words.iter().map(String::as_str).collect::<Vec<_>>(), Vec::new());
        assert!(run.code == 2 && run.stderr.contains(expected), "{call}: {}", run.stderr);
        assert!(!place.path("x.csv").exists());
    }
}

#[test]
fn formats_are_tried_described_and_learned() {
    let place = Place::with_demo();
    let run = |words: &[&str]| place.run_words(words, Vec::new());
    let tried = run(&[
        "rules",
        "try",
        "--house",
        DOTTED,
        "--given",
        "Ada",
        "--family",
        "Lovell",
        "ADA.lovell@fernhollow.example",
        "lovell_ada@fernholow.example",
    ]);
    assert_eq!(tried.code, 1);
    insta::assert_snapshot!("house_tried", tried.stdout);
    assert_eq!(run(&["rules", "try", "--house", DOTTED, "any.body@fernhollow.example"]).code, 0);
    let described = run(&[
        "rules",
        "describe",
        "--house",
        r#"family "_" given(1-2) number(4)? "@staff.fernhollow.example""#,
        "--pattern",
        "loan",
    ]);
    insta::assert_snapshot!("house_described", described.stdout);
    let learned = run(&["rules", "learn-house", "roster.csv"]);
    assert!(learned.stdout.contains("  given \".\" family \"@fernhollow.example\"  7 of 17 (41 %)\n    line 7  marsh.bo@fernhollow.example  order\n"), "{}", learned.stdout);
    // Whole names of any order, and what is learned goes by `check`.
    let list = "name,mail\n\"Lovell, Ada\",lovell_a@staff.h-works.org\nBea van der Berg,vanderberg_b@staff.h-works.org\nCY MARSH,marsh_c12@staff.h-works.org\nDr. Dora Quill (late),quill_d2@staff.h-works.org\nEve,eve@staff.h-works.org\nFinn Reed,f.reed@staff.h-works.org\n";
    std::fs::write(place.path("list.csv"), list).unwrap();
    let learned = run(&["rules", "learn-house", "list.csv", "--json"]);
    let said: Value = serde_json::from_str(&learned.stdout).unwrap();
    let domain = &said["domains"][0];
    assert_eq!(domain["format"], "family \"_\" given(1) number? \"@staff.h-works.org\"");
    assert_eq!((&domain["following"], &domain["addresses"]), (&Value::from(4), &Value::from(5)));
    let format = domain["format"].as_str().unwrap();
    let found = checked(&place, "list.csv", &["--house", format], &["yp_house", "yp_house_proposal"]);
    assert_eq!(found[5], ["order separator", "reed_f@staff.h-works.org"]);
    assert_eq!(found[4], ["separator", ""]);
    let run = run(&["explain", "--house", DOTTED, "ada_lovell@fernhollow.example", "--json"]);
    assert!(run.stdout.contains("A dot is asked for where an underscore stands."), "{}", run.stdout);
    let run =
        place.run_words(&["check", "--each", "--house", DOTTED], b"ada_lovell@fernhollow.example\n".to_vec());
    assert!(run.stdout.contains("\"house\":\"separator\""), "{}{}", run.stdout, run.stderr);
}

/// A local part in quotation marks may have an @, and is held against the format like any other.
#[test]
fn quotes_are_no_way_around_the_format() {
    let place = Place::with(&[(
        "list.txt",
        b"\"a@b\"@fernhollow.example\n\"a b\"@fernhollow.example\nada.lovell@fernhollow.example\n",
    )]);
    let format = "given␣\".\"␣family␣\"@fernhollow.example\"";
    let run = place.run(&format!("check list.txt --no-rules --house {format} --columns findings -q"));
    let has_fault: Vec<bool> = run.stdout.lines().skip(1).map(|line| line.contains("house-format")).collect();
    assert_eq!(has_fault, [true, true, false], "{}{}", run.stdout, run.stderr);
}
