//! Who shares what, through the program.

use std::collections::{BTreeMap, BTreeSet};

use crate::{Place, table};

/// The summary of the demo; the tables of the graph hold exactly what the records say.
#[test]
fn families_and_firms() {
    let place = Place::with_demo();
    insta::assert_snapshot!("links", place.run("links members.csv --by phone").stdout);
    let run = place.run("links members.csv --by phone -o links.csv --json");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let [nodes, edges] = ["links-nodes.csv", "links-edges.csv"].map(|name| table(&place.read(name)));
    let of: BTreeMap<&str, &BTreeMap<String, String>> =
        nodes.iter().map(|node| (&*node["id"], node)).collect();
    assert_eq!(of.len(), nodes.len());

    // Records, further addresses, domains and numbers as check gives them.
    let checked = table(&place.run("check members.csv -q").stdout);
    let mut expected: BTreeSet<(String, String, String)> = BTreeSet::new();
    for row in checked.iter().filter(|row| ["accept", "review"].contains(&&*row["yp_verdict"])) {
        let addresses = [&row["yp_address"]].into_iter().map(|one| &**one).chain(row["yp_more"].split(','));
        for address in addresses.filter(|address| !address.is_empty()) {
            let (local_part, domain) = address.rsplit_once('@').unwrap();
            for (kind, value) in [("local part", local_part), ("domain", domain), ("phone", &row["phone"])] {
                expected.insert((address.to_owned(), kind.to_owned(), value.to_owned()));
            }
        }
    }
    let told = edges.iter().map(|edge| {
        let (from, to) = (of[&*edge["from"]], of[&*edge["to"]]);
        assert_eq!((&*from["kind"], &edge["kind"]), ("address", &to["kind"]));
        (from["label"].clone(), to["kind"].clone(), to["label"].clone())
    });
    assert_eq!(told.collect::<BTreeSet<_>>(), expected);
    for node in &nodes {
        let hanging = edges.iter().filter(|edge| edge["to"] == node["id"]).count();
        let is_shared = node["kind"] != "address";
        assert_eq!(node["addresses"], if is_shared { hanging } else { 1 }.to_string(), "{node:?}");
    }
    let groups = nodes.iter().filter(|node| node["kind"] == "address" && node["group"] != "0").count();
    assert_eq!(
        place.run("links members.csv --by phone --figure in-groups").stdout.trim(),
        groups.to_string()
    );
    for file in ["links.graphml", "links.dot"] {
        assert_eq!(place.run(&format!("links members.csv --by phone -q -o {file}")).code, 0);
        assert!(place.read(file).contains("fernhollow.example"));
    }
    assert_eq!(place.run("links members.csv --by phone -q -o -").stdout, place.read("links.graphml"));
    assert_eq!(place.run("links members.csv --by phone -q --to dot -o -").stdout, place.read("links.dot"));
}

/// Who is behind a number, however it is written, a domain, a local part, an address; and nobody.
#[test]
fn who_is_behind() {
    let place = Place::with(&[(
        "list.csv",
        b"mail,phone,street\n\
          ada@h-works.org,01632 960413,3 Mill Road\n\
          bo@h-works.org,01632 960999,\n\
          cleo.marsh@gmail.com,+44 (0)1632 960413,\"Mill Rd, 3\"\n\
          cleo.marsh@web.de,,\n",
    )]);
    let by = "links list.csv --by phone --by street";
    for (behind, addresses, beside) in [
        ("01632-960413", 2, 1),
        ("h-works.org", 2, 1),
        ("cleo.marsh", 2, 1),
        ("CLEO.MARSH@GMAIL.COM", 1, 2),
        ("3,mill,road", 2, 1),
    ] {
        let run = place.run(&format!("{by} --behind {behind}"));
        assert_eq!(run.code, 0, "{behind}: {}", run.stderr);
        let answer = run.stdout.lines().next().unwrap();
        let word = if addresses == 1 { "address" } else { "addresses" };
        assert!(answer.starts_with(&format!("{addresses} {word} behind ")), "{behind}: {answer}");
        assert!(answer.ends_with(&format!(", {beside} beside them")), "{behind}: {answer}");
    }
    let run = place.run(&format!("{by} --behind nobody -o x.graphml --html x.html"));
    assert_eq!((run.code, run.stdout.lines().next()), (1, Some("Nobody has ‘nobody’")));
    assert!(!place.path("x.graphml").exists() && !place.path("x.html").exists());
    for (call, told) in [
        ("--by fone", "did you mean --by phone?"),
        ("--by phone --by PHONE", "twice"),
        ("--columns id", "leave them out"),
        ("--with-records", "--html FILE"),
        ("-o list.csv/x.dot", "list.csv"),
        ("--first 2 -o x.dot", "--first"),
        ("-o x.7z", "x-nodes.7z: ‘.7z’ is not written"),
    ] {
        let run = place.run(&format!("links list.csv {call}"));
        assert!(run.code > 1 && run.stderr.contains(told), "{call}: {} {}", run.code, run.stderr);
    }
}

/// The page shows no address and no number unless it is asked to, and needs nothing from elsewhere.
#[test]
fn the_page_is_masked() {
    let place = Place::with_demo();
    assert_eq!(place.run("links members.csv --by phone --html a.html -q").code, 0);
    assert_eq!(place.run("links members.csv --by phone --html b.html --with-records -q").code, 0);
    let [masked, open] = ["a.html", "b.html"].map(|name| place.read(name));
    for value in ["01632 960411", "bea.lovell", "comet.tail.fernhollow"] {
        assert!(!masked.contains(value) && open.contains(value), "{value}");
    }
    assert!(masked.contains("fernhollow.example") && masked.contains("of them drawn"));
    for page in [masked, open] {
        assert!(!page.contains("src=") && !page.contains("href=") && !page.contains("<script"));
    }
}
