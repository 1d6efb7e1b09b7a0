//! `ypogram lists`, lists in the rulebook, and what other commands make of them.

use crate::{Place, table};

const RULES: &[u8] = b"[domains]\npublic = ['example']\nhouse = ['house.example']\n\
    [lists.partners]\nfile = 'partners.csv'\nclass = 'partner'\nof = 'domains'\ncolumns = ['Account owner']\n\
    [lists.stop]\nfile = 'stop.txt'\nfinding = 'withdrawn'\nseverity = 'reject'\n\
    [lists.regions]\nentries = ['north', 'north-east']\nmatch = 'region'\nby = 'prefix'\nfinding = 'cold'\n";

/// A byte-order mark, semicolons, Windows line ends, comments, blank lines, entries twice, and some that cannot be used.
const PARTNERS: &[u8] = "\u{FEFF}Domain;Account owner\r\n# the glass people\r\n@Lensworks.example;Ida Quill\r\n\r\n\
    *.marshmill.example;\"Bo \"\"Owl\"\" Marsh\"\r\nm\u{fc}nchen.example;Jo\r\ngmail.com;Nobody\r\nlensworks.example;twice\r\n\
    ada@whole.example;x\r\nbad.nosuchending;z\r\n"
    .as_bytes();
const STOP: &[u8] = b"# told us to stop\nAda@GMX.de   # by phone\n\nmailinator.com\n";
const MEMBERS: &[u8] = b"name,email,region\nAda,ada@gmx.de,south\nBo,bo@mill.marshmill.example,North-East 7\n\
    Cy,cy@gmail.com,\nDi,info@house.example,northern\nEd,ed@mailinator.com,\nFay,fay@other.example,west\nGus,,north\n";

fn place() -> Place {
    Place::with(&[
        ("ypogram.toml", RULES),
        ("partners.csv", PARTNERS),
        ("stop.txt", STOP),
        ("members.csv", MEMBERS),
    ])
}

#[test]
fn lists_annotate_select_and_are_in_the_receipt() {
    let place = place();
    let run = place.run("check members.csv -o checked.csv");
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert!(
        run.stdout
            .contains("1 of 6 entries of the list partners cannot be used: ypogram lists check partners"),
        "{}",
        run.stdout
    );
    let rows = table(&place.read("checked.csv"));
    let told: Vec<String> = rows
        .iter()
        .map(|row| {
            let cells = ["yp_class", "yp_findings", "yp_verdict", "yp_lists", "yp_account_owner"];
            cells.map(|name| row[name].as_str()).join("|")
        })
        .collect();
    assert_eq!(
        told,
        [
            "free|free-provider withdrawn|reject|stop|",
            "partner|cold|accept|partners regions|Bo \"Owl\" Marsh",
            "partner||accept|partners|Nobody",
            "house|role-account cold|accept|house regions|",
            "disposable|disposable withdrawn|reject|stop|",
            "business||accept||",
            "|||regions|",
        ]
    );

    let run = place.run("clean members.csv -o out --only partner,house,business --without role-account");
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert!(run.stdout.contains("3 + 2 + 1 + 1 = 7 records read ✓"), "{}", run.stdout);
    let aside = table(&place.read("out/set-aside.csv"));
    assert_eq!((aside.len(), aside[0]["yp_set_aside"].as_str()), (1, "without role-account"));
    let receipt: serde_json::Value = serde_json::from_str(&place.read("out/receipt.json")).unwrap();
    assert_eq!(receipt["counts"]["set_aside"]["without role-account"], 1);
    assert_eq!(receipt["lists"][1]["name"], "partners");
    assert_eq!(receipt["lists"][1]["entries"], 5);
    assert_eq!(receipt["lists"][1]["blake3"], blake3::hash(PARTNERS).to_hex().as_str());
    assert_eq!(receipt["rulebook"]["selection"]["without"][0], "role-account");

    let run = place.run("check members.csv --show finding=withdrawn");
    assert_eq!(table(&run.stdout).len(), 2, "a finding of one's own opens its records");
}

#[test]
fn test_and_show_tell_which_entry_decides() {
    let place = place();
    let run = place
        .run("lists test bo@mill.marshmill.example cy@gmail.com ada@gmx.de info@uni.ac.uk nobody.example");
    insta::assert_snapshot!(run.stdout);
    assert_eq!(run.code, 1, "no list speaks of the last one");
    insta::assert_snapshot!("lists", place.run("lists").stdout);
    insta::assert_snapshot!("lists_check", place.run("lists check partners").stdout);
    let run = place.run("lists show partners --like owl");
    assert_eq!((run.code, run.stdout.as_str()), (0, "*.marshmill.example\tBo \"Owl\" Marsh\n"));
    assert_eq!(place.run("lists show disposable --like nosuchthing").code, 1);
    let json: serde_json::Value =
        serde_json::from_str(&place.run("lists test cy@gmail.com --json").stdout).unwrap();
    assert_eq!(json[0]["entries"][0]["gives_the_class"], true);
    assert_eq!(json[0]["entries"][0]["line"], 7);
    assert_eq!(json[0]["entries"][1]["from"], "built in");
}

#[test]
fn edits_keep_comments_order_and_everything_else() {
    let place = place();
    let run =
        place.run("lists add partners new.example lensworks.example a@b.example --set account␣owner=Zed");
    assert_eq!(run.code, 1, "one differs and one cannot be used");
    for told in ["new: new.example", "lensworks.example (line 3)", "a@b.example: it is a whole address"] {
        assert!(run.stdout.contains(told), "{told}: {}", run.stdout);
    }
    assert_eq!(place.run("lists change partners gmail.com --set account␣owner=Ann").code, 0);
    assert_eq!(place.run("lists remove partners lensworks.example").code, 0);
    let expected = String::from_utf8(PARTNERS.to_vec())
        .unwrap()
        .replace("gmail.com;Nobody", "gmail.com;Ann")
        .replace("@Lensworks.example;Ida Quill\r\n", "")
        .replace("lensworks.example;twice\r\n", "");
    assert_eq!(place.read("partners.csv"), expected + "new.example;Zed\r\n");

    let run = place.run("lists change stop ada@gmx.de --becomes Bea@GMX.de");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let before = place.read("stop.txt");
    assert_eq!(before, "# told us to stop\nbea@gmx.de   # by phone\n\nmailinator.com\n");
    // A later row that says the same would let the entry count as it was.
    std::fs::write(place.path("twice.csv"), "who,why\nada@gmx.de,a\ncleo@gmx.de,b\nADA@gmx.de,c\n").unwrap();
    assert_eq!(place.run("lists change twice.csv ada@gmx.de --becomes bea@gmx.de").code, 0);
    assert_eq!(place.read("twice.csv"), "who,why\nbea@gmx.de,a\ncleo@gmx.de,b\nbea@gmx.de,c\n");
    let run = place.run("lists add stop bea@gmx.de");
    assert!(run.stdout.contains("already so: bea@gmx.de (line 2)"), "{}", run.stdout);
    assert!(run.stdout.contains("stop.txt stays as it is"), "{}", run.stdout);

    std::fs::write(place.path("more.csv"), "Domain,Account owner\nq.example,Q\nnew.example,Zed\n").unwrap();
    let run = place.run("lists add partners --from-file more.csv --json");
    let report: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!(
        (&report["new"][0], &report["there"][0]["entry"]),
        (&"q.example".into(), &"new.example".into())
    );

    let run = place.run("lists check partners -o tidy.csv");
    assert_eq!(run.code, 1, "there was something to mend");
    let tidy = place.read("tidy.csv");
    assert!(
        tidy.contains("\r\nxn--mnchen-3ya.example;Jo\r\n") && tidy.contains("\r\n# ada@whole.example;x\r\n"),
        "{tidy}"
    );
    std::fs::write(place.path("partners.csv"), tidy.replace("bad.nosuchending;z\r\n", "")).unwrap();
    assert_eq!(place.run("lists check partners").code, 0, "what was written is in order");
}

/// People who asked to be left alone are not kept, whatever else the list brings.
#[test]
fn a_severity_is_never_without_effect() {
    let place = Place::with(&[
        ("list.csv", b"email\nada@h-works.org\nbea@h-works.org\n"),
        ("stop.csv", b"email,since\nada@h-works.org,2024\n"),
    ]);
    for (does, verdicts) in [
        ("severity=reject,columns=since", ["reject", "accept"]),
        ("severity=review,columns=since,class=left", ["accept", "accept"]),
        ("severity=review,columns=since,finding=left-us", ["review", "accept"]),
        ("columns=since", ["accept", "accept"]),
        ("severity=review", ["review", "accept"]),
    ] {
        let run = place.run(&format!("check list.csv --list stop=stop.csv,{does} -o out.csv -q --force"));
        if does.contains("class") {
            assert!(run.code == 2 && run.stderr.contains("would do nothing"), "{does}: {}", run.stderr);
            continue;
        }
        assert_eq!(run.code, 0, "{does}: {}", run.stderr);
        let told: Vec<String> =
            table(&place.read("out.csv")).iter().map(|row| row["yp_verdict"].clone()).collect();
        assert_eq!(told, verdicts, "{does}");
    }
    let run = place.run("check list.csv --list stop=stop.csv,columns=since,severity=off");
    assert!(run.code == 2 && run.stderr.contains("severity = \"off\" would do nothing"), "{}", run.stderr);
}

#[test]
fn bad_lists_are_told_with_their_place() {
    let cases: &[(&str, &str, &str)] = &[
        ("[lists.x]\nclass = 'y'\nfile = 'no.csv'\n", "", "ypogram.toml: line 3: no.csv: file not found"),
        (
            "[lists.x]\nfile = 'a.csv'\ncolumns = ['owner']\n",
            "a.example\n",
            "no header that would name the column ‘owner’",
        ),
        (
            "[lists.x]\nfile = 'a.csv'\ncolumns = ['owner']\n",
            "domain,since\na.example,1\n",
            "its columns are: domain, since",
        ),
        ("[lists.x]\nentries = ['a b']\n", "", "the list ‘x’: ‘a b’: ‘a b’ is not a domain"),
        ("[lists.x]\n", "", "needs a file or entries"),
        ("[lists.x]\nentries = ['a.example']\nof = 'hosts'\n", "", "known are: addresses-and-domains"),
        ("[lists.x]\nentries = ['a']\nof = 'values'\n", "", "no field is named"),
        ("[lists.x]\nentries = ['a']\nof = 'local-parts'\nclass = 'y'\n", "", "raise a finding instead"),
        ("[lists.x]\nentries = ['a']\nmatch = 'regoin'\n", "", "there is no field ‘regoin’"),
        (
            "[lists.x]\nentries = ['a']\nmatch = 'region'\nby = 'nopattern'\n",
            "",
            "there is no pattern ‘nopattern’",
        ),
        ("[lists.x]\nentries = ['a.example']\nfinding = 'Two words'\n", "", "cannot name a finding"),
        ("[lists.x]\nfile = 'a.csv'\nfil = 'b'\n", "", "unknown key ‘fil’"),
        ("[lists.x]\nentries = ['a.example']\n[severity]\nx = 'reject'\n", "", "stands with its list"),
    ];
    for (rules, list, told) in cases {
        let place = Place::with(&[
            ("ypogram.toml", rules.as_bytes()),
            ("a.csv", list.as_bytes()),
            ("members.csv", MEMBERS),
        ]);
        let run = place.run("check members.csv -o out.csv");
        assert_eq!(run.code, 2, "{rules}: {}", run.stdout);
        assert!(run.stderr.contains(told), "{rules}: {}", run.stderr);
        assert!(!place.path("out.csv").exists());
    }
    let place = place();
    for (call, told) in [
        ("lists add free x.example", "the list ‘free’ is built in"),
        ("lists show parners", "did you mean ‘partners’?"),
        ("lists add house x.example", "stand in the rulebook"),
        ("lists change partners gmail.com --set owner=x", "its columns are: Domain, Account owner"),
        ("check members.csv --only busines", "neither a class nor a finding"),
        ("check members.csv --list x", "write NAME=FILE"),
        ("check members.csv --list x=a.csv,clas=y", "did you mean ‘class’?"),
        ("check members.csv --list x=partners.csv,columns=yp,class=z", "there is no column ‘yp’"),
    ] {
        let run = place.run(call);
        assert_eq!(run.code, 2, "{call}: {}", run.stdout);
        assert!(run.stderr.contains(told), "{call}: {}", run.stderr);
    }
}

/// Whatever the file looks like: what was added and is removed again leaves no trace, and so does a change there and back.
#[test]
fn edits_can_be_undone() {
    let files: &[(&str, &str)] = &[
        ("a.csv", "Domain,Owner\nlensworks.example,Ann\n\"orrery.example\",\"Quill, Ida\"\n"),
        (
            "a.csv",
            "Domain;Owner\r\nlensworks.example;Ann\r\n# kept\r\n\r\norrery.example;\"said \"\"yes\"\"\"\r\n",
        ),
        ("a.tsv", "\u{FEFF}Domain\tOwner\nLENSWORKS.example\tAnn\norrery.example\t\n"),
        ("a.txt", "# those who help\nlensworks.example  # since 1999\n\n  orrery.example\n"),
        ("a.txt", "orrery.example\nlensworks.example\n"),
        ("a.csv", "lensworks.example\norrery.example\n"),
    ];
    for (name, text) in files {
        let rules = format!("[lists.partners]\nfile = '{name}'\nclass = 'partner'\n");
        let place = Place::with(&[("ypogram.toml", rules.as_bytes()), (name, text.as_bytes())]);
        let run = |call: &str| {
            let run = place.run(call);
            assert_eq!(run.code, 0, "{name}: {call}: {}{}", run.stdout, run.stderr);
            place.read(name)
        };
        let longer = run("lists add partners new.example another.example");
        assert!(longer.starts_with(text) && longer.len() > text.len(), "{name}: {longer}");
        let test = place.run("lists test ada@new.example");
        assert!(test.stdout.contains("partner"), "{}", test.stdout);
        assert_eq!(run("lists remove partners another.example new.example"), *text, "{name}");
        let other = run("lists change partners orrery.example --becomes sextant.example");
        assert_eq!(
            other,
            text.replace("\"orrery.example\"", "orrery.example").replace("orrery", "sextant"),
            "{name}"
        );
        let back = run("lists change partners sextant.example --becomes orrery.example");
        assert_eq!(back, text.replace("\"orrery.example\"", "orrery.example"), "{name}");
    }
}

/// A list that adds columns says how many records it had an entry for; `unmatched` opens the others. Several entries of one key are
/// reported, and chosen by rule.
#[test]
fn lists_that_look_things_up() {
    let codes = "source,campaign,lead\ngate,Open night,Ida\nby post,Letters,Bo\nGate ,Open night,Tilda\ngate,,Ida\nby post,Letters,Bo\n";
    let list = "no,email,source\n1,ada@fernhollow.org,gate\n2,bea@fernhollow.org,\n3,,by post\n4,x,radio\n5,cleo@fernhollow.org,GATE\n";
    let rules = |several: &str| {
        format!(
            "version = 2\n[lists.campaigns]\nfile = 'codes.csv'\nmatch = 'source'\nentry = 'source'\ncolumns = ['campaign', 'lead']\n{several}"
        )
    };
    let place = Place::with(&[("codes.csv", codes.as_bytes()), ("list.csv", list.as_bytes())]);
    for (several, lead, note) in [
        ("", "Ida", "the first counts"),
        ("several = 'first'\n", "Ida", "the first counts"),
        ("several = 'all'\n", "Ida; Tilda", "all of them count, joined"),
    ] {
        std::fs::write(place.path("ypogram.toml"), rules(several)).unwrap();
        for (command, output) in [("check", "out.csv"), ("clean", "out")] {
            let run = place.run(&format!("{command} list.csv --field email -o {output} --force --full"));
            assert_eq!(run.code, 0, "{}", run.stderr);
            assert!(run.stdout.contains("1 entry stands several times with other cells; "), "{}", run.stdout);
            assert!(run.stdout.contains(note), "{}", run.stdout);
            assert!(run.stdout.contains("campaigns            3  75.0 %"), "{}", run.stdout);
            assert!(run.stdout.contains("campaigns: no entry  1  25.0 %"), "{}", run.stdout);
        }
        let rows = table(&place.read("out.csv"));
        let told: Vec<&str> = rows.iter().map(|row| &*row["yp_lead"]).collect();
        assert_eq!(told, [lead, "", "Bo", "", lead]);
        assert!(rows.iter().all(|row| row["yp_campaign"].is_empty() || !row["yp_campaign"].contains(';')));
    }
    let run = place.run("check list.csv --field email --show unmatched=campaigns -q");
    assert_eq!(table(&run.stdout).iter().map(|row| &*row["no"]).collect::<Vec<_>>(), ["4"]);
    let run = place.run("survey list.csv --field email --show unmatched!=campaigns,list!=campaigns -q");
    assert_eq!(table(&run.stdout).iter().map(|row| &*row["no"]).collect::<Vec<_>>(), ["2"]);
    for (call, told) in [
        ("check list.csv --show unmatched=campagns", "did you mean ‘campaigns’?"),
        ("check list.csv --list c=codes.csv,columns=lead,several=al", "there is no several = \"al\""),
    ] {
        let run = place.run(call);
        assert!(run.code == 2 && run.stderr.contains(told), "{call}: {}", run.stderr);
    }
}

/// A list is started from nothing, filled, and used, without an editor.
#[test]
fn a_new_list() {
    let place = Place::with(&[(
        "list.csv",
        b"no,email,source\n1,ada@fernhollow.org,gate\n2,bo@marshmill.org,radio\n",
    )]);
    for call in [
        &["lists", "new", "campaigns", "--match", "source", "--columns", "campaign,who leads"][..],
        &["lists", "add", "campaigns", "gate", "--set", "campaign=Open night", "--set", "who leads=Ida"],
        &["lists", "new", "partners", "--columns", "contact", "-o", "friends.csv"],
        &["lists", "add", "partners", "marshmill.org", "--set", "contact=Bo"],
        &["lists", "new", "gone", "--of", "keys"],
        &["lists", "add", "gone", "ada@fernhollow.org"],
        &["check", "list.csv", "-o", "out.csv"],
    ] {
        let run = place.run_words(call, Vec::new());
        assert_eq!(run.code, 0, "{call:?}: {}", run.stderr);
    }
    let rows = table(&place.read("out.csv"));
    let told = |column: &str| rows.iter().map(|row| row[column].clone()).collect::<Vec<_>>();
    assert_eq!(told("yp_campaign"), ["Open night", ""]);
    assert_eq!(told("yp_who_leads"), ["Ida", ""]);
    assert_eq!(told("yp_contact"), ["", "Bo"]);
    assert_eq!(told("yp_lists"), ["campaigns gone", "partners"]);
    let before = place.read("ypogram.toml");
    for (call, told) in [
        ("lists new campaigns", "there is a list ‘campaigns’ already"),
        ("lists new Other", "cannot name a list"),
        ("lists new other --columns address", "the first column is called ‘address’ already"),
        ("lists new other -o friends.csv", "friends.csv"),
    ] {
        let run = place.run(call);
        assert!(run.code > 1 && run.stderr.contains(told), "{call}: {}", run.stderr);
    }
    assert_eq!(place.read("ypogram.toml"), before);
}
