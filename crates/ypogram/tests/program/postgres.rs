//! Tables of a PostgreSQL server as sources and outputs, at a real server that the test starts.

use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use postgres::{Client, NoTls};
use tempfile::TempDir;

use crate::{Place, table};

/// A server with a database of its own; stopped and removed with this.
struct Server {
    child: Child,
    port: u16,
    folder: TempDir,
}

/// Where Debian puts the programs of the server, and where they are otherwise found.
fn programs() -> Option<PathBuf> {
    let versions = std::fs::read_dir("/usr/lib/postgresql").into_iter().flatten().flatten();
    let of_debian = versions.map(|version| version.path().join("bin")).max();
    let found = std::env::var_os("PATH")
        .into_iter()
        .flat_map(|path| std::env::split_paths(&path).collect::<Vec<_>>());
    of_debian.into_iter().chain(found).find(|folder| folder.join("initdb").is_file())
}

/// The server does not run as root: then it runs as the user postgres.
fn as_user(program: &Path) -> Command {
    let is_root =
        Command::new("id").arg("-u").output().is_ok_and(|output| output.stdout.trim_ascii() == b"0");
    if !is_root {
        return Command::new(program);
    }
    // It takes the place of what it runs, so that signals reach that.
    let mut command = Command::new("setpriv");
    command.args(["--reuid=postgres", "--regid=postgres", "--init-groups"]).arg(program);
    command
}

const PASSWORD: &str = "owl-7:\\x";

impl Server {
    /// None where PostgreSQL is not installed.
    fn start(settings: &[&str]) -> Option<Self> {
        let Some(programs) = programs() else {
            println!("PostgreSQL is not installed, so its tables are not tried: apt-get install postgresql");
            return None;
        };
        let folder = TempDir::new().unwrap();
        let data = folder.path().join("data");
        std::fs::write(folder.path().join("password"), PASSWORD).unwrap();
        let _ = Command::new("chown").args(["-R", "postgres"]).arg(folder.path()).output();
        let made = as_user(&programs.join("initdb"))
            .arg("-D")
            .arg(&data)
            .args(["-A", "scram-sha-256", "-U", "ada", "--encoding=UTF8", "--locale=C.UTF-8"])
            .arg(format!("--pwfile={}", folder.path().join("password").display()))
            .output()
            .unwrap();
        assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
        let port = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
        let mut command = as_user(&programs.join("postgres"));
        command.arg("-D").arg(&data).args([
            "-p",
            &port.to_string(),
            "-c",
            "listen_addresses=127.0.0.1",
            "-c",
        ]);
        command.arg(format!("unix_socket_directories={}", folder.path().display())).args(["-c", "fsync=off"]);
        for setting in settings {
            command.args(["-c", setting]);
        }
        let child = command.stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap();
        let server = Server { child, port, folder };
        let start = Instant::now();
        while server.try_client().is_err() {
            assert!(start.elapsed() < Duration::from_secs(60), "the server does not answer");
            std::thread::sleep(Duration::from_millis(50));
        }
        Some(server)
    }

    fn try_client(&self) -> Result<Client, postgres::Error> {
        let mut config = postgres::Config::new();
        config
            .host("127.0.0.1")
            .port(self.port)
            .user("ada")
            .dbname("postgres")
            .password(PASSWORD)
            .connect(NoTls)
    }

    fn client(&self) -> Client {
        self.try_client().unwrap()
    }

    /// The address of its database, with a table behind it.
    fn at(&self, table: &str) -> String {
        format!("postgres://ada@127.0.0.1:{}/postgres#{table}", self.port)
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        // Connections are cut, and it ends at once.
        let _ = Command::new("kill").arg("-QUIT").arg(self.child.id().to_string()).status();
        let _ = self.child.wait();
        let _ = &self.folder;
    }
}

/// Runs the program with the password where PostgreSQL's own programs look for it.
fn run(place: &Place, words: &[&str]) -> crate::Run {
    run_with(place, words, &[("PGPASSWORD", PASSWORD)])
}

fn run_with(place: &Place, words: &[&str], variables: &[(&str, &str)]) -> crate::Run {
    let output = assert_cmd::Command::cargo_bin("ypogram")
        .unwrap()
        .current_dir(place.path("."))
        .env_remove("PGPASSWORD")
        .envs(variables.iter().copied())
        .args(words)
        .output()
        .unwrap();
    let text = |bytes| String::from_utf8(bytes).unwrap();
    crate::Run {
        code: output.status.code().unwrap_or(-1),
        stdout: text(output.stdout),
        stderr: text(output.stderr),
    }
}

#[test]
fn tables_as_sources_and_outputs() {
    let Some(server) = Server::start(&[]) else { return };
    let (place, mut client) = (Place::with_demo(), server.client());
    // The demo into a table and out again is the demo.
    let columns = "member_no,name,email,phone,membership,joined,notes";
    let made =
        run(&place, &["check", "members.csv", "--columns", columns, "-q", "-o", &server.at("members")]);
    assert_eq!(made.code, 0, "{}", made.stderr);
    let of_file = place.run("check members.csv -q");
    let of_table = run(&place, &["check", &server.at("members"), "-q"]);
    assert_eq!(table(&of_table.stdout), table(&of_file.stdout), "{}", of_table.stderr);
    for command in ["survey", "dedupe", "links", "domains"] {
        let figures = |source: &str| {
            let run = run(&place, &[command, source, "--json"]);
            assert_eq!(run.code, 0, "{command}: {}", run.stderr);
            serde_json::from_str::<serde_json::Value>(&run.stdout).unwrap()
        };
        let (file, on_server) = (figures("members.csv"), figures(&server.at("members")));
        for figure in ["records", "addresses", "mailboxes", "domains", "groups"] {
            assert_eq!(file[figure], on_server[figure], "{command}: {figure}");
            assert_eq!(file["counts"][figure], on_server["counts"][figure], "{command}: {figure}");
        }
    }
    let cleaned = run(&place, &["clean", &server.at("members"), "-q"]);
    assert_eq!(
        (cleaned.code, place.path("members-cleaned/kept.csv").exists()),
        (0, true),
        "{}",
        cleaned.stderr
    );
    let compared = run(
        &place,
        &[
            "compare",
            "loans.csv",
            "--with",
            &server.at("members"),
            "--known-field",
            "email",
            "--figure",
            "known",
        ],
    );
    let with_file = place.run("compare loans.csv --with members.csv --known-field email --figure known");
    assert_eq!(compared.stdout, with_file.stdout, "{}", compared.stderr);
    let listed = run(
        &place,
        &[
            "check",
            "loans.csv",
            "--list",
            &format!("us={},class=member", server.at("members")),
            "--figure",
            "class.member",
        ],
    );
    assert!(listed.stdout.trim().parse::<u64>().unwrap() > 5, "{}", listed.stderr);

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
            "data-modifying",
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
    let Some(server) = Server::start(&[]) else { return };
    let (place, mut client) = (Place::with(&[]), server.client());
    client.batch_execute(
        "CREATE TABLE big AS SELECT n AS id, 'member' || n || '@h-works.org' AS mail, repeat('x', 200) AS more FROM generate_series(1, 400000) AS n",
    ).unwrap();
    let cut = |words: &[&str], from: &str| {
        std::thread::scope(|scope| {
            let job = scope.spawn(|| run(&place, words));
            let mut client = server.client();
            let begun = format!(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = 'ypogram' AND query LIKE '{from}%'"
            );
            let start = Instant::now();
            while client.query(&begun, &[]).unwrap().is_empty() {
                assert!(start.elapsed() < Duration::from_secs(30) && !job.is_finished(), "{words:?}");
                std::thread::sleep(Duration::from_millis(2));
            }
            job.join().unwrap()
        })
    };
    let run = cut(&["check", &server.at("big"), "-o", "big.csv"], "COPY (SELECT");
    assert!(run.code == 2 && run.stderr.contains("run it again"), "{} {}", run.code, run.stderr);
    assert!(!place.path("big.csv").exists());
    let run = cut(&["check", &server.at("big"), "-o", &server.at("half")], "COPY \"half\"");
    assert!(run.code == 3 && run.stderr.contains("run it again"), "{} {}", run.code, run.stderr);
    assert!(client.query_one("SELECT to_regclass('half') IS NULL", &[]).unwrap().get::<_, bool>(0));
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
        chmod 600 server.key && (chown -R postgres . || true) && chmod 755 .";
    let made = Command::new("sh").args(["-c", script]).current_dir(keys.path()).output();
    if !made.is_ok_and(|output| output.status.success()) {
        println!("openssl is not installed, so encrypted connections are not tried");
        return;
    }
    let file = |name: &str| keys.path().join(name).display().to_string();
    let settings = [
        "ssl=on".to_owned(),
        format!("ssl_cert_file={}", file("server.pem")),
        format!("ssl_key_file={}", file("server.key")),
    ];
    let Some(server) = Server::start(&settings.iter().map(String::as_str).collect::<Vec<_>>()) else {
        return;
    };
    let place = Place::with(&[]);
    server.client().batch_execute("CREATE TABLE t AS SELECT 'ada@h-works.org' AS mail").unwrap();
    let is_encrypted = "select 'x@h-works.org' as mail, ssl from pg_stat_ssl where pid = pg_backend_pid()";
    for (host, options, told) in [
        ("localhost", format!("sslmode=require&sslrootcert={}", file("ca.pem")), ",t"),
        (
            "localhost",
            format!("sslmode=verify-full&sslrootcert={}", file("other.pem")),
            "does not prove who it is",
        ),
        ("localhost", "sslmode=require".to_owned(), "does not prove who it is"),
        ("127.0.0.1", format!("sslmode=require&sslrootcert={}", file("ca.pem")), "does not prove who it is"),
        ("localhost", format!("sslrootcert={}", file("ca.pem")), ",t"),
        ("localhost", "sslmode=disable".to_owned(), ",f"),
        ("localhost", format!("sslrootcert={}", file("names")), "no certificate in it"),
    ] {
        let source = format!("postgres://ada@{host}:{}/postgres?{options}#{is_encrypted}", server.port);
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
            None => assert!(run.code == 2 && run.stderr.contains(told), "{host} {options}: {}", run.stderr),
        }
    }
}
