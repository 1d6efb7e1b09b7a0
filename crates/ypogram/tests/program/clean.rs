//! `ypogram clean`: outcomes, outputs, and the same bytes whatever the threads and chunks.

use crate::{Place, table};

fn cells(place: &Place, file: &str, column: &str) -> Vec<String> {
    table(&place.read(file)).iter().map(|row| row[column].clone()).collect()
}

#[test]
fn every_record_ends_in_one_place_with_its_reason() {
    let source = "id,email,notes\n\
        1,Ada@Fernhollow.org,\n\
        2,<ada@fernhollow.org>,again\n\
        3,ada..b@fernhollow.org,\n\
        4,,mail bea@fernhollow.org please\n\
        5,,nothing\n\
        6,cleo@gmial.com,\n\
        7,dara@fernhollow.org; edda@fernhollow.org,\n";
    let place = Place::with(&[("list.csv", source.as_bytes())]);
    let run = place.run("clean list.csv --field email --also notes -o out --json");
    assert_eq!((run.code, run.stderr.as_str()), (0, ""));

    assert_eq!(
        cells(&place, "out/kept.csv", "yp_address"),
        ["ada@fernhollow.org", "bea@fernhollow.org", "dara@fernhollow.org"]
    );
    assert_eq!(cells(&place, "out/kept.csv", "yp_field"), ["email", "notes", "email"]);
    assert_eq!(cells(&place, "out/kept.csv", "yp_more"), ["", "", "edda@fernhollow.org"]);
    assert_eq!(cells(&place, "out/duplicates.csv", "yp_same_as"), ["1"]);
    assert_eq!(cells(&place, "out/rejected.csv", "yp_findings"), ["double-dot"]);
    assert_eq!(cells(&place, "out/review.csv", "yp_findings"), ["typing-slip"]);
    assert_eq!(cells(&place, "out/no-address.csv", "id"), ["5"]);
    assert!(!place.path("out/set-aside.csv").exists(), "an outcome that nothing ended in writes no file");

    let receipt: serde_json::Value = serde_json::from_str(&place.read("out/receipt.json")).unwrap();
    let outcomes = receipt["counts"]["outcomes"].as_object().unwrap();
    assert_eq!(outcomes.values().map(|count| count.as_u64().unwrap()).sum::<u64>(), 7);
    assert_eq!(receipt["counts"]["usable"]["total"], 6 - 1);
    assert_eq!(receipt["sources"][0]["blake3"], blake3::hash(source.as_bytes()).to_hex().as_str());
    let summary: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!(summary["counts"], receipt["counts"]);
}

#[test]
fn same_bytes_for_any_threads_and_chunks() {
    let place = Place::with_demo();
    let mut expected = None;
    for threads in [1, 2, 7] {
        for size in [64, 1000, 1 << 19] {
            let out = format!("out-{threads}-{size}");
            let run = place.run(&format!(
                "clean members.csv --field email --also notes -o {out} --threads {threads} --chunk-bytes {size}"
            ));
            assert_eq!(run.code, 0, "{}", run.stderr);
            let told = (place.tree(&out), run.stdout.replace(&out, "out"));
            assert_eq!(*expected.get_or_insert_with(|| told.clone()), told, "{out}");
        }
    }
    let records: usize = ["kept", "review", "rejected", "duplicates", "no-address"]
        .iter()
        .map(|stem| table(&place.read(&format!("out-1-64/{stem}.csv"))).len())
        .sum();
    assert_eq!(
        records,
        csv::Reader::from_reader(&place.bytes("members.csv")[..]).records().count(),
        "no record is lost"
    );
}

/// Rare rows are written behind the others of their chunk.
#[test]
fn the_first_record_with_a_finding_is_its_example() {
    let source =
        "email\nada@fernhollow.org\nbea@a.example; bea@b.example\ncleo@c.example\n@@\ndara@@d.example\n";
    let place = Place::with(&[("list.csv", source.as_bytes())]);
    let run = place.run("clean list.csv -o out");
    for example in
        ["reserved-name     2  line 3: bea@a.example; bea@b.example", "several-at-signs  2  line 5: @@"]
    {
        assert!(run.stdout.contains(example), "{}", run.stdout);
    }
    assert_eq!(cells(&place, "out/rejected.csv", "yp_record"), ["2", "3", "4", "5"]);
}

#[test]
fn own_fields_come_out_byte_for_byte() {
    // A byte-order mark, CRLF, semicolons, odd quoting, bytes that are not UTF-8, short and long records.
    let source = b"\xEF\xBB\xBFname;e-mail\r\n\"Lovell; \"\"Ada\"\"\";ada@h.org\r\nBea \xFF;bea@h.org\r\nCleo\r\nDara;dara@h.org;more;\"and;more\"\r\n";
    let place = Place::with(&[("list.csv", source)]);
    let run = place.run("clean list.csv -o out");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let kept = place.bytes("out/kept.csv");
    let lines: Vec<&[u8]> = kept.split(|&b| b == b'\n').collect();
    assert!(lines[0].starts_with(b"\xEF\xBB\xBFname;e-mail;yp_address;"), "the header and its mark");
    assert!(lines[1].starts_with(b"\"Lovell; \"\"Ada\"\"\";ada@h.org;ada@h.org;accept;"));
    assert!(lines[2].starts_with(b"Bea \xFF;bea@h.org;bea@h.org;"));
    assert!(
        lines[3].starts_with(b"Dara;dara@h.org;dara@h.org;") && lines[3].ends_with(b";more;\"and;more\"\r")
    );
    let left = place.read("out/no-address.csv");
    assert!(left.lines().nth(1).unwrap().starts_with("Cleo;;;;"), "a short record is filled up");
    assert!(run.stdout.replace("\n    ", " ").contains("lines (cells): 4 (1), 5 (4)"), "{}", run.stdout);
    assert!(run.stdout.contains("not UTF-8, first at byte 49 of list.csv"), "{}", run.stdout);
}

#[test]
fn finds_the_address_field_and_says_so() {
    let place = Place::with(&[("list.csv", b"who,first,second\nx,no,a@h.org\ny,b@h.org,c@h.org\n")]);
    let run = place.run("clean list.csv -o out");
    assert!(
        run.stdout.contains("address field: second (it has the most addresses: 2 in the first 2 records)"),
        "{}",
        run.stdout
    );
}

#[test]
fn tells_the_option_that_reaches_what_is_left() {
    let place = Place::with(&[("list.csv", b"email,my notes\n,write to a@h.org\nb@h.org,\n,paid @ gate\n")]);
    let run = place.run("clean list.csv --field email -o out");
    assert!(
        run.stdout.contains("2 records without a usable address hold an @ in another field"),
        "{}",
        run.stdout
    );
    let step = "1  more with an address in my notes:  ypogram clean list.csv --field email -o out-more --also 'my notes'";
    assert!(run.stdout.contains(step), "{}", run.stdout);
}

#[test]
fn several_sources_are_one_list() {
    let place = Place::with(&[
        ("a.csv", b"email,town\nada@h.org,Westmere\n"),
        ("b.tsv", b"name\temail\nAda\tADA@h.org\nBea\tbea@h.org\n"),
        ("c.txt", b"cleo@h.org\n\nada@h.org\n"),
    ]);
    let run = place.run("clean a.csv b.tsv c.txt -o out");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let kept = table(&place.read("out/kept.csv"));
    let told: Vec<_> =
        kept.iter().map(|r| (&*r["yp_address"], &*r["town"], &*r["name"], &*r["yp_source"])).collect();
    assert_eq!(
        told,
        [
            ("ada@h.org", "Westmere", "", "a.csv"),
            ("bea@h.org", "", "Bea", "b.tsv"),
            ("cleo@h.org", "", "", "c.txt")
        ]
    );
    assert_eq!(cells(&place, "out/duplicates.csv", "yp_same_as"), ["1", "1"]);
}

#[test]
fn text_and_standard_input() {
    let place = Place::with(&[]);
    let run =
        place.run_with("clean - --also line -o out", "call ada@h.org\r\n(bea@h.org), \"x\"\r\nnobody\n");
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert_eq!(cells(&place, "out/kept.csv", "yp_address"), ["ada@h.org", "bea@h.org"]);
    assert_eq!(cells(&place, "out/kept.csv", "line"), ["call ada@h.org", "(bea@h.org), \"x\""]);
    let run =
        place.run_with("clean - --from csv --delimiter ; --no-header -o two", "1;ada@h.org\n2;ADA@h.org\n");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let kept = place.read("two/kept.csv");
    assert!(
        kept.starts_with("field1;field2;yp_address;") && kept.contains("\n1;ada@h.org;ada@h.org;accept;"),
        "{kept}"
    );
}

#[test]
fn quoted_line_breaks_and_line_numbers() {
    let place = Place::with(&[("list.csv", b"email,notes\na@h.org,\"one\ntwo\nthree\"\nno at,\"\"\n")]);
    let run = place.run("clean list.csv -o out");
    assert!(run.stdout.contains("not-an-address  1  line 5: no at"), "{}", run.stdout);
    assert!(place.read("out/kept.csv").contains("a@h.org,\"one\ntwo\nthree\",a@h.org,accept,"));
}

#[test]
fn fail_on_stops_a_script() {
    let place = Place::with(&[("list.csv", b"email\na@h.org\ntest@h.org\n")]);
    assert_eq!(place.run("clean list.csv -o a --fail-on reject -q").code, 0);
    assert_eq!(place.run("clean list.csv -o b --fail-on review -q").code, 1);
    assert_eq!(place.run("clean list.csv -o c -q").stdout, "");
}

#[test]
fn learns_slips_from_the_list_itself() {
    let mut list = String::from("email\n");
    for i in 0..50 {
        list += &format!("member{i}@oldmill-press.org\n");
    }
    list += "bea1@oldmil-press.org\n";
    let place = Place::with(&[("list.csv", list.as_bytes())]);
    assert_eq!(place.run("clean list.csv -o a -q").code, 0);
    assert!(!place.path("a/review.csv").exists(), "one pass cannot know");
    assert_eq!(place.run("clean list.csv -o b -q --learn").code, 0);
    assert_eq!(cells(&place, "b/review.csv", "yp_findings"), ["typing-slip"]);
    assert_eq!(cells(&place, "b/review.csv", "yp_suggestion"), ["bea1@oldmill-press.org"]);
    let run = place.run_with("clean - --from csv -o c -q --learn", list);
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert_eq!(
        place.read("c/review.csv"),
        place.read("b/review.csv"),
        "standard input is kept to be read again"
    );
}

#[test]
fn a_mailbox_that_two_people_share_is_for_review() {
    let list = "email,name\nada@h-works.org,Ada Lovell\nADA@h-works.org,\"Lovell, Ada\"\nada@h-works.org,Bea Lovell\n\
                ada@h-works.org,\nnightowl@gmail.com,Cleo\nnight.owl@gmail.com,Dara\n";
    let place =
        Place::with(&[("list.csv", list.as_bytes()), ("off.toml", b"[severity]\nshared-mailbox = 'note'\n")]);
    assert_eq!(place.run("clean list.csv -o out -q").code, 0);
    let told = |name: &str| {
        let rows = table(&place.read(name));
        let told = rows
            .iter()
            .map(|r| [&*r["name"], &*r["yp_verdict"], &*r["yp_findings"], &*r["yp_same_as"]].join("|"));
        told.collect::<Vec<_>>()
    };
    assert_eq!(
        told("out/review.csv"),
        ["Bea Lovell|review|shared-mailbox|1", "Dara|review|free-provider shared-mailbox|5"]
    );
    assert_eq!(
        told("out/duplicates.csv"),
        ["Lovell, Ada|accept||1", "|accept||1"],
        "the same person, and nobody known"
    );
    place.run("clean list.csv -o off --rules off.toml -q");
    assert_eq!(told("off/duplicates.csv").len(), 4);
    assert!(place.run("clean list.csv -o none --person nmae").stderr.contains("did you mean --person name"));
}

#[test]
fn a_bounded_memory_changes_no_byte() {
    let place = Place::with_demo();
    std::fs::copy(place.path("members.csv"), place.path("again.csv")).unwrap();
    let call = "clean members.csv again.csv --field email --also notes --threads 2 --chunk-bytes 4000";
    let run = place.run(&format!("{call} -o whole"));
    let bounded = place.run(&format!("{call} -o bounded --memory 1K"));
    assert_eq!((run.code, bounded.code), (0, 0), "{}", bounded.stderr);
    assert_eq!(
        bounded.stdout.replace("bounded", "whole").replace("whole/  ", "whole/"),
        run.stdout.replace("whole/  ", "whole/")
    );
    assert_eq!(
        place.tree("bounded").into_values().collect::<Vec<_>>(),
        place.tree("whole").into_values().collect::<Vec<_>>()
    );
    let shared = cells(&place, "bounded/review.csv", "yp_findings");
    assert!(
        shared.iter().any(|codes| codes.contains("shared-mailbox")),
        "another person is told in both ways"
    );

    let members = place.bytes("members.csv");
    let piped = place.run_with("clean - --from csv --field email -o piped -q --memory 1K", members);
    assert_eq!(piped.code, 0, "{}", piped.stderr);
    assert_eq!(place.run("clean members.csv --field email -o file -q").code, 0);
    assert_eq!(place.read("piped/duplicates.csv"), place.read("file/duplicates.csv"));
}

/// What most people load back: the standard address in the field that it came from, and the original beside it.
#[test]
fn addresses_go_into_a_field_of_ones_own() {
    let list = b"nr,email,notes\n1,<Ada@H-Works.org>,\n2,,write to bea@h-works.org\n3,x@@y,\n4,cleo@gmial.com,\n5,ada@h-works.org,\n6,,\n";
    let place = Place::with(&[("list.csv", list)]);
    let run = place.run(
        "clean list.csv --field email --also notes --into email --columns nr,email,yp_original -o out -q",
    );
    assert_eq!(run.code, 0, "{}", run.stderr);
    let head = "nr,email,yp_original\n";
    assert_eq!(
        place.read("out/kept.csv"),
        format!("{head}1,ada@h-works.org,<Ada@H-Works.org>\n2,bea@h-works.org,\n")
    );
    assert_eq!(place.read("out/duplicates.csv"), format!("{head}5,ada@h-works.org,ada@h-works.org\n"));
    // What is not accepted stays as it was.
    assert!(place.read("out/review.csv").contains("\n4,cleo@gmial.com,cleo@gmial.com,"));
    assert!(place.read("out/rejected.csv").contains("\n3,x@@y,x@@y,"));
    assert_eq!(place.read("out/no-address.csv"), format!("{head}6,,\n"));
    let run = place.run("clean list.csv --into mail -o other");
    assert!(run.code == 2 && run.stderr.contains("did you mean --into email?"), "{}", run.stderr);
    assert_eq!(place.run("clean list.csv --field email --into email --to jsonl -o lines -q").code, 0);
    assert!(place.read("lines/kept.jsonl").starts_with("{\"nr\":\"1\",\"email\":\"ada@h-works.org\","));
}

/// By a number of one's own, and by mailbox; the folder may be the one that is replaced.
#[test]
fn changes_since_an_earlier_run_are_listed() {
    let first = "nr,email,phone\n1,ada@h-works.org,1\n2,bea@h-works.org,2\n3,cleo@gmial.com,3\n4,,4\n5,ada@h-works.org,5\n6,x@@y,6\n";
    let second = "nr,email,phone\n1,Ada@h-works.org,1\n2,bea@h-works.org,22\n3,cleo@gmail.com,3\n4,,4\n6,x@@y,6\n7,new@h-works.org,7\n";
    let place = Place::with(&[("list.csv", first.as_bytes())]);
    assert_eq!(place.run("clean list.csv --id nr -o out -q").code, 0);
    std::fs::write(place.path("list.csv"), second).unwrap();
    let changes = |name: &str| -> Vec<[String; 5]> {
        let column = |row: &std::collections::BTreeMap<String, String>, name: &str| row[name].clone();
        let rows = table(&place.read(name));
        let names = ["nr", "yp_change", "yp_outcome_before", "yp_outcome", "yp_changed_fields"];
        let mut rows: Vec<_> = rows.iter().map(|row| names.map(|name| column(row, name))).collect();
        rows.sort();
        rows
    };
    let run = place.run("clean list.csv --id nr --since out -o by-mailbox --id nr --json");
    assert_eq!(run.code, 2, "an option stands twice: {}", run.stderr);
    let run = place.run("clean list.csv --since out -o by-mailbox --json");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let said: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!(said["since"].to_string(), r#"{"changed":2,"gone":2,"moved":0,"new":2}"#);
    let run = place.run("clean list.csv --id nr --since out -o out --force");
    assert!(run.stdout.contains("Since the earlier run (records; see changes.csv)"), "{}", run.stdout);
    let expected = [
        ["1", "changed", "kept", "kept", "email"],
        ["2", "changed", "kept", "kept", "phone"],
        ["3", "moved", "review", "kept", "email"],
        ["5", "gone", "duplicate", "", ""],
        ["7", "new", "", "kept", ""],
    ];
    assert_eq!(changes("out/changes.csv"), expected);
    let receipt: serde_json::Value = serde_json::from_str(&place.read("out/receipt.json")).unwrap();
    assert_eq!(receipt["since"].to_string(), r#"{"changed":2,"gone":1,"moved":1,"new":1}"#);
    // Once more nothing has changed, and without --since the list goes.
    assert_eq!(place.run("clean list.csv --id nr --since out -o out --force -q").code, 0);
    assert!(changes("out/changes.csv").is_empty());
    assert_eq!(place.run("clean list.csv -o out --force -q").code, 0);
    assert!(!place.path("out/changes.csv").exists());
    for (call, told) in [
        ("clean list.csv --since nowhere -o a", "--since nowhere: there is no receipt.json in it"),
        ("clean list.csv --since out --columns nr,email -o a", "an output has no column ‘yp_key’"),
    ] {
        let run = place.run(call);
        assert!(run.code == 2 && run.stderr.contains(told), "{call}: {}", run.stderr);
        assert!(!place.path("a").exists());
    }
}

/// `clean` prefers the same records as `dedupe`, and fills them with the same cells.
#[test]
fn the_record_that_stays_is_chosen_as_in_dedupe() {
    let list = b"nr,email,phone,joined,kind\n1,ada@h-works.org,,2025-03-01,gold\n2,Ada@h-works.org,55,2026-01-01,\n3,bea@h-works.org,7,,silver\n4,bea@h-works.org,8,2020-01-01,gold\n5,cy@h-works.org,,,\n";
    let place = Place::with(&[("list.csv", list)]);
    let own = "--columns nr,email,phone,joined,kind -q --force";
    for options in [
        "--survivor last --merge",
        "--survivor fullest --merge --collect phone",
        "--survivor newest:joined --merge --collect phone --collect kind",
        "--survivor oldest:joined",
        "--survivor where:kind=silver,gold --merge",
        "--survivor best --by kind --merge",
        "--merge",
    ] {
        for memory in ["1G", "1K"] {
            let call = format!(
                "clean list.csv --field email {options} {own} --shared drop --memory {memory} -o out"
            );
            assert_eq!(place.run(&call).code, 0, "{call}");
            let call = format!("dedupe list.csv --field email {options} {own} --shared drop -o unique.csv");
            assert_eq!(place.run(&call).code, 0, "{call}");
            assert_eq!(place.read("out/kept.csv"), place.read("unique.csv"), "{options}");
            assert_eq!(place.path("out/filled.csv").exists(), options.contains("merge"));
            if options.contains("merge") {
                assert_eq!(place.read("out/filled.csv"), place.read("unique-changes.csv"), "{options}");
            }
        }
    }
    // Duplicates are named by their identifier, also where it comes later, and a filled cell stands beside the address.
    let call = "clean list.csv --field email --id nr --survivor newest:joined --merge --into email -o out --force --json";
    let run = place.run(call);
    let said: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!(said["merged"].to_string(), r#"{"cells":1,"records":1}"#);
    assert_eq!(cells(&place, "out/duplicates.csv", "yp_same_as"), ["2", "4"]);
    let kept = table(&place.read("out/kept.csv")).remove(0);
    assert_eq!(
        ["email", "kind", "yp_original"].map(|name| &*kept[name]),
        ["ada@h-works.org", "gold", "Ada@h-works.org"]
    );
    let receipt: serde_json::Value = serde_json::from_str(&place.read("out/receipt.json")).unwrap();
    assert_eq!(receipt["merged"], said["merged"]);
    for (call, told) in [
        ("clean list.csv --survivor newest -o a", "does not say which record stays"),
        ("clean list.csv --survivor newest:joind -o a", "there is no field ‘joind’"),
        ("clean list.csv --merge --collect fone -o a", "did you mean --collect phone?"),
        ("clean list.csv --since out -o a.xlsx", "a workbook has no place for changes.csv"),
    ] {
        let run = place.run(call);
        assert!(run.code == 2 && run.stderr.contains(told), "{call}: {}", run.stderr);
    }
}

/// `clean` looks for duplicates among the same records as `dedupe`.
#[test]
fn duplicates_are_looked_for_within_fields() {
    let list = b"nr,email,year,city\n1,ada@h-works.org,2025,Marsh\n2,Ada@h-works.org,2026,marsh \n3,ada@h-works.org,2025,Quarry\n4,ada@h-works.org,2025,MARSH\n";
    let place = Place::with(&[("list.csv", list)]);
    for (options, duplicates) in [
        ("", &["2", "3", "4"][..]),
        ("--within year", &["3", "4"]),
        ("--by city", &["2", "4"]),
        ("--within year --by city", &["4"]),
    ] {
        for memory in ["1G", "1K"] {
            let run = place
                .run(&format!("clean list.csv --field email {options} --memory {memory} -o out --force -q"));
            assert_eq!(run.code, 0, "{options}: {}", run.stderr);
            assert_eq!(cells(&place, "out/duplicates.csv", "nr"), duplicates, "{options} {memory}");
        }
        let run = place
            .run(&format!("dedupe list.csv --field email {options} -o u.csv --dropped d.csv --force -q"));
        assert_eq!(run.code, 0, "{options}: {}", run.stderr);
        assert_eq!(cells(&place, "d.csv", "nr"), duplicates, "{options}");
    }
    let run = place.run("clean list.csv --within yaer -o other");
    assert!(run.code == 2 && run.stderr.contains("did you mean --within year?"), "{}", run.stderr);
}
