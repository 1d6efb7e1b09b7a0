//! Tables of a MariaDB server as sources and outputs, at a real server that the test starts.

use mysql::prelude::Queryable as _;

use crate::Place;
use crate::servers::{MariaDb, PASSWORD, TestServer as _, run, run_while, run_with};

/// Types are kept, and what a cell holds; what the server cannot hold ends the run, and what is no SELECT is not run.
#[test]
fn tables_as_sources_and_outputs() {
    let Some(server) = MariaDb::start(&[]) else { return };
    let (place, mut conn) = (Place::with_demo(), server.conn());
    server
        .execute(
            "SET sql_mode = ''; CREATE TABLE `odd ``kinds` (id bigint PRIMARY KEY AUTO_INCREMENT, `Mail, or none` text, b boolean, n decimal(10,2), \
             m decimal(60,5), d date, ts datetime(6), tz timestamp(6) NULL, t time(6), u uuid, j json, y blob, r float, f double, big bigint unsigned, \
             z int(6) zerofill, e enum('a','b'), bi bit(1), b9 bit(9), yr year, ip inet6, latin varchar(9) CHARACTER SET latin1); \
             INSERT INTO `odd ``kinds` VALUES (7, 'ada@h-works.org', true, 12.5, '12345678901234567890.5', '2026-01-02', \
             '2026-01-02 03:04:05.678', '2026-01-02 03:04:05', '10:00', '5f7c1a9e-3a51-4b86-9c6e-6f1a3f6a1c22', '{\"k\":  [1]}', x'00ff', 1.5, 0.1, \
             18446744073709551615, 42, 'a', b'1', b'100000001', 1999, '::1', 'zoë'), \
             (8, 'tab\\there\\\\N\\n''q\"\\0', null, null, 0, '0000-00-00', null, null, null, null, null, '', null, -1e300, 0, null, null, null, null, null, null, ''), \
             (9, '', 2, -0.01, 0, '9999-12-31', '1969-12-31 23:59:59', '1970-01-01 00:00:01', '-838:59:59', null, '[]', null, 0, 1e300, 1, 0, 'b', b'0', 0, 2000, null, null)",
        )
        .unwrap();
    let columns =
        "id, `Mail, or none`, b, n, m, d, ts, tz, t, u, j, y, r, f, big, z, e, bi, b9, yr, ip, latin";
    let types = "bigint(20),longtext,tinyint(1),decimal(10,2),decimal(65,30),date,datetime(6),timestamp(6),time(6),uuid,longtext,longblob,float,double,\
                 bigint(20) unsigned,longtext,longtext,tinyint(1),bigint(20) unsigned,smallint(5) unsigned,longtext,longtext";
    // With rows as a file, and in statements where the server takes no files.
    for takes_files in ["ON", "OFF"] {
        server
            .execute(&format!("SET GLOBAL local_infile = {takes_files}; DROP TABLE IF EXISTS copied"))
            .unwrap();
        let words = ["check", &*server.at("odd `kinds"), "--no-rules", "-q", "-o", &*server.at("copied")];
        let copied = run(&place, &words);
        assert_eq!(copied.code, 0, "{}", copied.stderr);
        let differs = format!(
            "SELECT id FROM (SELECT {columns} FROM `odd ``kinds` EXCEPT SELECT {columns} FROM copied) AS d"
        );
        assert_eq!(server.ask(&differs), Vec::<Vec<String>>::new(), "{takes_files}");
        let of_table = "SELECT GROUP_CONCAT(column_type ORDER BY ordinal_position) FROM information_schema.columns \
                        WHERE table_name = 'copied' AND ordinal_position <= 22";
        assert_eq!(server.ask(of_table)[0][0], types);
    }
    let query = server.at("select id, `Mail, or none` as mail from copied where id = 7;");
    let query = run(&place, &["check", &query, "--no-rules", "-q", "--columns", "id,mail"]);
    assert_eq!(query.stdout, "id,mail\n7,ada@h-works.org\n", "{}", query.stderr);

    // What the server cannot hold is told with its row, and nothing is left of the table; what is there is replaced in one step.
    std::fs::write(
        place.path("late.csv"),
        "mail,joined\nada@h-works.org,2026-01-02\nbo@h-works.org,2026-02-30\n",
    )
    .unwrap();
    server.execute("CREATE TABLE joined (mail varchar(60), joined date)").unwrap();
    for takes_files in ["ON", "OFF"] {
        server.execute(&format!("SET GLOBAL local_infile = {takes_files}")).unwrap();
        let words = [
            "check",
            "late.csv",
            "--no-rules",
            "-q",
            "--columns",
            "mail,joined",
            "--append",
            "-o",
            &*server.at("joined"),
        ];
        let late = run(&place, &words);
        assert!(late.code == 3 && late.stderr.contains("at row 2"), "{}", late.stderr);
        assert_eq!(server.ask("SELECT count(*) FROM joined")[0][0], "0");
    }
    let forced = run(&place, &["check", "loans.csv", "-q", "--force", "-o", &server.at("copied")]);
    assert_eq!(forced.code, 0, "{}", forced.stderr);
    assert_eq!(server.ask("SELECT count(*) FROM copied")[0][0], "64");
    conn.query_drop("CREATE TABLE parent (id int PRIMARY KEY); CREATE TABLE child (p int, FOREIGN KEY (p) REFERENCES parent (id)); CREATE VIEW seen AS SELECT * FROM copied").unwrap();
    for (words, code, told) in [
        (vec!["check", "loans.csv", "-o", &*server.at("copied")], 3, "there is a table ‘copied’"),
        (vec!["check", "loans.csv", "--force", "-o", &*server.at("parent")], 3, "foreign key"),
        (
            vec!["check", "loans.csv", "--force", "-o", &*server.at("seen")],
            3,
            "is no table that could be written",
        ),
        (vec!["check", &*server.at("copy")], 2, "there is no table ‘copy’"),
        (vec!["check", &*server.at("select 1; commit; drop table copied")], 2, "error in your SQL syntax"),
        (vec!["check", &*server.at("select 1 into outfile '/tmp/never'")], 2, "not one SELECT"),
        (vec!["check", &*server.at("select mail from joined for update")], 2, "READ ONLY"),
        (vec!["check", &*server.at("joined").replace("list#", "list?fast=1#")], 2, "‘fast=1’ is not known"),
        (vec!["check", "mysql://ada@127.0.0.1:1/list#t"], 2, "see whether the server runs there"),
        (vec!["check", "mysql://127.0.0.1#t"], 2, "no database is named"),
        (vec!["check", "mysql://ada:secret@h/x#t"], 2, "a password stands in the address"),
    ] {
        let run = run(&place, &words);
        assert!(run.code == code && run.stderr.contains(told), "{words:?}: {} {}", run.code, run.stderr);
        assert!(!run.stderr.contains("secret"));
    }
    assert!(!server.ask("SHOW TABLES").iter().any(|table| table[0].contains('~')));
    assert_eq!(server.ask("SELECT count(*) FROM parent")[0][0], "0");

    // The password: none, a wrong one, and one from the option file, which names the user as well.
    std::fs::write(
        place.path(".my.cnf"),
        format!("[client]\nuser=ada\npassword=\"{}\"\n", PASSWORD.replace('\\', "\\\\")),
    )
    .unwrap();
    let (home, source) = (place.path(".").display().to_string(), server.at("joined"));
    let without_user = source.replace("ada@", "");
    for (source, variables, told) in [
        (&source, vec![("HOME", "/none")], "Access denied"),
        (&source, vec![("MYSQL_PWD", "wrong")], "Access denied"),
        (&without_user, vec![("HOME", &*home)], ""),
    ] {
        let run = run_with(&place, &["check", source, "--field", "mail", "--figure", "records"], &variables);
        assert_eq!(run.code, if told.is_empty() { 0 } else { 2 }, "{variables:?}: {}", run.stderr);
        assert!(run.stderr.contains(told) && !run.stderr.contains(PASSWORD), "{}", run.stderr);
    }
}

/// A connection that is cut while a table is read or written leaves no half table, and the message says what to do.
#[test]
fn connections_that_are_cut() {
    let Some(server) = MariaDb::start(&[]) else { return };
    let place = Place::with(&[]);
    server
        .execute("CREATE TABLE big AS SELECT seq AS id, CONCAT('member', seq, '@h-works.org') AS mail, REPEAT('x', 200) AS more FROM seq_1_to_400000")
        .unwrap();
    let big = server.at("big");
    let run = run_while(&place, &["check", &big, "-o", "big.csv"], || server.cut("SELECT * FROM `big`"));
    assert!(run.code == 2 && run.stderr.contains("run it again"), "{} {}", run.code, run.stderr);
    assert!(!place.path("big.csv").exists());
    let half = server.at("half");
    let run = run_while(&place, &["check", &big, "-o", &half], || server.cut("LOAD DATA"));
    assert!(run.code == 3 && run.stderr.contains("run it again"), "{} {}", run.code, run.stderr);
    assert_eq!(server.ask("SHOW TABLES"), [["big"]]);
    // What a killed run left is no table, and goes when the table is written.
    server.execute("CREATE TABLE `half~ypogram` (id int)").unwrap();
    let run = run_with(
        &place,
        &["check", &big, "--no-rules", "--field", "mail", "-q", "-o", &half],
        &[("MYSQL_PWD", PASSWORD)],
    );
    assert_eq!(run.code, 0, "{}", run.stderr);
    assert_eq!(server.ask("SHOW TABLES"), [["big"], ["half"]]);
}
