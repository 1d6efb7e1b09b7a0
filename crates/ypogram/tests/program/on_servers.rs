//! What tables of every kind of server have in common, at real servers that the tests start.

use std::process::Command;
use std::sync::Mutex;
use std::sync::atomic::{AtomicBool, Ordering};

use serde_json::Value;
use tempfile::TempDir;

#[cfg(feature = "mysql")]
use crate::servers::MariaDb;
#[cfg(feature = "postgres")]
use crate::servers::Postgres;
use crate::servers::{TestServer, all, run, run_while};
use crate::{Place, table};

fn figures(run: &crate::Run) -> Value {
    serde_json::from_str(&run.stdout).unwrap_or_else(|_| panic!("{}", run.stderr))
}

/// The demo goes into a table and comes out again as it was, for every command; a table can be compared with, and be a list.
#[test]
fn tables_are_read_as_files_are() {
    for server in all() {
        let (place, members) = (Place::with_demo(), server.at("members"));
        let columns = "member_no,name,email,phone,membership,joined,notes";
        let made = run(&place, &["check", "members.csv", "--columns", columns, "-q", "-o", &members]);
        assert_eq!(made.code, 0, "{}", made.stderr);
        let of_file = place.run("check members.csv -q");
        let of_table = run(&place, &["check", &members, "-q"]);
        assert_eq!(table(&of_table.stdout), table(&of_file.stdout), "{}", of_table.stderr);
        for command in ["survey", "dedupe", "links", "domains"] {
            let [file, on_server] =
                ["members.csv", &members].map(|source| figures(&run(&place, &[command, source, "--json"])));
            for figure in ["records", "addresses", "mailboxes", "domains", "groups"] {
                assert_eq!(file[figure], on_server[figure], "{command}: {figure}");
                assert_eq!(file["counts"][figure], on_server["counts"][figure], "{command}: {figure}");
            }
        }
        let cleaned = run(&place, &["clean", &members, "-q", "--force"]);
        assert!(cleaned.code == 0 && place.path("members-cleaned/kept.csv").exists(), "{}", cleaned.stderr);
        let known =
            ["compare", "loans.csv", "--with", &members, "--known-field", "email", "--figure", "known"];
        let with_file = place.run("compare loans.csv --with members.csv --known-field email --figure known");
        assert_eq!(run(&place, &known).stdout, with_file.stdout);
        let extracted = ["extract", &members, "--also", "x", "--figure", "addresses"];
        let extracted = run(&place, &[&extracted[..2], &extracted[4..]].concat());
        let of_file = place.run(&format!("check members.csv --columns {columns} -q -o members.jsonl"));
        assert_eq!(of_file.code, 0);
        assert_eq!(extracted.stdout, place.run("extract members.jsonl --figure addresses").stdout);
        let list = format!("us={members},class=member");
        let listed = run(&place, &["check", "loans.csv", "--list", &list, "--figure", "class.member"]);
        assert!(listed.stdout.trim().parse::<u64>().unwrap() > 5, "{}", listed.stderr);
        let query = server.at("select email as mail from members where email like 'a%'");
        let of_query = run(&place, &["check", &query, "--no-rules", "--figure", "records"]);
        assert_eq!(
            of_query.stdout.trim(),
            server.ask("select count(*) from members where email like 'a%'")[0][0]
        );
    }
}

/// Rows of 200 columns with names that need quotes, NULLs and cells of a megabyte come back as they were.
#[test]
fn wide_rows_and_long_cells() {
    let names: Vec<String> = (0..200).map(|nth| format!("c\"{nth}`, 'x\\")).collect();
    let record = |row: usize| {
        let cell = |nth: usize| match (row, nth) {
            (_, 0) => Value::from(format!("ada{row}@h-works.org")),
            (1, 7) => Value::from("ä'\"\\\t\n".repeat(1 << 17)),
            (_, nth) if nth % 3 == row => Value::Null,
            (_, nth) => Value::from(format!("{nth}\\N\r\n'")),
        };
        names
            .iter()
            .enumerate()
            .map(|(nth, name)| (name.clone(), cell(nth)))
            .collect::<serde_json::Map<_, _>>()
    };
    let lines: Vec<String> = (0..3).map(|row| serde_json::to_string(&record(row)).unwrap()).collect();
    for server in all() {
        let place = Place::with(&[("wide.jsonl", lines.join("\n").as_bytes())]);
        let columns: Vec<String> =
            names.iter().map(|name| format!("\"{}\"", name.replace('"', "\"\""))).collect();
        let made = run(
            &place,
            &[
                "check",
                "wide.jsonl",
                "--field",
                &names[0],
                "--columns",
                &columns.join(","),
                "-q",
                "-o",
                &server.at("wi\"de` '"),
            ],
        );
        assert_eq!(made.code, 0, "{}", made.stderr);
        let read = run(
            &place,
            &["check", &server.at("wi\"de` '"), "--columns", &columns.join(","), "-q", "--to", "jsonl"],
        );
        let records: Vec<Value> =
            read.stdout.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
        assert_eq!(records.len(), 3, "{}", read.stderr);
        for (row, read) in records.iter().enumerate() {
            assert_eq!(*read, Value::Object(record(row)), "row {row}");
        }
    }
}

/// Jobs that read twice see a table in one state, whatever others do to it meanwhile.
#[test]
fn tables_that_change_meanwhile() {
    for server in all() {
        let place = Place::with(&[]);
        let rows: Vec<String> =
            (0..20_000).map(|n| format!("({n}, 'member{}@h-works.org')", n % 15_000)).collect();
        server
            .execute(&format!(
                "CREATE TABLE busy (id int PRIMARY KEY, mail varchar(50)); INSERT INTO busy VALUES {}",
                rows.join(",")
            ))
            .unwrap();
        let done = AtomicBool::new(false);
        std::thread::scope(|scope| {
            scope.spawn(|| {
                for n in (0..20_000).step_by(7) {
                    if done.load(Ordering::Relaxed) {
                        return;
                    }
                    let change = format!("UPDATE busy SET mail = 'other{n}@h-works.org' WHERE id = {n}; DELETE FROM busy WHERE id = {}", n + 1);
                    server.execute(&change).unwrap();
                }
            });
            let busy = server.at("busy");
            let deduped = run(
                &place,
                &["dedupe", &busy, "--no-rules", "-o", "kept.csv", "--dropped", "dropped.csv", "--json"],
            );
            assert_eq!(deduped.code, 0, "{}", deduped.stderr);
            let rows = ["kept.csv", "dropped.csv"].map(|name| table(&place.read(name)).len() as u64);
            assert_eq!(figures(&deduped)["counts"]["records"].as_u64(), Some(rows[0] + rows[1]));
            let cleaned = run(&place, &["clean", &busy, "--no-rules", "-o", "cleaned", "--json"]);
            assert_eq!(cleaned.code, 0, "{}", cleaned.stderr);
            let counts = &figures(&cleaned)["counts"];
            let outcomes = counts["outcomes"].as_object().unwrap().values().filter_map(Value::as_u64);
            assert_eq!(counts["records"].as_u64(), Some(outcomes.sum()));
            done.store(true, Ordering::Relaxed);
        });
    }
}

/// Rows are added to a table that is there by the names of its columns, all or none.
#[test]
fn rows_are_added() {
    for server in all() {
        let place =
            Place::with(&[("new.csv", b"no,mail,joined\n1,ada@h-works.org,2026-01-02\n2,bo@h-works.org,\n")]);
        server
            .execute("CREATE TABLE people (\"no\" int PRIMARY KEY, mail varchar(60) NOT NULL, joined date, state varchar(9) DEFAULT 'new')".replace('"', "").as_str())
            .unwrap();
        let to = server.at("people");
        let add = |columns: &str, more: &[&str]| {
            let words = ["check", "new.csv", "--no-rules", "-q", "--columns", columns, "-o", &to];
            run(&place, &[&words, more].concat())
        };
        let refused = add("no,mail", &[]);
        assert!(
            refused.code == 3 && refused.stderr.contains("there is a table ‘people’"),
            "{}",
            refused.stderr
        );
        let added = add("no,yp_address=MAIL,joined", &["--append"]);
        assert_eq!(added.code, 0, "{}", added.stderr);
        let rows = "SELECT no, mail, joined, state FROM people ORDER BY no";
        let expected =
            [["1", "ada@h-works.org", "2026-01-02", "new"], ["2", "bo@h-works.org", "NULL", "new"]];
        assert_eq!(server.ask(rows), expected);
        // The second row is there already: the first is not added either.
        std::fs::write(place.path("new.csv"), "no,mail\n3,cy@h-works.org\n2,bo@h-works.org\n").unwrap();
        let twice = add("no,mail", &["--append"]);
        assert!(twice.code == 3 && twice.stderr.to_lowercase().contains("duplicate"), "{}", twice.stderr);
        assert_eq!(server.ask(rows), expected);
        let unknown = add("no,mail,yp_key", &["--append"]);
        assert!(unknown.code == 3 && unknown.stderr.contains("has no column yp_key"), "{}", unknown.stderr);
        let none =
            run(&place, &["check", "new.csv", "--no-rules", "-q", "--append", "-o", &server.at("persons")]);
        assert!(none.code == 3 && none.stderr.contains("no table ‘persons’"), "{}", none.stderr);
    }
}

/// The judgement is written beside the rows that were judged, and nothing else: by the primary key, where the address is what it was.
#[test]
fn columns_are_filled() {
    for server in all() {
        let place = Place::with(&[]);
        server
            .execute(
                "CREATE TABLE people (grp varchar(9), no int, mail varchar(60), seen timestamp DEFAULT '2020-01-02 03:04:05', PRIMARY KEY (grp, no)); \
                 INSERT INTO people (grp, no, mail) VALUES ('a', 1, ' Ada@H-Works.org'), ('a', 2, 'bo@@x'), ('b', 1, NULL); \
                 CREATE TABLE bare (mail varchar(60))",
            )
            .unwrap();
        if server.address().starts_with("mysql") {
            server.execute("ALTER TABLE people MODIFY seen timestamp DEFAULT '2020-01-02 03:04:05' ON UPDATE CURRENT_TIMESTAMP").unwrap();
        }
        let fill = |columns: &str, more: &[&str]| {
            run(
                &place,
                &[&["check", &server.at("people"), "--no-rules", "--into-columns", columns], more].concat(),
            )
        };
        let asks = fill("address,yp_verdict", &[]);
        assert_eq!((asks.code, &*asks.stdout), (3, ""));
        assert!(
            asks.stderr.contains("yp_address, yp_verdict would be filled, by the primary key grp, no"),
            "{}",
            asks.stderr
        );
        let trial = fill("address,yp_verdict", &["--first", "2"]);
        assert!(trial.code == 0 && trial.stdout.contains("ada@h-works.org  accept"), "{}", trial.stdout);
        assert_eq!(server.ask("SELECT * FROM people")[0].len(), 4);
        let filled = figures(&fill("address,yp_verdict", &["--force", "--json"]));
        assert_eq!(
            filled["counts"]["filled"],
            serde_json::json!({"changed": 2, "same": 1, "changed-meanwhile": 0})
        );
        let rows = "SELECT mail, yp_address, yp_verdict, seen FROM people ORDER BY grp, no";
        let seen = "2020-01-02 03:04:05";
        assert_eq!(
            server.ask(rows),
            [
                [" Ada@H-Works.org", "ada@h-works.org", "accept", seen],
                ["bo@@x", "", "reject", seen],
                ["NULL", "", "", seen]
            ]
            .map(|row| row.map(|cell| cell.to_owned()).to_vec())
            .map(|mut row| {
                // A cell without text is NULL there.
                row[1..3].iter_mut().filter(|cell| cell.is_empty()).for_each(|cell| *cell = "NULL".into());
                row
            })
        );
        // What is right already is not written again.
        server.execute("UPDATE people SET mail = 'cy@h-works.org' WHERE no = 2").unwrap();
        let filled = figures(&fill("address,yp_verdict", &["--force", "--json"]));
        assert_eq!(
            filled["counts"]["filled"],
            serde_json::json!({"changed": 1, "same": 2, "changed-meanwhile": 0})
        );
        for (words, told) in [
            (vec!["check", &*server.at("bare"), "--into-columns", "address"], "has no primary key"),
            (vec!["check", &*server.at("people"), "--into-columns", "adress"], "did you mean ‘yp_address’"),
            (
                vec!["check", &*server.at("select mail from people"), "--into-columns", "address"],
                "columns are filled in a table",
            ),
            (vec!["check", "people.csv", "--into-columns", "address"], "columns are filled in a table"),
        ] {
            std::fs::write(place.path("people.csv"), "mail\nada@h-works.org\n").unwrap();
            let run = run(&place, &[&words[..], &["--force", "--no-rules"]].concat());
            assert!(run.code == 2 && run.stderr.contains(told), "{words:?}: {} {}", run.code, run.stderr);
        }
    }
}

/// Filling goes on where it broke off, and leaves rows alone that others changed since they were read.
#[test]
fn filling_that_breaks_off() {
    for server in all() {
        let place = Place::with(&[]);
        let rows: Vec<String> = (0..60_000).map(|n| format!("({n}, 'member{n}@h-works.org')")).collect();
        server
            .execute("CREATE TABLE many (id int PRIMARY KEY, mail varchar(50), yp_address varchar(50))")
            .unwrap();
        for rows in rows.chunks(10_000) {
            server.execute(&format!("INSERT INTO many (id, mail) VALUES {}", rows.join(","))).unwrap();
        }
        let source = server.at("many");
        let words = ["check", &*source, "--no-rules", "--into-columns", "address", "--force", "--json"];
        let filled =
            || server.ask("SELECT count(*) FROM many WHERE yp_address = mail")[0][0].parse::<u64>().unwrap();
        // A batch waits for a row that somebody else holds; there the connection is cut.
        let held = server.hold("SELECT * FROM many WHERE id = 30000 FOR UPDATE");
        let cut = run_while(&place, &words, || filled() > 0 && server.cut("UPDATE"));
        drop(held);
        assert!(
            cut.code == 3 && cut.stderr.contains("goes on with the others"),
            "{} {}",
            cut.code,
            cut.stderr
        );
        let before = filled();
        assert!((1..=30_000).contains(&before), "{before}");
        // The last row changes while another one is waited for.
        let held = Mutex::new(Some(server.hold("SELECT * FROM many WHERE id = 40000 FOR UPDATE")));
        let last = run_while(&place, &words, || {
            filled() > before && server.does("UPDATE") && {
                server.execute("UPDATE many SET mail = 'other@h-works.org' WHERE id = 59999").unwrap();
                held.lock().unwrap().take().is_some()
            }
        });
        let counts = &figures(&last)["counts"]["filled"];
        let expected =
            serde_json::json!({"changed": 59_999 - before, "same": before, "changed-meanwhile": 1});
        assert_eq!(*counts, expected, "{}", last.stderr);
        assert_eq!(server.ask("SELECT id FROM many WHERE yp_address IS NULL"), [["59999"]]);
    }
}

/// Local parts of letters and of what some providers leave out, always the same.
fn made_up_locals() -> Vec<String> {
    let mut state = 7_u64;
    let mut next = move |most: usize| {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (state >> 33) as usize % most
    };
    let mut local = |_| {
        let mut local: String = (0..1 + next(9)).map(|_| char::from(b"abAB1.+-_"[next(9)])).collect();
        while local.contains("..") {
            local = local.replace("..", ".");
        }
        local.trim_matches('.').to_owned()
    };
    let mut locals: Vec<String> = (0..60).map(&mut local).filter(|local| !local.is_empty()).collect();
    locals.sort();
    locals.dedup();
    locals
}

/// The SQL of `register guard` runs at the server, and its keys are those of the program, by every rule.
#[test]
fn guarded_tables() {
    let domains = "gmail.com GoogleMail.com yandex.ru ya.ru proton.me outlook.com fastmail.com ada.fastmail.com a.b.fastmail.com \
                   mailbox.org secure.mailbox.org yopmail.com bo.addy.io h-works.org";
    let locals = ["ada", "A.da+x", "a-d+a-x", "+ada", "-a-da", "a_d.a", "\"a.d a\"", "a.d.a++y.z", "ada+"];
    let made = made_up_locals();
    let locals: Vec<&str> = locals.into_iter().chain(made.iter().map(String::as_str)).collect();
    let addresses: Vec<String> = locals
        .iter()
        .flat_map(|local| domains.split_whitespace().map(move |domain| format!("{local}@{domain}")))
        .collect();
    for server in all() {
        for same in ["exact", "case", "provider", "everywhere"] {
            let place = Place::with(&[]);
            let (of, no) = (format!("guarded_{same}"), server.name("the no"));
            let rows: Vec<String> =
                addresses.iter().enumerate().map(|(nth, address)| format!("({nth}, ' {address}')")).collect();
            server
                .execute(&format!(
                    "CREATE TABLE {of} ({no} int PRIMARY KEY, mail varchar(90), note varchar(9)); INSERT INTO {of} ({no}, mail) VALUES {}",
                    rows.join(",")
                ))
                .unwrap();
            let column = server.at(&format!("{of}.mail"));
            let guard = run(
                &place,
                &["register", "guard", &column, "--no-rules", "--same", same, "-o", "guard.sql", "--json"],
            );
            assert!(guard.code < 2, "{}", guard.stderr);
            server.execute(&place.read("guard.sql")).unwrap_or_else(|error| panic!("{same}: {error}"));
            let going = figures(&guard)["counts"]["going"].as_u64().unwrap();
            let left = server.ask(&format!("SELECT {no}, mail, mail_key FROM {of}"));
            assert_eq!(left.len() as u64 + going, addresses.len() as u64);
            let query = server.at(&format!("select mail, mail_key from {of}"));
            let checked = run(
                &place,
                &[
                    "check",
                    &query,
                    "--no-rules",
                    "--same",
                    same,
                    "--columns",
                    "mail,mail_key,yp_key,yp_form",
                    "-q",
                ],
            );
            let rows = table(&checked.stdout);
            for row in rows.iter().filter(|row| !row["yp_key"].is_empty()) {
                assert_eq!(row["mail_key"], row["yp_key"], "{same}: {row:?}");
            }
            assert!(rows.len() > 200, "{same}: {} {}", rows.len(), checked.stderr);
            let insert = |mail: &str| {
                server.execute(&format!("INSERT INTO {of} ({no}, mail) VALUES (9999, '{mail}')"))
            };
            assert!(insert("ADA@h-works.org").is_err() == (same != "exact"), "{same}");
        }
        let place = Place::with(&[]);
        let wrong = run(&place, &["register", "guard", &server.at("guarded_case.mial")]);
        assert!(wrong.code == 2 && wrong.stderr.contains("did you mean"), "{}", wrong.stderr);
    }
}

/// With TLS the server has to prove who it is: by a certificate of somebody who is trusted, for the name that was called.
#[test]
fn encrypted_connections() {
    let keys = TempDir::new().unwrap();
    let script = "openssl req -x509 -newkey rsa:2048 -nodes -days 2 -subj /CN=authority -keyout ca.key -out ca.pem && \
        openssl req -newkey rsa:2048 -nodes -subj /CN=localhost -keyout server.key -out server.csr && \
        printf 'subjectAltName=DNS:localhost' > names && \
        openssl x509 -req -in server.csr -CA ca.pem -CAkey ca.key -CAcreateserial -days 2 -extfile names -out server.pem && \
        openssl req -x509 -newkey rsa:2048 -nodes -days 2 -subj /CN=other -keyout other.key -out other.pem && \
        for user in postgres mysql; do cp server.key $user.key && chmod 600 $user.key && (chown $user $user.key || true); done; chmod 755 .";
    let made = Command::new("sh").args(["-c", script]).current_dir(keys.path()).output();
    if !made.is_ok_and(|output| output.status.success()) {
        println!("openssl is not installed, so encrypted connections are not tried");
        return;
    }
    let file = |name: &str| keys.path().join(name).display().to_string();
    let mut servers: Vec<(Box<dyn TestServer>, &str)> = Vec::new();
    #[cfg(feature = "postgres")]
    {
        let files = [("ssl_cert_file", "server.pem"), ("ssl_key_file", "postgres.key")];
        let files = files.map(|(setting, name)| format!("{setting}={}", file(name)));
        let is_encrypted =
            "select 'x@h-works.org' as mail, ssl from pg_stat_ssl where pid = pg_backend_pid()";
        if let Some(server) = Postgres::start(&["ssl=on", &files[0], &files[1]]) {
            servers.push((Box::new(server), is_encrypted));
        }
    }
    #[cfg(feature = "mysql")]
    {
        let files = [("--ssl-cert", "server.pem"), ("--ssl-key", "mysql.key")];
        let files = files.map(|(setting, name)| format!("{setting}={}", file(name)));
        let is_encrypted = "select 'x@h-works.org' as mail, if(variable_value = '', 'false', 'true') as `ssl` \
                            from information_schema.session_status where variable_name = 'Ssl_cipher'";
        if let Some(server) = MariaDb::start(&[&files[0], &files[1]]) {
            servers.push((Box::new(server), is_encrypted));
        }
    }
    let place = Place::with(&[]);
    for (server, is_encrypted) in &servers {
        for (host, options, told) in [
            ("localhost", format!("sslmode=require&sslrootcert={}", file("ca.pem")), ",t"),
            (
                "localhost",
                format!("sslmode=verify-full&sslrootcert={}", file("other.pem")),
                "does not prove who it is",
            ),
            ("localhost", "sslmode=require".to_owned(), "does not prove who it is"),
            (
                "127.0.0.1",
                format!("sslmode=require&sslrootcert={}", file("ca.pem")),
                "does not prove who it is",
            ),
            ("localhost", format!("sslrootcert={}", file("ca.pem")), ",t"),
            ("localhost", "sslmode=disable".to_owned(), ",f"),
            ("localhost", format!("sslrootcert={}", file("names")), "no certificate in it"),
        ] {
            let source = format!("{}?{options}#{is_encrypted}", server.address().replace("127.0.0.1", host));
            let run = run(&place, &["check", &source, "--no-rules", "-q", "--columns", "mail,ssl"]);
            match told.strip_prefix(',') {
                Some(yes) => {
                    let yes = if yes == "t" { "true" } else { "false" };
                    assert_eq!(
                        run.stdout,
                        format!("mail,ssl\nx@h-works.org,{yes}\n"),
                        "{options}: {}",
                        run.stderr
                    );
                }
                None => {
                    assert!(run.code == 2 && run.stderr.contains(told), "{host} {options}: {}", run.stderr)
                }
            }
        }
    }
}

/// `clean` keeps the rows, and `settle` goes by them, whatever became of the table.
#[test]
fn decisions_about_tables() {
    for server in all() {
        let place = Place::with(&[]);
        server
            .execute(
                "CREATE TABLE people (id int PRIMARY KEY, mail varchar(60), since date, amount decimal(6,2)); \
                 INSERT INTO people VALUES (1, 'ada@h-works.org', '2026-01-02', 1.50), (2, 'bo@gmial.com', NULL, 2), (3, 'cy@mailinator.com', '2025-03-04', NULL)",
            )
            .unwrap();
        let cleaned = run(&place, &["clean", &server.at("people"), "--no-rules", "-q", "-o", "cleaned"]);
        assert_eq!(cleaned.code, 0, "{}", cleaned.stderr);
        server.execute("DROP TABLE people").unwrap();
        let review = place.read("cleaned/review.csv");
        assert_eq!(review.lines().count(), 3, "{review}");
        // The decision stands behind the fields and the number of the record.
        let decided = review.replace("2,bo@gmial.com,,2.00,2,,", "2,bo@gmial.com,,2.00,2,keep,");
        assert_ne!(decided, review, "{review}");
        std::fs::write(place.path("cleaned/review.csv"), decided).unwrap();
        let settled = run(&place, &["settle", "cleaned", "-q"]);
        assert_eq!(settled.code, 0, "{}", settled.stderr);
        let kept = place.read("cleaned/kept.csv");
        let own: Vec<String> =
            kept.lines().map(|line| line.splitn(5, ',').take(4).collect::<Vec<_>>().join(",")).collect();
        assert_eq!(
            own,
            ["id,mail,since,amount", "1,ada@h-works.org,2026-01-02,1.50", "2,bo@gmial.com,,2.00"]
        );
    }
}
