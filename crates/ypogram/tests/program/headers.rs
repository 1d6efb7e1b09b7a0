//! Where a table's header stands, and tables that no ending tells.

use crate::{Place, table};

#[test]
fn no_first_record_is_lost() {
    let records = "Ada Lovell,ada@h-works.org\nBea Ash,bea@h-works.org\n";
    let titled =
        "Open nights;;\nExported;2026-11-01;\n\nid;name;mail\n1;Ada;ada@h-works.org\n2;Bea;bea@h-works.org\n";
    let place = Place::with(&[
        ("bare.csv", records.as_bytes()),
        ("one.csv", b"ada@h-works.org\nbea@h-works.org\n"),
        ("fault.csv", b"ada@@h-works.org,x\nbea@h-works.org,y\n"),
        ("values.csv", b"1,2026-01-01\n2,2026-01-02\n"),
        ("title.csv", titled.as_bytes()),
        ("sep.csv", b"sep=;\r\nname;mail\r\n\"Ada, A.\";ada@h-works.org\r\nBea;bea@h-works.org\r\n"),
        ("list.txt", b"name,mail\nAda,ada@h-works.org\nBea,bea@h-works.org\n"),
        (
            "named.txt",
            b"Stern, Ada <ada@h-works.org>\nFalk, Bea <bea@h-works.org>\nAsh, Cleo <cleo@h-works.org>\n",
        ),
    ]);
    // The file, the fields in front of ours, how that is said, and records.
    for (file, fields, said, records) in [
        ("bare.csv", "field1 field2", "comma-separated, without a header: line 1 holds an address", 2),
        ("one.csv", "field1", "comma-separated, without a header: line 1 holds an address", 2),
        ("fault.csv", "field1 field2", "without a header: line 1 holds an address", 2),
        ("values.csv", "field1 field2", "without a header: line 1 holds nothing but values", 2),
        ("title.csv", "id name mail", "semicolon-separated, with a header in line 4", 2),
        ("sep.csv", "name mail", "semicolon-separated by its line sep=, with a header in line 2", 2),
        ("list.txt", "name mail", "comma-separated by its content, with a header", 2),
        ("named.txt", "line", "text, one record a line", 3),
    ] {
        let run = place.run(&format!("check {file} -o out.csv --force"));
        assert_eq!(run.code, 0, "{file}: {}", run.stderr);
        assert!(run.stdout.contains(said), "{file}: {}", run.stdout);
        let out = place.read("out.csv");
        let header = out.lines().next().unwrap().replace(';', ",");
        let own = header.split(',').take_while(|name| !name.starts_with("yp_")).collect::<Vec<_>>().join(" ");
        assert_eq!((own.as_str(), out.lines().count() - 1), (fields, records), "{file}");
        if !fields.contains("name") {
            continue;
        }
        let piped = place.run_with("extract - -q", place.bytes(file)).stdout;
        assert_eq!(
            piped,
            place.run(&format!("extract {file} -q")).stdout.replace(file, "standard input"),
            "{file}"
        );
    }
}

#[test]
fn what_was_recognised_can_be_overruled() {
    let place = Place::with(&[
        ("bare.csv", b"Ada,ada@h-works.org\nBea,bea@h-works.org\n"),
        ("list.txt", b"name,mail\nAda,ada@h-works.org\nBea,bea@h-works.org\n"),
        ("titled.txt", b"Members of the club\nname,mail\nAda,ada@h-works.org\n"),
        ("title.csv", b"Members\nname,mail\n\"Ada\nLovell\",ada@h-works.org\nBea,bea@h-works.org\n"),
    ]);
    for (call, rows, first) in [
        ("check bare.csv --header 1 -o - -q", 1, "Ada,ada@h-works.org,"),
        ("check title.csv --header 2 -o - -q", 2, "name,mail,"),
        ("check title.csv --header 5 -o - -q", 0, "Bea,bea@h-works.org,"),
        ("check title.csv --no-header --field field1 -o - -q", 4, "field1,"),
        ("check list.txt --from text -o - -q", 3, "line,"),
        ("split list.txt --delimiter , -o - -q", 2, "name,mail,"),
        ("check titled.txt -o - -q", 3, "line,"),
        ("check titled.txt --header 2 -o - -q", 1, "name,mail,"),
    ] {
        let run = place.run(call);
        assert_eq!(run.code, 0, "{call}: {}", run.stderr);
        assert!(run.stdout.starts_with(first), "{call}: {}", run.stdout);
        assert_eq!(table(&run.stdout).len(), rows, "{call}");
    }
    let lines = place.run("check title.csv --show address=yes -o - -q --columns yp_line").stdout;
    assert_eq!(lines, "yp_line\n3\n5\n", "lines are those of the file");
    for (call, told) in [
        ("check bare.csv --field mail", "say --header 1"),
        ("check list.txt --field line", "say --from text"),
        ("check title.csv --header 4", "no row starts in line 4"),
        ("check title.csv --header 99", "no row starts in line 99"),
        ("check title.csv --header 0", "0 is not in"),
        ("check title.csv --header 1 --no-header", "exclude each other"),
    ] {
        let run = place.run(call);
        assert_eq!(run.code, 2, "{call}");
        assert!(run.stderr.contains(told), "{call}: {}", run.stderr);
    }
}
