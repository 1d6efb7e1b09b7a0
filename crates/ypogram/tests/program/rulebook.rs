//! `ypogram.toml`: what it changes, what beats it, and what it refuses.

use crate::{Place, table};

const LIST: &[u8] =
    b"email,other\nada+x@house.example,\nada@house.example,\nbea@freemail.example,bea@h.org\n";

#[test]
fn is_found_named_and_beaten_by_the_command_line() {
    let rules = "[fields]\naddress = ['email']\n[domains]\npublic = ['example']\nfree = ['freemail.example']\nhouse = ['house.example']\n\
        [same-mailbox]\nrule = 'everywhere'\n[severity]\nfree-provider = 'review'\n";
    let place = Place::with(&[("list.csv", LIST), ("ypogram.toml", rules.as_bytes())]);
    let run = place.run("clean list.csv -o a");
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert!(run.stdout.contains("rulebook: ypogram.toml"), "{}", run.stdout);
    assert_eq!(table(&place.read("a/duplicates.csv")).len(), 1, "everywhere drops the tag");
    assert_eq!(table(&place.read("a/review.csv"))[0]["yp_class"], "free");
    assert_eq!(table(&place.read("a/kept.csv"))[0]["yp_class"], "house");
    let receipt: serde_json::Value = serde_json::from_str(&place.read("a/receipt.json")).unwrap();
    assert_eq!(receipt["rulebook"]["same-mailbox"]["rule"], "everywhere");

    place.run("clean list.csv -o b --same case --field other -q");
    assert_eq!(table(&place.read("b/kept.csv"))[0]["yp_address"], "bea@h.org");
    let run = place.run("clean list.csv -o c --no-rules --field email");
    assert!(!run.stdout.contains("rulebook:"), "{}", run.stdout);
    assert_eq!(
        table(&place.read("c/rejected.csv"))[0]["yp_findings"],
        "tagged reserved-name".split(' ').rev().collect::<Vec<_>>().join(" ")
    );
}

#[test]
fn refuses_what_it_does_not_know() {
    for (rules, told) in [
        ("[feilds]\n", "ypogram.toml: line 1: unknown key ‘feilds’\n  → did you mean ‘fields’?"),
        ("[fields]\n\nadress = []\n", "line 3: unknown key ‘adress’\n  → did you mean ‘address’?"),
        (
            "[same-mailbox]\nrule = 'evrywhere'\n",
            "line 2: ‘evrywhere’ is not one of the words here\n  → did you mean ‘everywhere’?",
        ),
        (
            "[severity]\ndouble-dots = 'note'\n",
            "line 2: there is no finding ‘double-dots’\n  → did you mean ‘double-dot’?",
        ),
        (
            "[severity]\nno-at-sign = 'note'\n",
            "line 2: no-at-sign leaves nothing to split and always rejects",
        ),
        ("[domains]\npublic = ['a b']\n", "‘a b’ is not a domain name"),
        ("[fields\n", "ypogram.toml: line 1"),
    ] {
        let place = Place::with(&[("list.csv", LIST), ("ypogram.toml", rules.as_bytes())]);
        let run = place.run("clean list.csv -o out");
        assert_eq!(run.code, 2, "{rules}");
        assert!(run.stderr.contains(told), "{rules}: {}", run.stderr);
        assert!(!place.path("out").exists());
    }
}

/// Two addresses without a standard form are no mailbox, let alone one; what is let pass has its own.
#[test]
fn lowered_severities_make_no_duplicates() {
    let list = b"email\nada..b@h-works.org\nada@h_works.org\nada@h-works. org\nbea@x-works. org\nADA..B@h-works.org\n";
    let rules =
        b"[severity]\ndouble-dot = 'note'\nunderscore-in-domain = 'review'\nspace-inside = 'review'\nbroken-address = 'review'\n";
    let place = Place::with(&[("list.csv", list), ("ypogram.toml", rules)]);
    for memory in ["1G", "1K"] {
        let run = place.run(&format!("clean list.csv -o out --force --memory {memory}"));
        assert_eq!(run.code, 0, "{}", run.stderr);
        let told = |file: &str, column: &str| -> Vec<String> {
            table(&place.read(file)).iter().map(|row| row[column].clone()).collect()
        };
        assert_eq!(told("out/kept.csv", "yp_address"), ["ada..b@h-works.org"]);
        assert_eq!(told("out/duplicates.csv", "email"), ["ADA..B@h-works.org"]);
        assert_eq!(told("out/review.csv", "yp_address"), ["ada@h_works.org", "", ""]);
        let run = place.run(&format!("dedupe list.csv --json --memory {memory}"));
        let said: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
        assert_eq!(
            (&said["counts"]["records"], &said["counts"]["mailboxes"]),
            (&5.into(), &2.into()),
            "{}",
            run.stdout
        );
        let run = place.run("dedupe list.csv -o - -q");
        assert_eq!(run.stdout.lines().count(), 1 + 4, "{}", run.stdout);
    }
    let run = place.run("survey list.csv --json");
    let said: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!(said["counts"]["mailboxes"], 2, "{}", said["counts"]);
    for (line, told) in [
        ("not-utf-8 = 'note'", "not-utf-8 leaves no standard form to write and is for review at least"),
        ("no-at-sign = 'review'", "no-at-sign leaves nothing to split and always rejects"),
    ] {
        let place =
            Place::with(&[("list.csv", list), ("ypogram.toml", format!("[severity]\n{line}\n").as_bytes())]);
        let run = place.run("check list.csv");
        assert_eq!((run.code, run.stderr.contains(told)), (2, true), "{}", run.stderr);
    }
}

/// Each key of the page, what a rulebook says under it, and the option that says the same for one run; a call that shows it.
const KEYS: &[(&str, &str, &str, &str)] = &[
    ("version", "version = 1", "", "check"),
    ("address", "[fields]\naddress = ['other']", "--field other", "clean"),
    ("text", "[fields]\naddress = ['email']\ntext = ['notes']", "--field email --also notes", "clean"),
    ("person", "[fields]\nperson = ['nr']", "--person nr", "clean"),
    ("id", "[fields]\nid = 'nr'", "--id nr", "check"),
    ("grammar", "[judging]\ngrammar = 'html'", "--grammar html", "clean"),
    ("letter-case", "[standard-form]\nletter-case = 'keep'", "--letter-case keep", "clean"),
    ("max-length", "[standard-form]\nmax-length = 14", "", "clean"),
    ("rule", "[same-mailbox]\nrule = 'exact'", "--same exact", "clean"),
    (
        "shared",
        "[same-mailbox]\nshared = 'keep'\n[fields]\nperson = ['nr']",
        "--shared keep --person nr",
        "clean",
    ),
    // What these do follows from answers of the DNS, and is tested there.
    ("by-host", "", "", ""),
    ("a domain", "[same-mailbox.domains]\n'h-works.org' = 'google'", "", "clean"),
    ("[dns]", "", "", ""),
    ("public", "[domains]\npublic = ['example']", "", "clean"),
    ("free", "[domains]\nfree = ['*.h-works.org']", "", "clean"),
    ("house", "[domains]\nhouse = ['h-works.org']", "", "clean"),
    ("certainty", "[domains]\ncertainty = 'listed'", "", "clean --without free"),
    (
        "[lists.NAME]",
        "[lists.left]\nfile = 'left.txt'\nfinding = 'left-us'",
        "--list left=left.txt,finding=left-us",
        "clean",
    ),
    ("only", "[selection]\nonly = ['free']", "--only free", "clean"),
    ("without", "[selection]\nwithout = ['role-account']", "--without role-account", "clean"),
    ("a finding's code", "[severity]\nrole-account = 'reject'", "", "clean"),
    ("a name of yours", "[patterns]\nshort = '.{1,14}'", "", "check --pattern short"),
    ("[field-rules.FIELD]", "[field-rules.notes]\nfilled = true", "", "check"),
    ("format", "[house]\nformat = 'given \".\" family \"@h-works.org\"'", "", "check"),
    (
        "fold",
        "[house]\nformat = 'given \".\" family \"@h-works.org\"'\nfold = 'german'\nfamily = 'notes'",
        "",
        "check",
    ),
    ("given", "[house]\nformat = 'given \".\" family \"@h-works.org\"'\ngiven = 'nr'", "", "check"),
    ("family", "[house]\nformat = 'given \".\" family \"@h-works.org\"'\nfamily = 'nr'", "", "check"),
    ("everyone", "[house]\nformat = 'given \".\" family \"@h-works.org\"'\neveryone = true", "", "check"),
    ("order", "[names]\norder = 'family-first'", "--name-order family-first", "split --parts first-name"),
    ("a domain", "[names.domains]\n'h-works.org' = 'family-first'", "", "split --parts first-name"),
    // What a job does is told on a page of its own, and tested there.
    ("[[job.NAME.step]]", "", "", ""),
    ("file", "[decisions]\nfile = 'decisions.csv'", "", "clean"),
    (
        "a finding, pattern, outcome, class or kind",
        "[words]\nquoted-local-part = 'Without quotes, please.'",
        "",
        "clean",
    ),
    ("prefix", "[output]\nprefix = 'new_'", "--prefix new_", "clean"),
    ("columns", "[output]\ncolumns = ['email', 'yp_class=kind']", "--columns email,yp_class=kind", "clean"),
    ("title", "[output.xlsx]\ntitle = 'No address'", "", "clean book"),
    ("message", "[output.xlsx]\nmessage = 'Ask the secretary.'", "", "clean book"),
];

/// The page tells no key that does nothing, and leaves none out; the option for one run does what the key does.
#[test]
fn every_key_of_the_page_changes_something() {
    let page = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/rulebook.md");
    let page = std::fs::read_to_string(page).unwrap();
    let rows = page.lines().filter(|line| line.starts_with("| ") && line.matches('|').count() == 5);
    let cells = |row: &str| -> Vec<String> {
        row.split('|').map(|cell| cell.replace('`', "").trim().to_owned()).collect()
    };
    let told: Vec<String> = rows
        .map(cells)
        .filter(|cells| cells[1] != "section" && !cells[1].starts_with("---"))
        .map(|cells| if cells[2].is_empty() { cells[1].clone() } else { cells[2].clone() })
        .collect();
    assert_eq!(KEYS.iter().map(|key| key.0).collect::<Vec<_>>(), told);

    let list = "nr,email,other,notes\n1,Ada.Lovell@h-works.org,,\n2,ada.lovell@h-works.org,,\n3,info@mail.h-works.org,bea@h-works.org,\n\
        4,adalovell@h-works.org,,\n5,cleo@obs.example,,\n6,finn@gmail.com,,or finn.yarrow@h-works.org\n7,\"a b\"@h-works.org,gwen@gmail.com,\n\
        8,,,dara@h-works.org\n9,<Ada.Lovell@h-works.org>,,\n10,hal@37.com,,\n";
    let files: [(&str, &[u8]); 3] = [("list.csv", list.as_bytes()), ("left.txt", b"finn@gmail.com\n"),
        (
            "decisions.csv",
            b"as_found,person,findings,decision,address,decided,reason\n\"\"\"a b\"\"@h-works.org\",,quoted-local-part,keep,,,\n",
        ),
    ];
    let outcome = |rules: &str, options: &str, call: &str| {
        let place = Place::with(&files);
        if !rules.is_empty() {
            let version = if rules.starts_with("version") { "" } else { "version = 2\n" };
            std::fs::write(place.path("ypogram.toml"), format!("{version}{rules}")).unwrap();
        }
        let (command, more) = call.split_once(' ').unwrap_or((call, ""));
        let (to, more) = match (command, more) {
            ("clean", "book") => ("rows.xlsx", ""),
            ("clean", more) => ("out", more),
            (_, more) => ("rows.csv", more),
        };
        let run = place.run(&format!("{command} list.csv -o {to} {more} {options}"));
        let mut files = place.tree("out");
        files.retain(|path, _| {
            path.file_name() != Some("receipt.json".as_ref()) && !path.starts_with(".ypogram")
        });
        for name in ["rows.csv", "rows.xlsx"] {
            files.extend(std::fs::read(place.path(name)).map(|rows| (name.into(), rows)));
        }
        let figures =
            run.stdout.lines().filter(|line| !line.starts_with("rulebook:")).collect::<Vec<_>>().join("\n");
        (run.code, files, figures, run.stderr)
    };
    for (key, rules, option, call) in KEYS.iter().filter(|key| !key.1.is_empty()) {
        let set = outcome(rules, "", call);
        assert_eq!(set.0, 0, "{key}: {}", set.3);
        let without = outcome("", "", call);
        assert!(set != without, "{key} changes nothing");
        if !option.is_empty() {
            let by_option = outcome("", option, call);
            assert_eq!((by_option.0, &by_option.3), (0, &set.3), "{key}");
            assert!(by_option.1 == set.1, "{key}: {option} writes something else");
        }
    }
}
