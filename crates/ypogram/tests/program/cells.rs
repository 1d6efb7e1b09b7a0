//! What stands in address fields and in the text fields beside them.

use crate::{Place, table};

#[test]
fn what_stands_beside_an_address_is_told_and_decides() {
    let list = "\
id,name,email,notes
1,Gwen Dunmore,Gwen star@h-works.org,
2,Gwen Dunmore,Bea star@h-works.org,
3,,BOUNCED <tess@h-works.org>,
4,,ada@h-works.org,\"unsubscribed, 2024\"
5,,old@h-works.org -> new@h-works.org,
6,,john . doe@h-works.org,or bea@h-works.org
7,,01632 960413,bea@h-works.org
8,,n/a,bea@h-works.org
9,,,bea@h-works.org
10,,met eor@h-works.org,cleo@h-works.org
11,,\"ada@h-works.org, 01632 960413\",
12,,see the sheet,
13,,-,
";
    let place = Place::with(&[("list.csv", list.as_bytes())]);
    let run = place.run("check list.csv --field email --also notes --id id -o out.csv");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let told: Vec<String> = table(&place.read("out.csv"))
        .iter()
        .map(|row| {
            ["id", "yp_address", "yp_verdict", "yp_findings", "yp_form", "yp_suggestion", "yp_remark"]
                .map(|column| row[column].as_str())
                .join("|")
        })
        .collect();
    assert_eq!(
        told,
        [
            "1|star@h-works.org|accept||named||",
            "2|star@h-works.org|review|remark|within-text||Bea",
            "3|tess@h-works.org|review|do-not-contact|named||BOUNCED",
            "4|ada@h-works.org|review|do-not-contact|plain||",
            "5|old@h-works.org|review|replaced|several|new@h-works.org|",
            "6|bea@h-works.org|review|from-other-field|within-text||",
            "7|bea@h-works.org|review|from-other-field|within-text||",
            "8|bea@h-works.org|accept||within-text||",
            "9|bea@h-works.org|accept||within-text||",
            "10|eor@h-works.org|review|word-beside|within-text||met",
            "11|ada@h-works.org|accept||with-telephone||",
            "12||reject|not-an-address|none||",
            "13||||none||",
        ]
    );
    // The record's outcome follows, and the sum holds.
    let run = place.run("clean list.csv --field email --also notes -o out --json");
    let told: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
    let outcomes = &told["counts"]["outcomes"];
    assert_eq!(
        ["kept", "review", "duplicate", "rejected", "no-address"]
            .map(|outcome| outcomes[outcome].as_u64().unwrap()),
        [3, 5, 3, 1, 1],
        "{outcomes}"
    );
}

#[test]
fn as_typed_forgives_nothing() {
    let values = "\
ada@h-works.org
Ada@H-Works.org
 ada@h-works.org
<ada@h-works.org>
ada@h-works.org.
ada @h-works.org
ada@h-works.org; bea@h-works.org
\"ada\"@h-works.org
josé@h-works.org
ada..b@h-works.org
n/a
someone@no-such-ending
";
    let place = Place::with(&[("list.txt", values.as_bytes())]);
    let run = place.run("check list.txt --as-typed -o out.csv");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let told: Vec<String> = table(&place.read("out.csv"))
        .iter()
        .map(|row| [&*row["yp_verdict"], &*row["yp_well_formed"], &*row["yp_findings"]].join("|"))
        .collect();
    assert_eq!(
        told,
        [
            "accept|true|",
            "accept|true|",
            "reject|false|as-typed-trimmed",
            "reject|false|as-typed-angle-brackets",
            "reject|false|as-typed-sign",
            "reject|false|as-typed-space-around-at",
            "reject|false|as-typed-one-of-several",
            "accept|true|",
            "accept|true|non-ascii-local-part",
            "reject|false|double-dot",
            "|false|",
            "reject|true|one-label-domain",
        ]
    );
    // The plain answer does not depend on the option.
    let plain = place.run("check list.txt --to plain -q").stdout;
    assert_eq!(place.run("check list.txt --to plain -q --as-typed").stdout, plain);
    assert_eq!(plain.lines().filter(|line| line.ends_with(",true")).count(), 5, "{plain}");

    let run = place.run_with("check list.txt --grammar header --to plain -q", "");
    assert_eq!(run.stdout.lines().filter(|line| line.ends_with(",true")).count(), 8, "{}", run.stdout);

    let run = place.run("explain --as-typed <ada@h-works.org>");
    assert_eq!(run.code, 1);
    assert!(run.stdout.contains("^ 1\n") && run.stdout.contains("as-typed-angle-brackets"), "{}", run.stdout);
}

#[test]
fn explain_says_what_a_text_holds() {
    let place = Place::with(&[]);
    let run = place.run_words(&["explain", "see anna@h-works.org for more"], "");
    assert!(run.stdout.contains("text that holds an address: anna@h-works.org"), "{}", run.stdout);
    assert!(run.stdout.contains("remark"), "{}", run.stdout);
    let run = place.run_words(&["explain", "n/a"], "");
    assert_eq!(
        (run.code, run.stdout.contains("no address: it says that there is none")),
        (1, true),
        "{}",
        run.stdout
    );
    let run = place.run_words(&["explain", "mara@tide wharf.com"], "");
    assert!(run.stdout.contains("(likely: the space inside was removed)"), "{}", run.stdout);
}

#[test]
fn rulebooks_without_a_version_keep_the_earlier_meanings() {
    let list = b"email\n<ada@h-works.org>\n";
    let patterns = "[patterns]\nbare = '[a-z@.-]+'\n";
    let place = Place::with(&[("list.csv", list)]);
    let ask = |rules: String| {
        std::fs::write(place.path("ypogram.toml"), rules).unwrap();
        let run = place.run("check list.csv --pattern bare -o out.csv --force");
        let rows = table(&place.read("out.csv"));
        (rows[0]["yp_well_formed"].clone(), rows[0]["yp_pattern"].clone(), run.stdout.contains("version = 2"))
    };
    let told = |well_formed: &str, fits: &str, hint| (well_formed.to_owned(), fits.to_owned(), hint);
    assert_eq!(ask(patterns.to_owned()), told("true", "true", true));
    assert_eq!(ask(format!("version = 2\n{patterns}")), told("false", "false", false));
    let by_form = "version = 2\n[patterns]\nbare = { pattern = '[a-z@.-]+', of = 'standard-form' }\n";
    assert_eq!(ask(by_form.to_owned()), told("false", "true", false));
    std::fs::write(place.path("ypogram.toml"), "version = 3\n").unwrap();
    let run = place.run("check list.csv");
    assert!(
        run.code == 2 && run.stderr.contains("version = 3") && run.stderr.contains("up to version 2"),
        "{}",
        run.stderr
    );
}
