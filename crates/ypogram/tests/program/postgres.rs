//! Tables of a PostgreSQL server as sources and outputs, at a real server that the test starts.

use crate::Place;
use crate::servers::{PASSWORD, Postgres, TestServer as _, run, run_while, run_with};

#[test]
fn tables_as_sources_and_outputs() {
    let Some(server) = Postgres::start(&[]) else { return };
    let (place, mut client) = (Place::with_demo(), server.client());
    let columns = "member_no,name,email,phone,membership,joined,notes";
    let made =
        run(&place, &["check", "members.csv", "--columns", columns, "-q", "-o", &server.at("members")]);
    assert_eq!(made.code, 0, "{}", made.stderr);
    // Types are kept, and what a cell holds.
    client.batch_execute(
        "CREATE TABLE \"odd \"\"kinds\" (id bigserial PRIMARY KEY, \"Mail, or none\" text, b boolean, n numeric(10,2), m numeric, d date, \
         ts timestamp, tz timestamptz, t time, u uuid, j json, a text[], y bytea, r real, f double precision); \
         INSERT INTO \"odd \"\"kinds\" VALUES (7, 'ada@h-works.org', true, 12.50, 12345678901234567890.5, '2026-01-02', \
         '2026-01-02 03:04:05.678', '2026-01-02 03:04:05+02', '10:00', '5f7c1a9e-3a51-4b86-9c6e-6f1a3f6a1c22', '{\"k\":  [1]}', \
         ARRAY['a', 'b,\"c\\', NULL, ''], '\\x00ff', 1.5, 0.1), \
         (8, E'tab\\there\\\\N\\n', null, null, 'NaN', 'infinity', null, null, null, null, null, '{}', '\\x', null, '-Infinity'), \
         (9, '', false, -0.01, 0, '0044-03-15 BC', '1969-12-31 23:59:59', '1900-01-01 00:00:00+00', '23:59:59.999999', null, '[]', null, null, 0, 1e300)",
    ).unwrap();
    let copied =
        run(&place, &["check", &server.at("odd \"kinds"), "--no-rules", "-q", "-o", &server.at("copied")]);
    assert_eq!(copied.code, 0, "{}", copied.stderr);
    let own = "id, \"Mail, or none\", b, n, m, d, ts, tz, t, u, j::text, a, y, r, f";
    let differs = format!(
        "SELECT count(*) FROM (SELECT {own} FROM \"odd \"\"kinds\" EXCEPT SELECT {own} FROM copied) AS d"
    );
    assert_eq!(client.query_one(&differs, &[]).unwrap().get::<_, i64>(0), 0);
    let types = "SELECT string_agg(format_type(a.atttypid, a.atttypmod), ',' ORDER BY attnum) FROM pg_attribute a \
                 WHERE attrelid = 'copied'::regclass AND attnum BETWEEN 1 AND 15";
    let types: String = client.query_one(types, &[]).unwrap().get(0);
    assert_eq!(
        types,
        "bigint,text,boolean,\"numeric(10,2)\",numeric,date,timestamp without time zone,timestamp with time zone,\
         time without time zone,uuid,json,text[],bytea,real,double precision".replace('"', "")
    );
    let query = run(
        &place,
        &[
            "check",
            &server.at("select id, \"Mail, or none\" as mail from copied where id = 7;"),
            "--no-rules",
            "-q",
            "--columns",
            "id,mail",
        ],
    );
    assert_eq!(query.stdout, "id,mail\n7,ada@h-works.org\n", "{}", query.stderr);

    // A folder is called by the table, in whatever schema, and not by the options of the address.
    client
        .batch_execute(
            "CREATE SCHEMA sales; CREATE TABLE sales.people AS SELECT 'ada/bo@h-works.org' AS mail",
        )
        .unwrap();
    let with_options = |part: &str| server.at(part).replace("postgres#", "postgres?connect_timeout=9#");
    for (part, folder, name) in [
        ("sales.people", "sales.people-cleaned", "postgres#sales.people"),
        (
            "select mail || '/x' as mail from sales.people",
            "cleaned",
            "postgres#select mail || '/x' as mail from sales.people",
        ),
    ] {
        let run = run(&place, &["clean", &with_options(part), "--no-rules"]);
        assert!(
            run.code == 0 && run.stdout.contains(&format!("{name} (")),
            "{part}: {} {}",
            run.stdout,
            run.stderr
        );
        let receipt = place.read(&format!("{folder}/receipt.json"));
        assert!(
            receipt.contains(&format!("\"name\": \"{name}\"")) && !receipt.contains("connect_timeout"),
            "{receipt}"
        );
    }

    // Half a table is never there; what is there is replaced only where that is said, in one step.
    place_with_a_nul(&place);
    let nul = run(&place, &["check", "nul.jsonl", "-q", "-o", &server.at("nul")]);
    assert!(
        nul.code == 3 && nul.stderr.contains("row 2, column b: there is a character U+0000"),
        "{}",
        nul.stderr
    );
    assert!(client.query_one("SELECT to_regclass('nul') IS NULL", &[]).unwrap().get::<_, bool>(0));
    let forced = run(&place, &["check", "loans.csv", "-q", "--force", "-o", &server.at("copied")]);
    assert_eq!(forced.code, 0, "{}", forced.stderr);
    assert_eq!(client.query_one("SELECT count(*) FROM copied", &[]).unwrap().get::<_, i64>(0), 64);
    for (words, code, told) in [
        (vec!["check", "loans.csv", "-o", &*server.at("copied")], 3, "there is a table ‘copied’"),
        (
            vec!["check", &*server.at("copied"), "--force", "-o", &*server.at("copied")],
            2,
            "is read, and would be written over",
        ),
        (vec!["check", &*server.at("member")], 2, "there is no table ‘member’"),
        (vec!["check", &*server.at("delete from copied")], 2, "there is no table"),
        (
            vec!["check", &*server.at("with d as (delete from copied returning *) select * from d")],
            2,
            "read-only transaction",
        ),
        (vec!["check", &*server.at("select 1; drop table copied")], 2, "multiple commands"),
        (vec!["check", "postgres://ada:secret@h/x#t"], 2, "a password stands in the address"),
        (vec!["check", server.at("x").split('#').next().unwrap()], 2, "tables: copied, members, odd"),
    ] {
        let run = run(&place, &words);
        assert!(run.code == code && run.stderr.contains(told), "{words:?}: {} {}", run.code, run.stderr);
        assert!(!run.stderr.contains("secret"));
    }
    // Passwords: none, a wrong one, and one from the file.
    let source = server.at("members");
    let words = ["check", &*source, "--figure", "records"];
    std::fs::write(
        place.path("pass"),
        format!("127.0.0.1:*:postgres:ada:{}\n", PASSWORD.replace('\\', "\\\\").replace(':', "\\:")),
    )
    .unwrap();
    let pass = place.path("pass").display().to_string();
    for (variables, told) in [
        (vec![("PGPASSFILE", "/none")], "password"),
        (vec![("PGPASSWORD", "wrong")], "password authentication failed"),
        (vec![("PGPASSFILE", &*pass)], ""),
    ] {
        let run = run_with(&place, &words, &variables);
        assert_eq!(run.code, if told.is_empty() { 0 } else { 2 }, "{variables:?}: {}", run.stderr);
        assert!(run.stderr.contains(told) && !run.stderr.contains(PASSWORD), "{}", run.stderr);
    }
}

fn place_with_a_nul(place: &Place) {
    std::fs::write(
        place.path("nul.jsonl"),
        "{\"mail\":\"ada@h-works.org\",\"b\":\"x\"}\n{\"mail\":\"bo@h-works.org\",\"b\":\"a\\u0000b\"}\n",
    )
    .unwrap();
}

/// A connection that is cut while a table is read or written leaves no half table, and the message says what to do.
#[test]
fn connections_that_are_cut() {
    let Some(server) = Postgres::start(&[]) else { return };
    let (place, mut client) = (Place::with(&[]), server.client());
    client.batch_execute(
        "CREATE TABLE big AS SELECT n AS id, 'member' || n || '@h-works.org' AS mail, repeat('x', 200) AS more FROM generate_series(1, 400000) AS n",
    ).unwrap();
    let run =
        run_while(&place, &["check", &server.at("big"), "-o", "big.csv"], || server.cut("COPY (SELECT"));
    assert!(run.code == 2 && run.stderr.contains("run it again"), "{} {}", run.code, run.stderr);
    assert!(!place.path("big.csv").exists());
    let run = run_while(&place, &["check", &server.at("big"), "-o", &server.at("half")], || {
        server.cut("COPY \"half\"")
    });
    assert!(run.code == 3 && run.stderr.contains("run it again"), "{} {}", run.code, run.stderr);
    assert!(client.query_one("SELECT to_regclass('half') IS NULL", &[]).unwrap().get::<_, bool>(0));
}
