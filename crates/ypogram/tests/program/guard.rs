//! `ypogram register guard`: the SQL that it writes, run on a real database.

use rusqlite::Connection;

use crate::Place;

const ROWS: &str = "CREATE TABLE members (nr INTEGER PRIMARY KEY, name TEXT, mail TEXT, joined TEXT);
    CREATE TABLE loans (nr INTEGER PRIMARY KEY, member INTEGER REFERENCES members (nr));
    CREATE VIEW shown AS SELECT * FROM members;
    CREATE TABLE pairs (a TEXT, b INTEGER, \"mail \"\"x\" TEXT, PRIMARY KEY (a, b)) WITHOUT ROWID;
    INSERT INTO members (name, mail, joined) VALUES
      ('Ada', 'a.da@gmail.com', '2020-01-01'), ('Ada', 'ADA+x@googlemail.com', '2024-01-01'), ('Bea', 'bea@h-works.org', ''),
      ('Bea', 'Bea <bea@h-works.org>', ''), (NULL, NULL, NULL), ('', 'n/a', ''), ('', 'a@b@c', ''), ('', 'a@b@c', ''),
      ('Cy', 'cy <cy@h-works.org>', ''), ('Dora', 'dora''s@h-works.org', '2021-01-01'), ('Dora', 'DORA''s@h-works.org', '2020-01-01');
    INSERT INTO pairs VALUES ('x', 1, 'q@h-works.org'), ('y''s', 2, 'Q@h-works.org'), ('z', 1, 'e@h-works.org');";

fn place() -> Place {
    let place = Place::with(&[]);
    Connection::open(place.path("app.sqlite")).unwrap().execute_batch(ROWS).unwrap();
    place
}

/// The numbers of the rows that are there.
fn numbers(place: &Place, query: &str) -> Vec<i64> {
    let app = Connection::open(place.path("app.sqlite")).unwrap();
    let mut statement = app.prepare(query).unwrap();
    statement.query_map([], |row| row.get(0)).unwrap().collect::<Result<_, _>>().unwrap()
}

/// Runs the SQL as whoever reads it would; where it fails, the transaction goes with the connection.
fn run_sql(place: &Place, sql: &str) -> rusqlite::Result<()> {
    Connection::open(place.path("app.sqlite")).unwrap().execute_batch(sql)
}

#[test]
fn the_sql_lets_no_mailbox_in_twice() {
    let place = place();
    let before = place.bytes("app.sqlite");
    let call = "register guard app.sqlite#members.mail --survivor newest:joined --standard-form";
    let run = place.run(&format!("{call} -o guard.sql --rows rows.csv"));
    assert_eq!(run.code, 1, "{}", run.stderr);
    assert!(run.stdout.starts_with("4 rows in the way of a unique rule — 11 rows"), "{}", run.stdout);
    assert!(run.stdout.contains("rows of loans refer to rows of this table"), "{}", run.stdout);
    assert!(place.bytes("app.sqlite") == before, "nothing of it is run");
    assert_eq!(
        place.read("rows.csv"),
        "group,row,address,stays\n1,2,ADA+x@googlemail.com,yes\n1,1,a.da@gmail.com,no\n2,3,bea@h-works.org,yes\n\
         2,4,Bea <bea@h-works.org>,no\n3,7,a@b@c,yes\n3,8,a@b@c,no\n4,10,dora's@h-works.org,yes\n4,11,DORA's@h-works.org,no\n"
    );
    let alone = place.run(&format!("{call} -o -"));
    assert_eq!(alone.stdout, place.read("guard.sql"));

    // A row whose address is another by then stays, and the unique rule says so: nothing changes.
    run_sql(&place, "UPDATE members SET mail = 'a.d.a@gmail.com' WHERE nr = 1").unwrap();
    assert!(run_sql(&place, &place.read("guard.sql")).unwrap_err().to_string().contains("UNIQUE"));
    assert_eq!(numbers(&place, "SELECT count(*) FROM members"), [11]);
    run_sql(&place, "UPDATE members SET mail = 'a.da@gmail.com' WHERE nr = 1").unwrap();
    run_sql(&place, &place.read("guard.sql")).unwrap();
    assert_eq!(numbers(&place, "SELECT nr FROM members ORDER BY nr"), [2, 3, 5, 6, 7, 9, 10]);
    // Programs that do not know of the key go on, until they let somebody in twice.
    for (address, is_in) in [
        ("new@h-works.org", true),
        ("NEW@h-works.org", false),
        (" a.d.a@gmail.com", false),
        ("CY@h-works.org", false),
        ("n/a", true),
        ("n/a", true),
    ] {
        let insert = format!("INSERT INTO members VALUES (NULL, 'x', '{address}', '')");
        assert_eq!(run_sql(&place, &insert).is_ok(), is_in, "{address}");
    }
    let again = place.run("register guard app.sqlite#members.mail");
    assert!(again.code == 2 && again.stderr.contains("has a column ‘mail_key’ already"), "{}", again.stderr);
    let again = place.run("register guard app.sqlite#members.mail --key-column other --json");
    assert!(again.code == 0 && again.stdout.contains("\"going\": 0"), "{}{}", again.stdout, again.stderr);
}

/// Couples share mailboxes: whose row goes is for people to decide, and until then nothing happens.
#[test]
fn a_row_of_another_person_does_not_go_unasked() {
    let place = place();
    run_sql(&place, "DELETE FROM loans; DELETE FROM members WHERE nr > 3; UPDATE members SET name = 'Eve\nDROP' WHERE nr = 2").unwrap();
    run_sql(&place, "UPDATE members SET mail = 'a.da+\n;DROP TABLE members@gmail.com' WHERE nr = 3").unwrap();
    let run = place.run("register guard app.sqlite#members.mail");
    assert!(run.stdout.contains("to decide"), "{}", run.stdout);
    assert!(run.stdout.contains("\n-- DELETE FROM \"members\" WHERE rowid = 2"), "{}", run.stdout);
    let sql = &run.stdout[run.stdout.find("-- No two rows").unwrap()..];
    assert!(run_sql(&place, sql).unwrap_err().to_string().contains("UNIQUE"));
    assert_eq!(numbers(&place, "SELECT nr FROM members ORDER BY nr"), [1, 2, 3]);
    let run = place.run("register guard app.sqlite#members.mail --shared drop --same exact -o -");
    run_sql(&place, &run.stdout).unwrap();
    assert_eq!(numbers(&place, "SELECT nr FROM members ORDER BY nr"), [1, 2, 3]);
    let run = place.run("register guard app.sqlite#members.mail --shared drop --key-column k -o -");
    run_sql(&place, &run.stdout).unwrap();
    assert_eq!(numbers(&place, "SELECT nr FROM members ORDER BY nr"), [1]);
}

/// A table without row numbers, with names and keys that need quotes; and what is no column of a table.
#[test]
fn any_table_or_a_clear_error() {
    let place = place();
    let run = place.run_words(&["register", "guard", "app.sqlite#pairs.mail \"x", "-o", "-"], Vec::new());
    run_sql(&place, &run.stdout).unwrap();
    assert_eq!(numbers(&place, "SELECT b FROM pairs ORDER BY a"), [1, 1]);
    assert!(run_sql(&place, "INSERT INTO pairs VALUES ('w', 9, 'E@h-works.org')").is_err());
    std::fs::write(place.path("list.csv"), "mail\na@h-works.org\n").unwrap();
    for (column, expected) in [
        ("app.sqlite#shown.mail", "‘shown’ is a view"),
        ("app.sqlite#member.mail", "did you mean app.sqlite#members.mail?"),
        ("app.sqlite#members.mial", "did you mean app.sqlite#members.mail?"),
        ("app.sqlite#members", "as in app.sqlite#members.mail"),
        ("none.sqlite#members.mail", "none.sqlite: file not found"),
        ("list.csv#members.mail", "list.csv: file is not a database"),
        ("app.sqlite#members.mail -o app.sqlite --force", "app.sqlite"),
        ("app.sqlite#members.mail --survivor newest:joind", "did you mean"),
    ] {
        let run = place.run(&format!("register guard {column}"));
        assert!(run.code > 1 && run.stderr.contains(expected), "{column}: {}", run.stderr);
    }
}
