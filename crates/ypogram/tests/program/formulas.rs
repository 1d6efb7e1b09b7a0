//! Cells that a spreadsheet would run: counted, guarded in every table, and read back without the guard.

use crate::{Place, table};

const LIST: &str = "\n\nname,email,phone,notes\n\
\"=HYPERLINK(\"\"http://x.example\"\")\",ada@h-works.org,+44 1632 960413,-\n\
@bea,bea@h-works.org,-1.5,\"+cmd|' /C calc'!A0\"\n\
'=1+1,+cleo@h-works.org,,fine\n\
Dara,+cleo@h-works.org,,\n\n";

#[test]
fn they_are_guarded_and_read_back() {
    let place = Place::with(&[("l.csv", LIST.as_bytes()), ("n.txt", b"\"=Ada\" <ada@h-works.org>\n")]);
    let outputs: &[(&str, &[&str])] = &[
        ("check l.csv -o out.csv", &["out.csv"]),
        ("split l.csv -o out.csv", &["out.csv"]),
        ("clean l.csv -o out", &["out/kept.csv", "out/review.csv"]),
        ("dedupe l.csv -o kept.csv --dropped dropped.csv", &["kept.csv", "dropped.csv"]),
        ("dedupe l.csv --report out.csv --groups groups.csv", &["out.csv", "groups.csv"]),
        ("dedupe l.csv -o kept.csv --merge --changes out.csv --shared drop", &["kept.csv", "out.csv"]),
        ("extract n.txt -o out.csv", &["out.csv"]),
        ("extract l.csv --row-per-address -o out.csv", &["out.csv"]),
        ("check l.csv -o out.csv --columns notes,email,name --sort-by name", &["out.csv"]),
    ];
    for (call, files) in outputs {
        let (mut plain, mut guarded) = (0, 0);
        for (guard, begins) in [("", &mut plain), ("--guard-formulas", &mut guarded)] {
            let run = place.run(&format!("{call} --force --full {guard}"));
            assert!(run.code < 2, "{call}: {}", run.stderr);
            let like = |cell: &String| ypogram_io::csv::is_formula_like(cell.as_bytes());
            for file in *files {
                let rows = table(&place.read(file));
                *begins += rows.iter().flat_map(|row| row.values()).filter(|cell| like(cell)).count();
            }
        }
        assert!(plain > 0 && guarded == 0, "{call}: {plain} {guarded}");
    }
    // Four in the fields; in a guarded table none, and its cells are what they were.
    assert_eq!(place.run("check l.csv -o out.csv --force --figure formula-cells").stdout, "5\n");
    assert_eq!(place.run("clean l.csv -o out --force --figure blank-lines").stdout, "3\n");
    place.run("check l.csv -o guarded.csv --guard-formulas --columns name,email,phone,notes");
    assert_eq!(place.run("check guarded.csv -o out.csv --force --figure formula-cells").stdout, "0\n");
    let judged = |file: &str| {
        let run = place.run(&format!("check {file} -q --columns yp_address,yp_verdict,yp_findings"));
        run.stdout
    };
    assert_eq!(judged("guarded.csv"), judged("l.csv"));
    assert_eq!(place.run("check l.csv --to plain --guard-formulas").code, 2);
}
