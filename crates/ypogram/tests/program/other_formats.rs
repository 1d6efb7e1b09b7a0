//! Workbooks, databases, address books, mail, other encodings and compression, in and out of every command.

use std::process::Command;

use crate::{Place, Run, table};

/// Members as everybody keeps them, one of them with a field too few.
const MEMBERS: &str = "nr,name,email\n1,Ada Lovell,Ada@H-Works.org\n2,Jürgen,j@@h-works.org\n3,Bea,bea@gmail.com\n4,Bea,bea+x@gmail.com\n5,Cy,\n";

/// The same members in every format that has whole tables.
#[cfg(not(feature = "parquet"))]
const SOURCES: &[&str] = &["m.xlsx", "m.sqlite", "m.json", "m.jsonl", "m.csv.gz", "m.tsv.zst"];
#[cfg(feature = "parquet")]
const SOURCES: &[&str] =
    &["m.xlsx", "m.sqlite", "m.json", "m.jsonl", "m.csv.gz", "m.tsv.zst", "m.parquet", "m.arrow", "m.arrows"];

fn place() -> Place {
    let place = Place::with(&[("m.csv", MEMBERS.as_bytes())]);
    for name in SOURCES {
        let run = place.run(&format!("check m.csv --columns nr,name,email -q -o {name}"));
        assert_eq!(run.code, 0, "{name}: {}", run.stderr);
    }
    place
}

fn rows(run: &Run) -> Vec<String> {
    assert!(run.code <= 1, "{}", run.stderr);
    run.stdout.lines().map(str::to_owned).collect()
}

#[test]
fn every_command_reads_every_format() {
    let place = place();
    let formats = SOURCES;
    for call in [
        "check SOURCE -q --to csv",
        "split SOURCE -q --to csv",
        "dedupe SOURCE --mark -q --to csv -o -",
        "survey SOURCE --figure records",
        "clean SOURCE --figure kept",
        "extract SOURCE -q --to plain",
        "extract SOURCE -q --to plain --field email",
    ] {
        let expected = rows(&place.run(&call.replace("SOURCE", "m.csv")));
        for format in formats {
            let found = rows(&place.run(&call.replace("SOURCE", format)));
            assert_eq!(found, expected, "{format}: {call}");
        }
    }
    let by_record = |source: &str| {
        let run = place.run(&format!("extract {source} --row-per-address -q -o by-record.csv --force"));
        assert_eq!(run.code, 0, "{source}: {}", run.stderr);
        place.read("by-record.csv")
    };
    formats.iter().for_each(|format| assert_eq!(by_record(format), by_record("m.csv"), "{format}"));
}

#[test]
fn extract_searches_every_sheet_and_table() {
    let place = place();
    assert!(place.run("clean m.csv -o book.xlsx").code <= 1);
    for (format, table) in [("m.csv", "a"), ("m.tsv.zst", "B c")] {
        let output = format!("two.sqlite#{table}");
        let run = place.run_words(&["check", format, "-q", "-o", &output], b"");
        assert_eq!(run.code, 0, "{}", run.stderr);
    }
    let sources = |source: &str, input: Vec<u8>| {
        let run = place.run_words(&["extract", source, "-q"], input);
        assert_eq!(run.code, 0, "{}", run.stderr);
        let mut sources: Vec<String> =
            table(&run.stdout).iter().map(|row| row["source"].to_string()).collect();
        sources.dedup();
        sources
    };
    assert_eq!(sources("two.sqlite", vec![]), ["two.sqlite#a", "two.sqlite#B c"]);
    assert_eq!(sources("two.sqlite#B c", vec![]), ["two.sqlite"]);
    let found = sources("book.xlsx", vec![]);
    assert_eq!(found, ["book.xlsx#kept", "book.xlsx#rejected", "book.xlsx#duplicates"]);
    let piped = sources("-", place.bytes("book.xlsx"));
    assert_eq!(
        piped,
        found.iter().map(|name| name.replace("book.xlsx", "standard input")).collect::<Vec<_>>()
    );
}

#[test]
fn every_command_writes_every_format() {
    let place = place();
    let expected = table(&place.run("check m.csv -q").stdout);
    let of_columns: &[&str] =
        if cfg!(feature = "parquet") { &["o.parquet", "o.arrow", "o.arrows"] } else { &[] };
    let others = ["o.xlsx", "o.sqlite#rows", "o.json", "o.jsonl", "o.csv.gz", "o.tsv.zst"];
    for name in others.iter().chain(of_columns) {
        let run = place.run(&format!("check m.csv -q -o {name}"));
        assert_eq!(run.code, 0, "{name}: {}", run.stderr);
        let back = table(&place.run(&format!("check {name} --prefix x_ --to csv -q --field email")).stdout);
        assert_eq!(back.len(), expected.len(), "{name}");
        for (row, own) in back.iter().zip(&expected) {
            for (column, cell) in own {
                let found = match (&*row[column], &**column) {
                    ("TRUE" | "1", "yp_well_formed") => "true",
                    ("FALSE" | "0", "yp_well_formed") => "false",
                    (found, _) => found,
                };
                assert_eq!(found, cell, "{name}: {column}");
            }
        }
    }
    let run = place.run("clean m.csv -o cleaned.xlsx");
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert!(run.stdout.contains("Every record is in one place (cleaned.xlsx)"), "{}", run.stdout);
    for (sheet, records) in [("kept", 2), ("rejected", 1), ("duplicates", 1), ("no-address", 1)] {
        let sheet = place.run(&format!("check cleaned.xlsx#{sheet} --prefix x_ --to csv -q"));
        assert_eq!(table(&sheet.stdout).len(), records, "{}", sheet.stderr);
    }
}

/// A name never lies, nothing is read as what it is not, and nothing is left where something is wrong.
#[test]
fn wrong_formats_are_refused() {
    let place = place();
    let png = b"\x89PNG\r\n\x1A\n\0\0\0\rIHDR";
    for (name, bytes) in [
        ("p.png", &png[..]),
        ("p.csv", png),
        ("p.pdf", b"%PDF-1.7\n%\xE2\xE3\n"),
        ("zeros.csv", b"a,b\n\0,1\n"),
        ("text.xlsx", MEMBERS.as_bytes()),
        ("open.vcf", b"BEGIN:VCARD\nFN:Ada\n"),
        ("change.ldif", b"dn: cn=a\nchangetype: delete\n"),
        ("array.json", b"[1, 2]"),
        ("object.json", b"{\"a\": []}"),
        ("broken.json", b"\xEF\xBB\xBF[{\"a\": 1},\n\n{\"a\":}]"),
    ] {
        std::fs::write(place.path(name), bytes).unwrap();
    }
    let before = place.tree("");
    for (call, code, told) in [
        ("check p.png", 2, "p.png: this is a picture (PNG), which is not read"),
        ("extract p.csv -o o.csv", 2, "p.csv: this is a picture (PNG)"),
        ("survey p.pdf", 2, "this is a PDF document"),
        ("clean zeros.csv", 2, "this is a binary file (a zero byte at byte 4)"),
        ("check m.xlsx --from csv", 2, "m.xlsx: this is a workbook (XLSX), and not separated values"),
        ("check text.xlsx --from xlsx", 2, "text.xlsx: this is text, and not a workbook (XLSX)"),
        ("check m.xlsx --sheet Nights", 2, "there is no sheet ‘Nights’\n  → its sheets are: rows"),
        ("check m.csv#rows", 2, "separated values has no sheets or tables to choose from"),
        ("check m.sqlite#none", 2, "there is no table ‘none’\n  → its tables are: m"),
        ("check m.sqlite#delete␣from␣m", 2, "there is no table ‘delete from m’"),
        ("check m.sqlite#select␣1;␣drop␣table␣m", 2, "what stands behind ‘#’ is not one SELECT"),
        ("check open.vcf", 2, "open.vcf, line 1: the card that begins here never ends"),
        ("check change.ldif", 2, "change.ldif, line 2: this is a change (delete), and no entry"),
        ("check array.json", 2, "array.json: cannot be read: element 1 of the array is no object"),
        ("check object.json", 2, "object.json: this JSON document is no array of objects"),
        ("check broken.json", 2, "broken.json, element 2: this is not a JSON object; see byte 6"),
        ("check m.csv -o o.ods", 3, "o.ods: a workbook (ODS) is not written"),
        ("check m.csv -o o.pdf", 3, "o.pdf: ‘.pdf’ is not written"),
        ("check m.csv -o o.xlsx --to csv", 3, "the name says a workbook (XLSX), and --to another format"),
        ("check m.csv -o o.csv#rows", 3, "only a database has tables to choose from"),
        ("check m.csv -o m.sqlite#m", 3, "there is a table ‘m’"),
        ("check m.sqlite -o m.sqlite#m --force", 2, "is read, and would be written over"),
        ("clean m.csv -o o.sqlite", 3, "the outputs of clean are several"),
        ("clean m.csv -o m.xlsx", 3, "m.xlsx: the file exists"),
        ("check m.csv --encoding klingon", 2, "there is no encoding ‘klingon’"),
    ] {
        let run = place.run(call);
        assert_eq!(run.code, code, "{call}: {}", run.stderr);
        assert!(run.stderr.contains(told), "{call}: {}", run.stderr);
        assert!(place.tree("") == before, "{call} leaves something behind, or changes something");
    }
    // Text is text, whatever it is called.
    assert!(place.run("check text.xlsx -q --to csv").stdout.contains("Ada Lovell"));
}

#[test]
fn text_in_other_encodings_is_decoded() {
    let latin: Vec<u8> =
        "name;mail\nAda;ada@h-works.org\nJürgen;jürgen@h-works.org\n".chars().map(|c| c as u8).collect();
    let place = Place::with(&[("l.csv", &latin)]);
    let run = place.run("check l.csv -o o.csv");
    assert!(
        run.stdout.contains("read as windows-1252, by line 3: ‘Jürgen;jürgen@h-works.org’"),
        "{}",
        run.stdout
    );
    assert!(place.read("o.csv").contains("Jürgen;jürgen@h-works.org;"), "{}", place.read("o.csv"));
    // Places are those in the file, whatever it was decoded to.
    let run = place.run("extract l.csv -q --columns address,line,offset");
    assert_eq!(run.stdout, "address,line,offset\nada@h-works.org,2,14\njürgen@h-works.org,3,37\n");
    let run = place.run_with(
        "check - -q --encoding shift_jis --columns name",
        b"name,mail\n\x8ER\x93c,a@h-works.org\n".to_vec(),
    );
    assert_eq!(run.stdout, "name\n山田\n");
    // UTF-16 is known by its zeros where it has no mark.
    let wide: Vec<u8> =
        "name,mail\nJürgen,j@h-works.org\n".encode_utf16().flat_map(u16::to_le_bytes).collect();
    std::fs::write(place.path("wide.csv"), wide).unwrap();
    let run = place.run("check wide.csv -q --columns name");
    assert_eq!(run.stdout, "name\nJürgen\n", "{}", run.stderr);
    let run = place.run("extract wide.csv -q --columns address,line,offset");
    assert_eq!(run.stdout, "address,line,offset\nj@h-works.org,2,34\n");
    let run = place.run("check l.csv -q --encoding l.csv=cp1251 --columns name");
    assert_eq!(run.stdout, "name\nAda\nJьrgen\n");
}

/// Each encoding reads back as what was written; what it lacks is an error, and nothing is written.
#[test]
fn rows_are_written_in_other_encodings() {
    let place = Place::with(&[
        ("u.csv", "name,email\nJürgen,j@h-works.org\n".as_bytes()),
        ("l.csv", "name,email\nŁ,l@h-works.org\n".as_bytes()),
    ]);
    for (options, start) in [
        ("--bom", &b"\xEF\xBB\xBFname,email\nJ\xC3\xBC"[..]),
        ("--output-encoding latin1", b"name,email\nJ\xFC"),
        ("--output-encoding latin1 --bom", b"name,email\nJ\xFC"),
        ("--output-encoding utf-16le", b"\xFF\xFEn\0a\0"),
        ("--output-encoding utf-16be --sort-by name", b"\xFE\xFF\0n\0a"),
    ] {
        let run = place.run(&format!("check u.csv -q --columns name,email {options} -o o.csv --force"));
        assert_eq!(run.code, 0, "{options}: {}", run.stderr);
        assert!(place.bytes("o.csv").starts_with(start), "{options}: {:?}", place.bytes("o.csv"));
        let back = place.run("check o.csv -q --columns name,email --output-encoding utf-8");
        assert_eq!(
            back.stdout.trim_start_matches('\u{FEFF}'),
            "name,email\nJürgen,j@h-works.org\n",
            "{options}"
        );
    }
    for (call, told) in [
        ("check l.csv --output-encoding latin1 -o p.csv", "windows-1252 has no ‘Ł’ (U+0141)"),
        ("check u.csv --bom -o p.xlsx", "--output-encoding and --bom are for text"),
    ] {
        let run = place.run(call);
        assert!(run.code > 1 && run.stderr.contains(told), "{call}: {}", run.stderr);
    }
    assert!(!place.path("p.csv").exists() && !place.path("p.xlsx").exists());
}

/// A title block, merged cells, hidden rows, a formula, a link elsewhere, dates and percentages, and a second sheet.
#[test]
fn a_workbook_reads_as_a_person_sees_it() {
    let place = Place::with_demo();
    let run = place.run("check equipment.xlsx -o rows.csv");
    for told in [
        "equipment.xlsx (sheet ‘Equipment’, with a header in row 4)",
        "2 rows are hidden in the sheet ‘Equipment’ and read like the others",
        "the sheet ‘Equipment’ was read; --sheet reads another one: Rota",
        "other-link  1  line 9: ",
    ] {
        assert!(run.stdout.contains(told), "{told}: {}", run.stdout);
    }
    let rows = table(&place.read("rows.csv"));
    assert_eq!(rows.len(), 30);
    let cell = |row: usize, column: &str| rows[row][column].as_str();
    assert_eq!((cell(1, "case"), cell(1, "since"), cell(1, "deposit")), ("0047", "2026-02-02", "35.5"));
    assert_eq!(
        (cell(2, "share insured"), cell(4, "yp_remark")),
        ("12.5%", "edda.gruenwald@fernhollow.example")
    );
    assert_eq!(
        (cell(7, "borrower"), cell(8, "borrower")),
        ("Viggo Ravensdale", "Viggo Ravensdale"),
        "merged"
    );
    assert_eq!(place.run("survey equipment.xlsx --sheet 2 --figure records").stdout, "8\n");
    let run = place.run("extract equipment.xlsx -q --columns address,field,record,line,offset --first 1");
    assert!(run.stdout.contains("edda.gruenwald@fernhollow.example  email"), "{}", run.stdout);
}

#[test]
fn a_table_goes_into_a_database_that_is_there() {
    let place = place();
    let run = place.run("check m.csv -q -o m.sqlite#judged --columns nr,yp_address");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let run =
        place.run("check m.sqlite#judged -q -o m.sqlite#again --columns nr --field yp_address --prefix x_");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let select = "m.sqlite#select␣nr,yp_address␣from␣judged␣where␣yp_address␣is␣not␣null␣order␣by␣nr␣desc";
    let run = place.run(&format!("check {select} -q --to csv --columns nr,yp_address --prefix x_"));
    assert_eq!(run.stdout, "nr,yp_address\n4,bea+x@gmail.com\n3,bea@gmail.com\n1,ada@h-works.org\n");
    let run = place.run("check m.sqlite");
    assert!(run.stderr.contains("the database has 3 tables: m, judged, again"), "{}", run.stderr);
    assert_eq!(place.run("check m.csv -q -o m.sqlite#again --force").code, 0);
    assert_eq!(table(&place.run("check m.sqlite#again -q --prefix x_ --to csv").stdout).len(), 5);
}

/// Rows are added to a table by the names of its columns, all or none, and what refuses one is named with its row.
#[cfg(feature = "sqlite")]
#[test]
fn rows_are_added_to_a_table() {
    let place = Place::with(&[
        ("new.csv", b"no,mail,note\n3,cy@h-works.org,x\n4,dee@h-works.org,y\n"),
        ("twice.csv", b"no,mail\n5,eve@h-works.org\n1,ada@h-works.org\n"),
        ("long.csv", b"no,mail\n60,fay@h-works.org,more\n"),
    ]);
    let path = place.path("m.sqlite");
    let database = rusqlite::Connection::open(&path).unwrap();
    let made = "CREATE TABLE people (no INTEGER PRIMARY KEY, Mail TEXT NOT NULL, state TEXT DEFAULT 'new'); \
                INSERT INTO people (no, mail) VALUES (1, 'ada@h-works.org'); CREATE VIEW seen AS SELECT * FROM people";
    database.execute_batch(made).unwrap();
    let rows = || -> Vec<(i64, String, String)> {
        let mut query = database.prepare("SELECT * FROM people ORDER BY no").unwrap();
        let rows = query.query_map([], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)));
        rows.unwrap().map(Result::unwrap).collect()
    };
    let add = |source: &str, columns: &str, more: &str| {
        place.run(&format!(
            "check {source} --no-rules -q --append -o m.sqlite#people --columns {columns} {more}"
        ))
    };
    let row = |no, mail: &str| (no, mail.to_owned(), "new".to_owned());
    let added = add("new.csv", "yp_address=MAIL,no", "");
    assert_eq!((added.code, &*added.stderr), (0, ""));
    let expected = [row(1, "ada@h-works.org"), row(3, "cy@h-works.org"), row(4, "dee@h-works.org")];
    assert_eq!(rows(), expected);
    for (source, columns, code, told) in [
        ("twice.csv", "no,mail", 3, "row 2: UNIQUE constraint failed"),
        ("new.csv", "no,note", 3, "has no column note"),
        ("new.csv", "mail", 0, ""),
        ("long.csv", "no,mail", 0, ""),
    ] {
        let run = add(source, columns, "");
        assert!(run.code == code && run.stderr.contains(told), "{source}: {} {}", run.code, run.stderr);
        if code > 0 {
            assert_eq!(rows(), expected);
        }
    }
    for (call, code, told) in [
        ("check new.csv --append -o m.sqlite#persons", 3, "no table ‘persons’ that rows could be added to"),
        ("check new.csv --append -o m.sqlite#seen --columns no", 3, "because it is a view"),
        ("check new.csv --append -o new2.csv", 3, "rows are added to tables of databases"),
        ("check new.csv --append -o none.sqlite#people", 3, "rows are added to tables of databases"),
        ("check new.csv --append", 2, "--output"),
        ("check new.csv --append --force -o m.sqlite#people", 2, "exclude each other"),
        ("check m.sqlite#people --append -o m.sqlite#people", 2, "is read, and would be written over"),
    ] {
        let run = place.run(call);
        assert!(run.code == code && run.stderr.contains(told), "{call}: {} {}", run.code, run.stderr);
    }
    // Other commands add their rows too.
    let count = |call: &str| {
        let before = rows().len();
        let run = place.run(&format!("{call} --no-rules -q --append -o m.sqlite#people"));
        assert_eq!(run.code, 0, "{call}: {}", run.stderr);
        rows().len() - before
    };
    assert_eq!(count("extract new.csv --columns address=mail"), 2);
    assert_eq!(count("dedupe new.csv --columns mail"), 2);
    assert_eq!(count("split new.csv --columns yp_local_part=mail"), 2);
    assert_eq!(count("domains new.csv --columns domain=mail"), 1);
}

/// Records of a table with a primary key are named by it, as `--id` names them by a field, in every command.
#[cfg(feature = "sqlite")]
#[test]
fn a_primary_key_names_records() {
    let place = Place::with(&[]);
    let database = rusqlite::Connection::open(place.path("m.sqlite")).unwrap();
    let rows = "('b', 2, 'ada@h-works.org'), ('a', 1, 'ADA@h-works.org'), ('a', 2, 'x@@y'), ('c', 1, 'bea@h-works.org')";
    let made = format!(
        "CREATE TABLE single (no INTEGER PRIMARY KEY, grp TEXT, mail TEXT); \
         CREATE TABLE several (grp TEXT, no INTEGER, mail TEXT, PRIMARY KEY (no, grp)); CREATE TABLE bare (mail TEXT); \
         INSERT INTO several (grp, no, mail) VALUES {rows}; INSERT INTO single SELECT rowid, grp, mail FROM several; \
         INSERT INTO bare SELECT mail FROM several"
    );
    database.execute_batch(&made).unwrap();
    for (source, place_of_fault, same_as) in [
        ("m.sqlite#single", "line 3 (3): x@@y", "1"),
        ("m.sqlite#several", "line 3 (2, a): x@@y", "2, b"),
        ("m.sqlite#bare", "line 3: x@@y", "1"),
        ("m.sqlite#select␣*␣from␣single", "line 3: x@@y", "1"),
    ] {
        let checked = place.run(&format!("check {source} --no-rules -o out.csv --force"));
        assert!(checked.stdout.contains(place_of_fault), "{source}: {}", checked.stdout);
        let marked = place.run(&format!("dedupe {source} --no-rules --mark -o out.csv --force -q"));
        assert_eq!(marked.code, 0, "{}", marked.stderr);
        let rows = table(&place.read("out.csv"));
        let told: Vec<&str> =
            rows.iter().map(|row| &*row["yp_same_as"]).filter(|cell| !cell.is_empty()).collect();
        assert_eq!(told, [same_as], "{source}");
        let cleaned = place.run(&format!("clean {source} --no-rules --to csv -o cleaned --force -q"));
        assert_eq!(cleaned.code, 0, "{}", cleaned.stderr);
        let duplicates = table(&place.read("cleaned/duplicates.csv"));
        assert_eq!(duplicates[0]["yp_same_as"], same_as, "{source}");
    }
    // A field that is named takes its place.
    let named = place.run("check m.sqlite#single --no-rules --id grp -o out.csv --force");
    assert!(named.stdout.contains("line 3 (a): x@@y"), "{}", named.stdout);
    // Sources with other keys have none together.
    let both = place.run("check m.sqlite#single m.sqlite#several --no-rules -o out.csv --force");
    assert!(both.stdout.contains("line 3: x@@y"), "{}", both.stdout);
}

/// What others read of our files: skipped, with a word, where they are not there.
/// Packed cells hold bytes that are no text, which say nothing about the text beside them.
#[test]
fn bytes_that_are_not_utf8_are_told_by_their_row() {
    let place = place();
    for source in SOURCES {
        let run = place.run(&format!("clean {source} -o cleaned --force"));
        assert!(!run.stdout.contains("UTF-8"), "{source}: {}", run.stdout);
    }
    let query =
        "m.sqlite#select nr, case nr when '3' then cast(x'42FF' as text) else name end as name, email from m";
    let run = place.run_words(&["clean", query, "-o", "cleaned", "--force"], b"");
    let told = "1 record has bytes that are not UTF-8, first in line 3 of";
    assert!(run.stdout.contains(told), "{}", run.stdout);
}

#[test]
fn others_read_what_is_written() {
    let place = place();
    assert_eq!(place.run("clean m.csv -o cleaned.xlsx -q").code, 0);
    let by = |program: &str, arguments: &[&str]| {
        let output = Command::new(program).args(arguments).current_dir(place.path("")).output().ok()?;
        let told = String::from_utf8_lossy(&output.stderr).into_owned();
        if told.contains("No module named") {
            return None;
        }
        assert!(output.status.success(), "{program}: {told}");
        Some(String::from_utf8(output.stdout).unwrap())
    };
    let python = |script: &str| {
        let modules = ["python3", "/usr/bin/python3"];
        modules.iter().find_map(|program| by(program, &["-c", script]))
    };
    let script = "import openpyxl\nbook = openpyxl.load_workbook('cleaned.xlsx')\nprint(book.sheetnames)\n\
                  sheet = book['kept']\nprint([cell.value for cell in sheet[2]][:5], sheet.freeze_panes)\n\
                  print(len(sheet.data_validations.dataValidation), [c.data_type for c in sheet[2]][:3])";
    match python(script) {
        Some(read) => assert_eq!(
            read,
            "['summary', 'kept', 'rejected', 'duplicates', 'no-address']\n\
             ['1', 'Ada Lovell', 'Ada@H-Works.org', 'ada@h-works.org', 'accept'] A2\n2 ['s', 's', 's']\n"
        ),
        None => eprintln!("skipped: no openpyxl reads the workbook here"),
    }
    #[cfg(feature = "parquet")]
    {
        let script = "import pyarrow.parquet as parquet\ntable = parquet.read_table('checked.parquet')\n\
                      print([str(field.type) for field in table.schema][:5], table.num_rows)\n\
                      print(table.column('yp_well_formed').to_pylist(), table.column('email').null_count)";
        assert_eq!(place.run("check m.csv -q -o checked.parquet").code, 0);
        match python(script) {
            Some(read) => assert_eq!(
                read,
                "['string', 'string', 'string', 'string', 'bool'] 5\n[True, False, True, True, False] 0\n"
            ),
            None => eprintln!("skipped: no pyarrow reads the file in columns here"),
        }
    }
    let cards = "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Jürgen Sand\r\nNOTE:one\\, two\r\n\
                 item1.EMAIL;TYPE=work:Juergen@Marsh-Mill.org\r\nEND:VCARD\r\n";
    std::fs::write(place.path("cards.vcf"), cards).unwrap();
    for output in ["cards-out.vcf", "made.vcf", "made.ldif"] {
        let source = if output == "cards-out.vcf" { "cards.vcf" } else { "m.csv" };
        let run = place.run(&format!("check {source} -q -o {output}"));
        assert_eq!(run.code, 0, "{output}: {}", run.stderr);
    }
    let script = "import vobject\nfor name in ['cards-out.vcf', 'made.vcf']:\n    \
                  for card in vobject.readComponents(open(name, encoding='utf-8').read()):\n        \
                  held = card.contents\n        \
                  print([e.value for e in held.get('email', [])], [n.value for n in held.get('note', [])], [v.value for v in held.get('x-yp-verdict', [])])";
    match python(script) {
        Some(read) => assert_eq!(
            read,
            "['Juergen@Marsh-Mill.org'] ['one, two'] ['accept']\n['Ada@H-Works.org'] [] ['accept']\n\
             ['j@@h-works.org'] [] ['reject']\n['bea@gmail.com'] [] ['accept']\n\
             ['bea+x@gmail.com'] [] ['accept']\n[] [] []\n"
        ),
        None => eprintln!("skipped: no vobject reads the cards here"),
    }
    let script = "import ldif\nclass Entries(ldif.LDIFParser):\n    \
                  def handle(self, dn, entry): print(dn, entry.get('email'), entry.get('yp-verdict'))\n\
                  Entries(open('made.ldif', 'rb')).parse()";
    match python(script) {
        Some(read) => assert_eq!(
            read,
            "cn=Ada Lovell [b'Ada@H-Works.org'] [b'accept']\ncn=Jürgen [b'j@@h-works.org'] [b'reject']\n\
             cn=Bea [b'bea@gmail.com'] [b'accept']\ncn=Bea [b'bea+x@gmail.com'] [b'accept']\ncn=Cy None None\n"
        ),
        None => eprintln!("skipped: no ldif module reads the entries here"),
    }
    match by("sqlite3", &["m.sqlite", "select count(*), max(name) from m; pragma integrity_check"]) {
        Some(read) => assert_eq!(read, "5|Jürgen\nok\n"),
        None => eprintln!("skipped: no sqlite3 reads the database here"),
    }
}
